"""A report of a document written to a file; its ending says in which form."""

import json
from pathlib import Path

from harnet.core.errors import ValueOutOfRange
from harnet.studio.documents.drawing import drawings_of_file
from harnet.studio.documents.reporting.html import document_report_as_html
from harnet.studio.documents.reporting.pdf import document_report_as_pdf
from harnet.studio.documents.reporting.report import DocumentReport, report_as_csv, report_as_json

ENDINGS = (".html", ".pdf", ".csv", ".json")


def write_report_file(report: DocumentReport, source: Path, target: Path) -> None:
    """Writes the report on a document; `source` is the document, for pictures of its samples.

    Raises:
        ValueOutOfRange: the ending is none of `ENDINGS`.
        OSError: it cannot be written.
    """
    drawing = drawings_of_file(source, report.read)
    ending = target.suffix.lower()
    if ending == ".json":
        text = json.dumps(report_as_json(report), ensure_ascii=False, indent=1)
        target.write_text(text + "\n", encoding="utf-8")
    elif ending == ".csv":
        target.write_text(report_as_csv(report), encoding="utf-8", newline="")
    elif ending == ".html":
        target.write_text(document_report_as_html(report, drawing), encoding="utf-8")
    elif ending == ".pdf":
        target.write_bytes(document_report_as_pdf(report, drawing))
    else:
        raise ValueOutOfRange(f"a report is written as {', '.join(ENDINGS)}, not “{target.suffix}”")
