"""The check of any PDF: every painted image against a target."""

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from harnet.core.density import headroom
from harnet.core.geometry import Matrix
from harnet.core.picture import Colour
from harnet.core.target import OWN, Target
from harnet.core.verdict import Verdict, verdict_of
from harnet.core.wording import ppi_text, share_text
from harnet.media.pdf.notes import Note
from harnet.media.pdf.painted import PaintedImage, painted_images


@dataclass(frozen=True, slots=True)
class CheckedImage:
    """A painted image and its verdict."""

    image: PaintedImage
    verdict: Verdict

    def as_json(self) -> dict[str, object]:
        """The row of the published form; densities in ppi to a thousandth, lengths in points."""
        image, density = self.image, self.image.density
        return {
            "page": image.page_number,
            "px_w": image.px_w,
            "px_h": image.px_h,
            "ppi_x": round(density.x, 3),
            "ppi_y": round(density.y, 3),
            "ppi_min": round(density.worst, 3),
            "verdict": self.verdict.value,
            "colour": image.colour.value,
            "bits": image.bits,
            "width_pt": round(image.width_pt, 4),
            "height_pt": round(image.height_pt, 4),
            "source": image.source,
            "unseen": image.unseen,
        }


@dataclass(frozen=True, slots=True)
class PdfCheck:
    """What a check of a PDF found."""

    file: str
    pages: int
    target: Target
    images: tuple[CheckedImage, ...]

    @property
    def summary(self) -> dict[str, int]:
        """How many images that are seen have each verdict, worst first."""
        return counts_of(checked.verdict for checked in self.images if not checked.image.unseen)

    @property
    def falls_short(self) -> bool:
        """Whether some image is coarse or thin."""
        return any(
            checked.verdict.falls_short for checked in self.images if not checked.image.unseen
        )

    def as_json(self) -> dict[str, object]:
        """The whole check in the published form."""
        return {
            "file": self.file,
            "pages": self.pages,
            "target": target_json(self.target),
            "images": [checked.as_json() for checked in self.images],
            "summary": self.summary,
        }

    @staticmethod
    def columns() -> list[str]:
        """The names of a row's figures, in order."""
        figures = ["px_w", "px_h", "ppi_x", "ppi_y", "ppi_min"]
        sizes = ["width_pt", "height_pt"]
        return ["page", *figures, "verdict", "colour", "bits", *sizes, "source", "unseen"]


def counts_of(verdicts: Iterable[Verdict]) -> dict[str, int]:
    """How often each verdict occurs, worst first, zeros included."""
    counts = dict.fromkeys((verdict.value for verdict in Verdict), 0)
    for verdict in verdicts:
        counts[verdict.value] += 1
    return counts


def target_json(target: Target) -> dict[str, object]:
    """A target in the published form, in ppi."""
    return {
        "key": target.key,
        "name": target.name,
        "density_ppi": target.density_ppi,
        "bilevel_ppi": target.bilevel_ppi,
        "floor_ppi": round(target.floor_ppi, 4),
        "ceiling_ppi": target.ceiling_ppi,
        "tolerance": target.tolerance,
    }


def check_pdf(path: Path, name: str, target: Target) -> PdfCheck:
    """Every image that a PDF paints, judged.

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    pages, painted = painted_images(path, name)
    images = tuple(
        CheckedImage(image, verdict_of(image.density, target, image.colour is Colour.BILEVEL))
        for image in painted
    )
    return PdfCheck(name, pages, target, images)


_NOTE_COLOURS = {Verdict.COARSE: "#7a1f3d", Verdict.THIN: "#a84808"}


def note_text(ppi: float, limits: Target, verdict: Verdict) -> str:
    """What a note says of a picture that falls short: what it has, what is wanted, how far off."""
    short = share_text(abs(headroom(ppi, limits.density_ppi)))
    meant = "" if limits.key == OWN else f" for {limits.name.lower()}"
    wanted = f"{ppi_text(limits.density_ppi)} ppi wanted{meant}"
    return f"{ppi_text(ppi)} ppi, {verdict.value}; {wanted}, {short} short."


def note_on(page_number: int, matrix: Matrix, ppi: float, limits: Target, verdict: Verdict) -> Note:
    """The note on a picture that falls short."""
    text = note_text(ppi, limits, verdict)
    return Note(page_number, matrix, text, _NOTE_COLOURS.get(verdict, "#566573"))


def notes_of(check: PdfCheck) -> list[Note]:
    """A note for every image that is seen and falls short."""
    notes = []
    for one in check.images:
        image = one.image
        if one.verdict.falls_short and not image.unseen:
            limits = check.target.for_bits(image.colour is Colour.BILEVEL)
            notes.append(
                note_on(image.page_number, image.matrix, image.density.judged, limits, one.verdict)
            )
    return notes
