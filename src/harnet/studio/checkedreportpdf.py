"""The report of a checked PDF as PDF: in words and tables, with pictures of the poor spots."""

from collections.abc import Callable

from harnet.core.preflight.finding import Finding
from harnet.core.verdict import Verdict
from harnet.core.wording import counted, density_text, ppi_text, px_text, share_text
from harnet.media.errors import UnreadableFile
from harnet.media.pagespot import page_spot
from harnet.media.reportpdf import Heading, Part, Rows, Said, write_report
from harnet.studio.checkedpdfs import density_of
from harnet.studio.checkedreport import PdfReport
from harnet.studio.errors import NotThere
from harnet.studio.pdfspots import spot_of
from harnet.studio.pdfsubjects import size_of_painted

PageDrawing = Callable[[int], bytes]
"""Draws a page by its number, as PNG."""
_SPOT_PX = 320
_MOST_SPOTS, _MOST_FINDINGS, _MOST_ROWS = 40, 400, 2_000
"""Findings and pictures beyond are counted; the CSV holds them all."""


def pdf_report_as_pdf(report: PdfReport, page_drawing: PageDrawing) -> bytes:
    """The report as the bytes of a PDF."""
    target = report.target
    verdicts = ", ".join(
        f"{count} {verdict.value}" for verdict, count in report.counts.items() if count
    )
    hidden = f"; {counted(report.unseen, 'picture')} cannot be seen" if report.unseen else ""
    parts: list[Part] = [
        Heading(
            report.file,
            f"{counted(len(report.pages), 'page')}, judged by {target.name.lower()},"
            f" {ppi_text(target.density_ppi)} ppi ± {share_text(target.tolerance)}",
        ),
        Said(
            f"{counted(len(report.findings), 'finding')} on"
            f" {counted(len(report.pictures), 'picture')}",
            f"Pictures: {verdicts or 'none'}{hidden}.",
        ),
    ]
    parts += _found(report, page_drawing)
    if report.pictures:
        parts.append(Heading("Every picture", "in the order in which they are painted"))
        parts.append(_table(report))
        if len(report.pictures) > _MOST_ROWS:
            more = counted(len(report.pictures) - _MOST_ROWS, "picture")
            parts.append(Said(f"and {more} more", "The report as CSV lists them all."))
    return write_report(f"{report.file}: report", parts)


def _found(report: PdfReport, page_drawing: PageDrawing) -> list[Part]:
    if not report.findings:
        return [Said("Nothing was found", "Every rule that looks at PDFs was asked.")]
    parts: list[Part] = [Heading("Found")]
    spots = _Spots(report, page_drawing)
    for finding in report.findings[:_MOST_FINDINGS]:
        parts.append(Said(finding_text(finding), finding.sentence, spots.on(finding)))
    if len(report.findings) > _MOST_FINDINGS:
        more = counted(len(report.findings) - _MOST_FINDINGS, "finding")
        parts.append(Said(f"and {more} more", "The report as CSV lists them all."))
    return parts


def finding_text(finding: Finding) -> str:
    """Where something was found, what, and how much it matters."""
    where = f"Page {finding.page_number} · {finding.name}" if finding.item_id else "The PDF"
    return f"{where} · {finding.headline} ({finding.severity.value})"


class _Spots:
    """Pictures of spots, each page drawn once; none beyond a bound."""

    def __init__(self, report: PdfReport, page_drawing: PageDrawing) -> None:
        self._pictures = {picture.id: picture for picture in report.pictures}
        self._pages = report.pages
        self._page_drawing = page_drawing
        self._drawn: dict[int, bytes | None] = {}
        self._count = 0

    def on(self, finding: Finding) -> bytes | None:
        picture = self._pictures.get(finding.item_id)
        if picture is None or self._count >= _MOST_SPOTS:
            return None
        page = self._page(picture.page_number)
        if page is None:
            return None
        self._count += 1
        spot = spot_of(picture, self._pages[picture.page_number - 1])
        part = (
            spot.left / spot.page_w_pt,
            spot.top / spot.page_h_pt,
            spot.width / spot.page_w_pt,
            spot.height / spot.page_h_pt,
        )
        return page_spot(page, part, _SPOT_PX)

    def _page(self, number: int) -> bytes | None:
        if number not in self._drawn:
            try:
                self._drawn[number] = self._page_drawing(number)
            except (UnreadableFile, NotThere):
                # The words stand without the picture of the spot.
                self._drawn[number] = None
        return self._drawn[number]


def _table(report: PdfReport) -> Rows:
    rows = []
    pairs = zip(report.pictures[:_MOST_ROWS], report.lines, strict=False)
    for picture, line in pairs:
        rows.append(
            (
                str(picture.page_number),
                px_text(picture.px_w, picture.px_h),
                size_of_painted(picture),
                density_text(density_of(picture)),
                _verdict(line.verdict, picture.unseen),
                f"{picture.colour}, {picture.bits} bit",
            )
        )
    heads = ("Page", "Pixels", "Size on page", "Effective ppi", "Verdict", "Colour")
    return Rows(heads, rows, (6, 16, 20, 14, 16, 14))


def _verdict(verdict: Verdict, unseen: str) -> str:
    return unseen or verdict.value
