"""Keeping figures and findings right: whatever an edit touched is judged again, and only that."""

from collections.abc import Callable, Iterable, Mapping, Sequence, Set
from pathlib import Path
from typing import Any

from sqlalchemy import Select, bindparam, delete, or_, select, update
from sqlalchemy.orm import Session, attributes, object_session

from harnet.core.ledger.ruler_scale import ruler_step
from harnet.core.measure.verdict import Verdict
from harnet.core.preflight.check import RULES_VERSION
from harnet.core.preflight.finding import Finding
from harnet.core.preflight.page_rules import HIDDEN_PICTURE
from harnet.core.preflight.rules import findings_of, rule_rank
from harnet.core.preflight.subject import FileState
from harnet.store.acceptance import acceptances_on, still_holds
from harnet.store.blobs import IN_STORE
from harnet.store.bucket_folder import BUCKET
from harnet.store.bulk import insert_rows
from harnet.store.changed_rows import take_changed_rows
from harnet.store.history import lock_jobs
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture, Shelf
from harnet.store.tables.preflight import FindingRow, Judgement
from harnet.store.tally import Tally
from harnet.studio.jobs.jobs import target_of
from harnet.studio.judging.subjects import subjects_on
from harnet.studio.layout.placed import Placed, has_own_target
from harnet.studio.pictures.picture import facts_of_picture, remember_file, state_of

_VERDICTS = list(Verdict)
_PAGES_AT_ONCE = 50
_MOST_PAGES_ITEM_BY_ITEM = 8
_Rows = list[dict[str, Any]]


Tell = Callable[[int], None]
"""Hears how many pages are judged; what it raises ends the judging."""


def settle(session: Session, tell: Tell | None = None) -> None:
    """Judges what this transaction touched; costs nothing where that is nothing.

    Of a page on which only items were changed, the others are judged anew only where one of those
    hides them, or something was found to.
    """
    changed_rows = take_changed_rows(session)
    if not changed_rows:
        return
    pages = set(changed_rows.pages)
    if changed_rows.pictures:
        using = select(Item.page_id).where(Item.picture_id.in_(changed_rows.pictures)).distinct()
        pages.update(session.scalars(using))
    if changed_rows.accepted:
        on_page = select(Item.page_id).where(Item.id.in_(changed_rows.accepted))
        pages.update(session.scalars(on_page))
    if changed_rows.jobs:
        pages.update(session.scalars(select(Page.id).where(Page.job_id.in_(changed_rows.jobs))))
    for job_id, first in changed_rows.order.items():
        pages.update(session.scalars(_beside_from(job_id, first)))
    few = {page: items for page, items in changed_rows.items.items() if page not in pages}
    if len(few) > _MOST_PAGES_ITEM_BY_ITEM:
        pages.update(few)
        few = {}
    judge_pages(session, pages, tell)
    _judge(session, sorted(few), few)


def _beside_from(job_id: int, first: int) -> Select[int]:
    """The pages of a job with facing pages whose sides, or page beside, may be others.

    A page that lies alone is judged alike wherever it stands among the others.
    """
    wanted = select(Page.id).join(Page.job).where(Page.job_id == job_id, Job.is_facing)
    return wanted.where(Page.position >= first - 1)


def settle_job(job: Job) -> None:
    """Judges what the job's transaction touched."""
    session = object_session(job)
    assert session is not None
    settle(session)


def judge_pages(session: Session, page_ids: Iterable[int], tell: Tell | None = None) -> None:
    """Finds figures and findings of everything on these pages and keeps them."""
    wanted = sorted(page_ids)
    if tell is None:
        _judge(session, wanted)
        return
    for done in range(0, len(wanted), _PAGES_AT_ONCE):
        tell(done)
        _judge(session, wanted[done : done + _PAGES_AT_ONCE])
    tell(len(wanted))


