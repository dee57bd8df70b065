"""What still travels along in a document that nobody sees: cropped-off parts, unused pictures."""

from collections.abc import Iterable
from dataclasses import dataclass

from harnet.core.documents.document import DocumentFacts
from harnet.core.documents.images import ImageKind, ImageOnPage
from harnet.core.measure.rounding import half_up

_LEAST_CROPPED = 0.01
"""Common practice, no source: less than a hundredth is a frame's rounding."""


@dataclass(frozen=True, slots=True)
class CroppedPart:
    """A picture of which some is cut off everywhere it is shown: the least that is, as a share."""

    picture: ImageOnPage
    share: float

    @property
    def about_bytes(self) -> int:
        """About as many bytes as the cut-off part takes of the file."""
        return half_up(self.picture.size_bytes * self.share)


def cropped_share(picture: ImageOnPage) -> float:
    """The share of a picture that is cut off and still in the file; 0 where that is nothing."""
    if picture.kind is not ImageKind.RASTER or picture.unseen:
        return 0.0
    share = 1.0 - picture.visible_share
    return share if share >= _LEAST_CROPPED else 0.0


def cropped_parts(pictures: Iterable[ImageOnPage]) -> list[CroppedPart]:
    """Each picture file that is cut off wherever it is seen, by its largest view, in order."""
    least: dict[str, CroppedPart] = {}
    whole: set[str] = set()
    for one in pictures:
        if one.kind is not ImageKind.RASTER or one.unseen or not one.part:
            continue
        share = cropped_share(one)
        if not share:
            whole.add(one.part)
        elif one.part not in least or share < least[one.part].share:
            least[one.part] = CroppedPart(one, share)
    return [one for part, one in least.items() if part not in whole]


def travelling_bytes(read: DocumentFacts, pictures: Iterable[ImageOnPage]) -> int:
    """About how many bytes of a document nobody sees."""
    cropped = sum(one.about_bytes for one in cropped_parts(pictures))
    unused = sum(one.size_bytes for one in read.leftovers)
    return cropped + unused + sum(one.spare_bytes for one in read.repeated)
