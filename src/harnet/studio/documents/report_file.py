"""A report of a PDF written to a file; its ending says in which form."""

import json
from functools import partial
from pathlib import Path

from harnet.core.errors import ValueOutOfRange
from harnet.studio.documents.drawing import page_of_file
from harnet.studio.documents.report import PdfReport, report_as_csv, report_as_json
from harnet.studio.documents.report_html import pdf_report_as_html
from harnet.studio.documents.report_pdf import pdf_report_as_pdf

ENDINGS = (".html", ".pdf", ".csv", ".json")


def write_report_file(report: PdfReport, source: Path, target: Path) -> None:
    """Writes the report on a PDF; `source` is the PDF, for pictures of its samples.

    Raises:
        ValueOutOfRange: the ending is none of `ENDINGS`.
        OSError: it cannot be written.
    """
    drawing = partial(page_of_file, source, report.read.name)
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
        raise ValueOutOfRange(f"a report is written as {', '.join(ENDINGS)}, not “{target.suffix}”")