def _judge(
    session: Session, wanted: list[int], changed: Mapping[int, Set[int]] | None = None
) -> None:
    """Judges pages; with `changed` only those of their items and what they may hide, by page."""
    if not wanted:
        return
    with session.no_autoflush:
        pages = {page.id: page for page in _pages(session, wanted)}
        lock_jobs(session, {page.job_id for page in pages.values()})
        items: dict[int, list[Item]] = {number: [] for number in pages}
        on_pages = select(Item).where(Item.page_id.in_(pages)).order_by(Item.position, Item.id)
        for item in session.scalars(on_pages):
            items[item.page_id].append(item)
        hidden = _hidden_on(session, wanted) if changed is not None else set()
        judgements: _Rows = []
        findings: _Rows = []
        judged: set[int] = set()
        targets = {page.job_id: target_of(page.job) for page in pages.values()}
        for number, page in pages.items():
            only = None if changed is None else changed[number] | hidden
            subjects = subjects_on(
                page.job, page, items[number], targets[page.job_id], changed=only
            )
            for subject, placed in subjects:
                judged.add(subject.item_id)
                if placed is not None:
                    judgements.append(_judgement(page, placed))
                findings += [_finding(page, finding) for finding in findings_of(subject)]
        if changed is None:
            _forget_pages(session, wanted)
        else:
            _forget_items(session, judged | hidden | set().union(*changed.values()))
        insert_rows(session, Judgement, judgements)
        insert_rows(session, FindingRow, findings)
        if changed is not None:
            judgements, findings = _kept_on(session, wanted)
        _tally(session, pages, judgements, findings)


def _hidden_on(session: Session, page_ids: Sequence[int]) -> set[int]:
    """The items that were found to be hidden: what hides them may have moved."""
    found = select(FindingRow.item_id).where(
        FindingRow.page_id.in_(page_ids), FindingRow.rule_id == HIDDEN_PICTURE
    )
    return set(session.scalars(found))


def _forget_pages(session: Session, page_ids: Sequence[int]) -> None:
    # A picture that moved here from another page is still kept under that one.
    here = select(Item.id).where(Item.page_id.in_(page_ids))
    old = or_(Judgement.page_id.in_(page_ids), Judgement.item_id.in_(here))
    session.execute(delete(Judgement).where(old))
    session.execute(delete(FindingRow).where(FindingRow.page_id.in_(page_ids)))


def _forget_items(session: Session, item_ids: Set[int]) -> None:
    for table in (Judgement, FindingRow):
        session.execute(delete(table).where(table.item_id.in_(item_ids)))


def _kept_on(session: Session, page_ids: Sequence[int]) -> tuple[_Rows, _Rows]:
    """What is kept of everything on pages, as far as it is counted."""
    judgements = select(Judgement.page_id, Judgement.verdict_rank, Judgement.file_state)
    findings = select(
        FindingRow.page_id,
        FindingRow.item_id,
        FindingRow.rule_id,
        FindingRow.severity_rank,
        FindingRow.badness,
    )
    judged = session.execute(judgements.where(Judgement.page_id.in_(page_ids)))
    found = session.execute(findings.where(FindingRow.page_id.in_(page_ids)))
    return [dict(row) for row in judged.mappings()], [dict(row) for row in found.mappings()]


def _tally(session: Session, pages: Mapping[int, Page], judged: _Rows, found: _Rows) -> None:
    """Counts verdicts and findings page by page; a page's version stays, as nobody edited it."""
    accepted = acceptances_on(session, pages)
    tallies = {number: Tally() for number in pages}
    for row in judged:
        tally = tallies[row["page_id"]]
        tally.verdicts[row["verdict_rank"]] += 1
        tally.missing += row["file_state"] == FileState.MISSING.value
    for row in found:
        tally = tallies[row["page_id"]]
        if still_holds(row["badness"], accepted.get((row["item_id"], row["rule_id"]))):
            tally.accepted += 1
        else:
            tally.findings[row["severity_rank"]] += 1
    if not tallies:
        return
    rows = [{"number": number, "counts": tally.as_row()} for number, tally in tallies.items()]
    table = Page.metadata.tables[Page.__tablename__]
    one = update(table).where(table.c.id == bindparam("number")).values(tally=bindparam("counts"))
    session.connection().execute(one, rows)
    for number, tally in tallies.items():
        attributes.set_committed_value(pages[number], "tally", tally.as_row())


