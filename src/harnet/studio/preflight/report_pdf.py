"""The report of a job as PDF: in words and tables, with pictures of the poor samples."""

from harnet.core.measure.units import Unit
from harnet.core.measure.wording import (
    counted,
    density_text,
    ppi_text,
    px_text,
    share_text,
    short_size_text,
)
from harnet.media.pagedrawing.report import Heading, Part, ReportEntry, ReportTable, write_report
from harnet.media.pixels.previews import SPOT, preview_name, rung
from harnet.store.tables.jobs import Item
from harnet.studio.common.studio import Studio
from harnet.studio.layout.placed import Placed
from harnet.studio.preflight.checking import Listed
from harnet.studio.preflight.report import Report, rules_asked

_SPOT_PX = 260
MOST_SPOTS = 60
"""Pictures of samples; findings beyond are listed in words."""


def report_as_pdf(studio: Studio, report: Report) -> bytes:
    """The report as the bytes of a PDF."""
    target = report.target
    gate = "held" if report.is_held else "open"
    verdicts = ", ".join(
        f"{count} {verdict.value}" for verdict, count in report.counts.verdicts.items() if count
    )
    parts: list[Part] = [
        Heading(
            report.title,
            f"Checked {report.made_at:%-d %B %Y, %H:%M} UTC against {target.spoken},"
            f" {ppi_text(target.density_ppi)} ppi ± {share_text(target.tolerance)}",
        ),
        ReportEntry(
            f"Gate {gate}: {counted(report.counts.open_findings, 'finding')},"
            f" {report.counts.blocking} blocking, {report.counts.accepted} accepted",
            f"{counted(report.scope.pictures, 'picture')},"
            f" {counted(report.scope.texts, 'text frame')} and"
            f" {counted(report.scope.pages, 'page')} were checked against"
            f" {counted(len(rules_asked(target)), 'rule')}. Pictures: {verdicts or 'none'}.",
        ),
    ]
    if report.passed:
        parts.append(Heading("Exported despite blocking findings"))
        parts += [
            ReportEntry(
                one.file_name,
                f"{one.name}, {one.requested_at:%-d %B %Y, %H:%M} UTC: {one.reason}"
                f" ({'; '.join(one.findings)})",
            )
            for one in report.passed
        ]
    if report.findings:
        parts.append(Heading("Found"))
        spots = report.placed_by_item
        for index, listed in enumerate(report.findings):
            placed = spots.get(listed.row.item_id) if index < MOST_SPOTS else None
            parts.append(_found(studio, listed, placed))
    if report.accepted:
        parts.append(Heading("Accepted"))
        parts += [_accepted(listed) for listed in report.accepted]
    if report.placed:
        parts.append(Heading("Every placed picture", "the farthest short of the target first"))
        rows = [row_of(placed, report.unit) for placed in report.placed]
        parts.append(ReportTable(HEADS, rows, (26, 6, 15, 15, 12, 10, 9, 11)))
    parts.append(Heading("Checked for"))
    parts.append(
        ReportTable(
            ("Rule", "Severity"),
            [
                (rule.looks_for, target.severity_of(rule.id, rule.severity).value)
                for rule in rules_asked(target)
            ],
            (5, 1),
        )
    )
    return write_report(f"{report.title}: report", parts)


def _found(studio: Studio, listed: Listed, placed: Placed | None) -> ReportEntry:
    row = listed.row
    return ReportEntry(
        f"Page {listed.page_number} · {row.name} · {row.headline} ({listed.severity.value})",
        row.sentence,
        spot_on(studio, placed),
    )


def spot_on(studio: Studio, placed: Placed | None) -> bytes | None:
    """A square of the picture as it would print; None for vector pictures and lost previews."""
    if placed is None or placed.item.picture is None or placed.figures.judged_ppi is None:
        return None
    try:
        with studio.blobs.open_preview(preview_name(placed.item.picture.sha256, SPOT)) as file:
            return rung(file.read(), max(1, round(placed.figures.judged_ppi)), _SPOT_PX)
    except FileNotFoundError:
        return None


def _accepted(listed: Listed) -> ReportEntry:
    row, kept = listed.row, listed.acceptance
    who = f"{kept.name}, {kept.accepted_at:%-d %B %Y}: {kept.reason}" if kept else ""
    return ReportEntry(f"Page {listed.page_number} · {row.name} · {row.headline}", who)


HEADS = (
    *("Picture", "Page", "Pixels", "Size on page", "Effective ppi", "Headroom", "Verdict"),
    "File",
)
"""The columns of the table of placed pictures."""


def row_of(placed: Placed, unit: Unit) -> tuple[str, ...]:
    """A placed picture in words, below `HEADS`; its size in a unit."""
    figures, item = placed.figures, placed.item
    frame = placed.placement.frame
    return (
        placed.name,
        str(placed.page_number),
        _pixels(item),
        short_size_text(frame.width, frame.height, unit),
        density_text(figures.density) if figures.density else "vector",
        "any" if figures.headroom is None else share_text(figures.headroom, signed=True),
        figures.verdict.value,
        placed.file_state.value,
    )


def _pixels(item: Item) -> str:
    facts = item.picture.facts if item.picture else {}
    return px_text(facts.get("px_w"), facts.get("px_h"))
