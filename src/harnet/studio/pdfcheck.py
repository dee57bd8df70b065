"""The check of any PDF: every painted image against a target."""

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from harnet.core.picture import Colour
from harnet.core.target import Target
from harnet.core.verdict import Verdict, verdict_of
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
        """How many images have each verdict, worst first."""
        return counts_of(checked.verdict for checked in self.images)

    @property
    def falls_short(self) -> bool:
        """Whether some image is coarse or thin."""
        return any(checked.verdict.falls_short for checked in self.images)

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
        return ["page", *figures, "verdict", "colour", "bits", "width_pt", "height_pt"]


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