def _pages(session: Session, page_ids: Sequence[int]) -> Iterable[Page]:
    wanted = select(Page).join(Page.job).where(Page.id.in_(page_ids))
    return session.scalars(wanted)


def _judgement(page: Page, placed: Placed) -> dict[str, Any]:
    item, figures = placed.item, placed.figures
    assert item.picture is not None
    facts = facts_of_picture(item.picture)
    source, frame = placed.placement.source, placed.placement.frame
    return {
        "item_id": item.id,
        "job_id": page.job_id,
        "page_id": page.id,
        "picture_id": item.picture_id,
        "name": placed.name,
        "verdict_rank": _VERDICTS.index(figures.verdict),
        "judged_ppi": figures.judged_ppi,
        "headroom": figures.headroom,
        "ruler_step": None if figures.headroom is None else ruler_step(figures.headroom),
        "evenness": figures.evenness,
        "is_uneven": figures.is_uneven,
        "is_bilevel": figures.is_bilevel,
        "has_own_target": has_own_target(item),
        "file_state": placed.file_state.value,
        "colour": facts.colour.value,
        "kind": "vector" if source.is_vector else "1-bit" if source.is_bilevel else "picture",
        "format": facts.format,
        "pixels": (facts.px_w or 0) * (facts.px_h or 0),
        "area_pt": frame.width * frame.height,
    }


def _finding(page: Page, finding: Finding) -> dict[str, Any]:
    return {
        "item_id": finding.item_id,
        "job_id": page.job_id,
        "page_id": page.id,
        "rule_id": finding.rule_id,
        "group": finding.group,
        "severity_rank": finding.severity.rank,
        "rule_rank": rule_rank(finding.rule_id),
        "name": finding.name,
        "headline": finding.headline,
        "sentence": finding.sentence,
        "fixes": [fix.value for fix in finding.fixes],
        "badness": finding.badness,
    }


def catch_up(session: Session, job: Job) -> None:
    """Brings a job up to date with what happened outside of edits, then settles.

    Files may have gone, come back or been changed; and what older rules judged is judged again.
    """
    settle(session)
    if job.rules_version != RULES_VERSION:
        judge_job(session, job)
    # What is not judged yet names no pictures, so files are looked at last.
    _look_at_files(session, job.id)
    settle(session)


def judge_job(session: Session, job: Job, is_thorough: bool = False) -> None:
    """Judges every page of a job again; when thorough, changed files are read again."""
    if is_thorough:
        _look_at_files(session, job.id, is_thorough)
    settle(session)
    judge_pages(session, session.scalars(select(Page.id).where(Page.job_id == job.id)))
    job.rules_version = RULES_VERSION


def _look_at_files(session: Session, job_id: int, is_thorough: bool = False) -> None:
    """Records how the files of a job's linked pictures stand; opens none that is as it was.

    Those in a bucket are looked at with their shelf.
    """
    used = (
        select(
            Picture.id,
            Shelf.folder,
            Picture.file_name,
            Picture.size_bytes,
            Picture.modified_ns,
            Picture.file_state,
        )
        .join(Picture.shelf)
        .where(Picture.id.in_(select(Judgement.picture_id).where(Judgement.job_id == job_id)))
        .where(Shelf.folder != IN_STORE, ~Shelf.folder.startswith(BUCKET))
    )
    for number, folder, name, size_bytes, modified_ns, known in session.execute(used).all():
        try:
            status = (Path(folder) / name).stat()
        except OSError:
            state = FileState.MISSING
        else:
            is_same = (status.st_size, status.st_mtime_ns) == (size_bytes, modified_ns)
            state = FileState.IN_PLACE if is_same else FileState.CHANGED
        if state.value == known and not (is_thorough and state is FileState.CHANGED):
            continue
        picture = session.get_one(Picture, number)
        found = state_of(picture)
        if found is FileState.IN_PLACE:
            remember_file(picture)
        if picture.file_state != found.value:
            picture.file_state = found.value
