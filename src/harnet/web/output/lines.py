"""Lines of the list of outputs: settings in words, bytes, time, what print houses answered."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from harnet.core.measure.wording import bytes_text, counted, grouped, ppi_text
from harnet.core.output.kind import PACK, PDF
from harnet.core.output.page_images import ImageColour, ImageFormat, ImageSettings, SizeBy
from harnet.core.output.pdf_settings import (
    PdfColour,
    PdfSettings,
    PdfStandard,
    PictureMode,
    settings_from_values,
)
from harnet.store.tables.output import Output
from harnet.studio.output.outputs import asked_images
from harnet.studio.output.print_houses import WAITS
from harnet.studio.preflight.gate import GateOverride, passed_in
from harnet.studio.tasks.states import DONE, RUNNING

_MODES = {
    PictureMode.KEEP: "every pixel kept",
    PictureMode.TRIM: "excess trimmed",
    PictureMode.LIGHT: "light",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class OutputLine:
    """An output as the list shows it."""

    output: Output
    words: str
    took: str
    passed: GateOverride | None
    kept: int
    answers: Sequence[dict[str, Any]]

    @property
    def is_done(self) -> bool:
        """Whether there is a file to take."""
        return self.output.state == DONE

    @property
    def is_running(self) -> bool:
        """Whether the page should ask again soon."""
        return self.output.state in RUNNING or any(one["state"] == WAITS for one in self.answers)


def line_of(output: Output) -> OutputLine:
    """An output's line."""
    receipt = output.receipt or {"rows": []}
    took = ""
    if output.finished_at is not None:
        seconds = (output.finished_at - output.requested_at).total_seconds()
        took = f"{seconds:.0f} s" if seconds < 100 else f"{seconds / 60:.0f} min"
    return OutputLine(
        output=output,
        words=settings_words(output),
        took=took,
        passed=passed_in(output),
        kept=sum(row["is_kept"] for row in receipt["rows"]),
        answers=list(reversed(output.answers)),
    )


def settings_words(output: Output) -> str:
    """An output's settings in words."""
    if output.kind in (PDF, PACK):
        words = pdf_words(settings_from_values(output.settings.get("pdf", {})))
        return words if output.kind == PDF else f"pack with the PDF: {words}"
    return ", ".join(_image_words(asked_images(output.settings)))


def pdf_words(settings: PdfSettings) -> str:
    """A PDF's settings in words."""
    words = [_MODES[settings.mode]]
    if settings.mode is PictureMode.TRIM:
        words[0] += f" to {ppi_text(settings.to_ppi)} ppi above {settings.threshold:g} × that"
        words.append("lossless" if settings.quality is None else f"JPEG {settings.quality}")
    if settings.drops_cropped and settings.mode is not PictureMode.KEEP:
        words.append("cropped-off parts dropped")
    if settings.standard is PdfStandard.X4:
        words.append("PDF/X-4")
    if settings.colour is PdfColour.INTENT:
        words.append("converted to the output intent")
    marks = (settings.crop_marks, settings.registration_marks)
    if any(marks):
        words.append("crop and registration marks" if all(marks) else "marks")
    if settings.pages != "all":
        words.append(f"pages {settings.pages}")
    return ", ".join(words)


def _image_words(settings: ImageSettings) -> list[str]:
    words = [settings.format.value.upper()]
    if settings.colour is ImageColour.CMYK:
        words.append("CMYK")
    if settings.size_by is SizeBy.WIDTH or settings.size_by is SizeBy.HEIGHT:
        side = "wide" if settings.size_by is SizeBy.WIDTH else "high"
        words.append(f"{grouped(settings.edge_px)} px {side}")
    else:
        words.append(f"{ppi_text(settings.density_ppi)} ppi")
    if settings.size_by is SizeBy.BYTES:
        words.append(f"under {bytes_text(settings.limit_bytes)}")
    elif settings.format is ImageFormat.JPEG:
        words.append(f"quality {settings.quality}")
    words.append("all pages" if settings.pages == "all" else f"pages {settings.pages}")
    return words


def answer_words(answer: dict[str, Any]) -> str:
    """A print house's answer in a line."""
    if answer["state"] == WAITS:
        return "on its way"
    looked_at = ", ".join(answer.get("looked_at", []))
    found = counted(len(answer["reasons"]), "reason") if answer["reasons"] else ""
    return " · ".join(part for part in (answer["state"], found, looked_at) if part)
