"""What Harnet asks of a picture agency, and what can go wrong with one."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Protocol

from harnet.core.errors import HarnetError


class AgencyError(HarnetError):
    """The agency did not do what it was asked; the text says what to do instead."""

    code = "agency-error"


class AgencySilent(AgencyError):
    """It did not answer in time; try again later."""

    code = "agency-silent"


class AgencyRefusal(AgencyError):
    """It will not supply the picture, and says why; choose another one."""

    code = "agency-refusal"


class DeliveryBroke(AgencyError):
    """The delivery ended before its last byte; fetch it again."""

    code = "delivery-broke"


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """A picture in an agency's catalogue."""

    key: str
    title: str
    words: tuple[str, ...]
    px_w: int
    px_h: int
    licence: str
    credit: str

    @property
    def shape(self) -> str:
        """landscape, portrait or square."""
        if self.px_w == self.px_h:
            return "square"
        return "landscape" if self.px_w > self.px_h else "portrait"


@dataclass(frozen=True, slots=True)
class AgencySearch:
    """What is looked for; what is left empty is left open."""

    words: str = ""
    shape: str = ""
    least_px: int = 0
    """The least number of pixels along the longer edge."""
    licence: str = ""

    def fits(self, offer: Offer) -> bool:
        """Whether an offer is what is looked for; each word may begin a word of the offer's."""
        known = {word.lower() for word in (*offer.words, *offer.title.split())}
        return (
            all(any(one.startswith(word) for one in known) for word in self.words.lower().split())
            and self.shape in ("", offer.shape)
            and max(offer.px_w, offer.px_h) >= self.least_px
            and self.licence in ("", offer.licence)
        )


@dataclass(frozen=True, slots=True)
class Delivery:
    """A picture on its way: its file's name, its promised size, and its bytes."""

    file_name: str
    size_bytes: int
    blocks: Iterator[bytes]


class Agency(Protocol):
    """A picture agency; every method may raise AgencyTrouble."""

    @property
    def name(self) -> str:
        """What it is called."""

    def licences(self) -> list[str]:
        """The licences that occur in its catalogue."""

    def search(self, wish: AgencySearch) -> list[Offer]:
        """The offers that fit."""

    def offer(self, key: str) -> Offer:
        """One offer."""

    def preview(self, key: str) -> bytes:
        """A small JPEG of an offer."""

    def deliver(self, key: str) -> Delivery:
        """The picture itself; its blocks may come slowly, or break off."""
