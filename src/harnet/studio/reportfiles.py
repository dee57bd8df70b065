"""A report of a PDF written to a file; its ending says in which form."""

import json
import tempfile
from functools import partial
from pathlib import Path

from harnet.core.errors import ValueOutOfRange
from harnet.media.bounded import work_apart
from harnet.studio.checkedreport import PdfReport, report_as_csv, report_as_json
from harnet.studio.checkedreporthtml import pdf_report_as_html
from harnet.studio.checkedreportpdf import pdf_report_as_pdf
from harnet.studio.pdfpages import PAGE_MEMORY_BYTES, PAGE_SECONDS, page_order

ENDINGS = (".html", ".pdf", ".csv", ".json")


def write_report_file(report: PdfReport, source: Path, target: Path) -> None:
    """Writes the report on a PDF; `source` is the PDF, for pictures of its spots.

    Raises:
        ValueOutOfRange: the ending is none of `ENDINGS`.
        OSError: it cannot be written.
    """
    drawing = partial(_page_of_file, source, report.file)
    ending = target.suffix.lower()
    if ending == ".json":
        text = json.dumps(report_as_json(report), ensure_ascii=False, indent=1)
        target.write_text(text + "\n", encoding="utf-8")
    elif ending == ".csv":
        target.write_text(report_as_csv(report), encoding="utf-8", newline="")
    elif ending == ".html":
        target.write_text(pdf_report_as_html(report, drawing), encoding="utf-8")
    elif ending == ".pdf":
        target.write_bytes(pdf_report_as_pdf(report, drawing))
    else:
        raise ValueOutOfRange(
            f"a report is written as {', '.join(ENDINGS)}, not as “{target.suffix}”"
        )


def _page_of_file(source: Path, name: str, number: int) -> bytes:
    with tempfile.TemporaryDirectory(prefix="harnet-") as folder:
        look = Path(folder) / "look.png"
        order = page_order(name, number) | {"path": str(source), "look": str(look)}
        work_apart(
            "harnet.media.pagelook",
            order,
            name=name,
            seconds=PAGE_SECONDS,
            memory_bytes=PAGE_MEMORY_BYTES,
        )
        return look.read_bytes()
