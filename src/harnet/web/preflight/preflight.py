"""The Preflight view: findings worst first, their fixes, what was accepted, and the gate."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import groupby

from flask import Blueprint, render_template, request, url_for

from harnet.core.measure.wording import counted, reach_text
from harnet.core.preflight.finding import Fix
from harnet.core.preflight.rules import Rule
from harnet.core.targets.severity import Severity
from harnet.core.targets.target import Target
from harnet.store.database import Session
from harnet.store.tables.jobs import Item, Job
from harnet.studio.jobs.jobs import target_of
from harnet.studio.judging.judging import judge_job
from harnet.studio.layout.links import update_changed
from harnet.studio.layout.matching import is_any_other, same_shots
from harnet.studio.layout.placed import PICTURE, Placed, placed_from
from harnet.studio.layout.placing import item_in, items_with, remove_items
from harnet.studio.pictures.shelves import own_shelves
from harnet.studio.preflight.checking import (
    FindingGroup,
    Listed,
    accept,
    findings_in,
    groups_of,
    pages_with_findings,
    scope_of,
    withdraw,
)
from harnet.studio.preflight.fixing import (
    cover_frame,
    fit_text_frame,
    pull_to_bleed,
    set_printing_font,
    shrink_frame,
)
from harnet.studio.preflight.report import rules_asked
from harnet.studio.preflight.speaking import spoken_in
from harnet.web.common.preferences import own_name, remember_name
from harnet.web.common.scaling import scale_items
from harnet.web.common.shared import JobHeader, studio, viewed_job
from harnet.web.common.subjects import may_accept_on
from harnet.web.common.units import paper_unit
from harnet.web.drawing.loupe import LoupePanel, loupe_panel
from harnet.web.drawing.marks import mark_of

blueprint = Blueprint("preflight", __name__, url_prefix="/jobs/<int:job_id>/preflight")
_MOST_AT_ONCE = 30
_REMEDIES = {
    Fix.EVEN: "even out",
    Fix.UPDATE: "update",
    Fix.RELINK: "relink",
    Fix.SAVE_TO_SHELF: "save to a shelf",
    Fix.COPY: "print copy",
    Fix.CONVERT: "convert",
    Fix.RIGHTS: "enter rights",
    Fix.FONT: "change the font",
    Fix.COVER: "cover the frame",
    Fix.SHRINK: "shrink the frame",
    Fix.FIT_TEXT: "fit the frame",
    Fix.BLEED: "extend to the bleed",
    Fix.FILL: "choose a picture",
    Fix.REMOVE: "remove",
    Fix.DENSER: "find a denser one",
}


_DENSEST_SAMPLE_PPI = 1200


@dataclass(frozen=True, slots=True, kw_only=True)
class FindingView:
    """A finding in the list; texts and frames have no figures."""

    index: int
    listed: Listed
    placed: Placed | None
    mark: str
    remedy: str
    reach: str

    @property
    def now_rung_ppi(self) -> int:
        """The density of the sample as it prints now, in whole ppi."""
        judged = self.placed.figures.judged_ppi if self.placed else None
        return max(1, round(judged or 1.0))

    @property
    def target_rung_ppi(self) -> int:
        """The density of the sample at the target, at most as dense as samples are drawn."""
        density = self.placed.figures.target.density_ppi if self.placed else 1.0
        return min(round(density), _DENSEST_SAMPLE_PPI)

    def offers(self, name: str) -> bool:
        """Whether the finding offers this fix."""
        return name in self.listed.row.fixes


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Findings under one heading, as many as are shown at once."""

    name: str
    count: int
    """How many findings it has, those that are not shown included."""
    rows: list[FindingView]
    before: int = 0
    """How many come before these, in a list that is shown part by part."""
    behind: int = 0
    """How many come after them."""

    @property
    def previous(self) -> int:
        """The finding that leads to the part before."""
        return max(0, self.rows[0].index - _MOST_AT_ONCE)

    @property
    def following(self) -> int:
        """The finding that leads to the part after."""
        return self.rows[-1].index + 1


@blueprint.get("")
def show(job_id: int) -> str:
    """All findings; `finding` chooses the one whose details are shown, `group` how they stand."""
    with studio().session() as session:
        return _view(session, viewed_job(session, job_id), request.args.get("finding", 0, int))


@blueprint.post("/again")
def again(job_id: int) -> str:
    """Checks everything again, files included."""
    with studio().session() as session:
        job = viewed_job(session, job_id)
        judge_job(session, job, is_thorough=True)
        return _view(session, job, 0)


@blueprint.post("/fix/<int:item_id>")
def fix(job_id: int, item_id: int) -> str:
    """Does the fix that a finding offers, then shows what is left."""
    with studio().session() as session:
        job = viewed_job(session, job_id)
        item = item_in(job, item_id, request.form.get("version", None, int))
        doing: dict[str, Callable[[], object]] = {
            "cover": lambda: cover_frame(session, job, item),
            "shrink": lambda: shrink_frame(session, job, item),
            "font": lambda: set_printing_font(session, job, item),
            "fit-text": lambda: fit_text_frame(session, job, item),
            "bleed": lambda: pull_to_bleed(session, job, item),
            "remove": lambda: remove_items(session, job, [item]),
            "update": lambda: update_changed(studio(), session, item),
        }
        action = request.form.get("action", "")
        if action in doing:
            doing[action]()
        else:
            scale_items(session, job, [item], request.form)
        return _view(session, job, request.form.get("finding", 0, int))


@blueprint.post("/accept/<int:item_id>/<rule_id>")
def accept_finding(job_id: int, item_id: int, rule_id: str) -> str:
    """Accepts a finding with a reason and a name, which is remembered for the next."""
    name = request.form.get("name", "")
    with studio().session() as session:
        job = viewed_job(session, job_id)
        accept(session, job, item_id, rule_id, request.form.get("reason", ""), name)
        remember_name(name)
        return _view(session, job, request.form.get("finding", 0, int))


@blueprint.post("/take-back/<int:item_id>/<rule_id>")
def withdraw_acceptance(job_id: int, item_id: int, rule_id: str) -> str:
    """Takes an acceptance back."""
    with studio().session() as session:
        job = viewed_job(session, job_id)
        withdraw(session, job, item_id, rule_id)
        return _view(session, job, 0)


def _view(session: Session, job: Job, asked_index: int) -> str:
    header = JobHeader.of(job)
    by_page = request.values.get("group") == "page"
    total = header.counts.open_findings
    index = max(0, min(asked_index, total - 1))
    parts = (_parts_by_page if by_page else _parts_by_rule)(session, job, index)
    accepted = _accepted(session, job, header.counts.accepted)
    told = [one for part in parts for one in part.told]
    items = _items(session, [*told, *accepted.told])
    unit, target = paper_unit(job), target_of(job)

    def group(part: _Part) -> Group:
        said = enumerate(spoken_in(job, part.told, unit), part.start)
        rows = [_row(job, number, one, items[one.row.item_id], target) for number, one in said]
        return Group(
            name=part.group.name,
            count=part.group.count,
            rows=rows,
            before=part.before,
            behind=part.behind,
        )

    shown = [group(part) for part in parts]
    chosen = next((one for part in shown for one in part.rows if one.index == index), None)
    return render_template(
        "preflight/page.html",
        header=header,
        job=job,
        groups=shown,
        chosen=chosen,
        total=total,
        accepted=group(accepted),
        counts=header.counts,
        scope=scope_of(session, job),
        rules=_rules(job),
        by="page" if by_page else "rule",
        matches=_matches(session, job, chosen, items),
        shelves=own_shelves(studio(), session),
        own_name=own_name(),
        may_accept=may_accept_on(job),
        item=items[chosen.listed.row.item_id] if chosen else None,
        loupe=_loupe(session, job, chosen),
    )


def _loupe(session: Session, job: Job, chosen: FindingView | None) -> LoupePanel | None:
    """The press loupe over the chosen finding's picture; None where it has no pixels."""
    if chosen is None or chosen.placed is None or not chosen.placed.figures.judged_ppi:
        return None
    item_id = chosen.placed.item.id
    address = url_for("loupe.item", job_id=job.id, item_id=item_id)
    return loupe_panel(session, address, "share")


@dataclass(frozen=True, slots=True, kw_only=True)
class _Part:
    """What is shown of a heading: its findings from `start` on, counted through all headings."""

    group: FindingGroup
    start: int
    told: list[Listed]
    before: int
    behind: int


def _parts_by_rule(session: Session, job: Job, index: int) -> list[_Part]:
    """Some findings of each rule, those around the chosen one included."""
    parts, start = [], 0
    for group in groups_of(session, job):
        is_here = start <= index < start + group.count
        first = _part_with(index - start) if is_here else 0
        told = findings_in(session, job, group=group.name, first=first, most=_MOST_AT_ONCE)
        behind = group.count - first - len(told)
        parts.append(
            _Part(group=group, start=start + first, told=told, before=first, behind=behind)
        )
        start += group.count
    return parts


def _parts_by_page(session: Session, job: Job, index: int) -> list[_Part]:
    """Some pages' findings, those around the chosen one."""
    pages = {group.page_number: group for group in pages_with_findings(session, job)}
    first = _part_with(index)
    told = findings_in(session, job, first=first, most=_MOST_AT_ONCE, is_by_page=True)
    behind = sum(group.count for group in pages.values()) - first - len(told)
    parts: list[_Part] = []
    for number, some in groupby(told, key=lambda one: one.page_number):
        start = parts[-1].start + len(parts[-1].told) if parts else first
        before = 0 if parts else first
        group = pages[number]
        parts.append(_Part(group=group, start=start, told=list(some), before=before, behind=0))
    return [*parts[:-1], *(replace(last, behind=behind) for last in parts[-1:])]


def _accepted(session: Session, job: Job, count: int) -> _Part:
    """Some of the accepted findings."""
    asked = request.values.get("accepted", 0, int)
    first = _part_with(max(0, min(asked, count - 1)))
    told = findings_in(session, job, are_accepted=True, first=first, most=_MOST_AT_ONCE)
    group, behind = FindingGroup("Accepted", count), count - first - len(told)
    return _Part(group=group, start=first, told=told, before=first, behind=behind)


def _part_with(place: int) -> int:
    """Where the part of a list begins that a place is in."""
    return place - place % _MOST_AT_ONCE


def _items(session: Session, listed: list[Listed]) -> dict[int, Item]:
    return {item.id: item for item in items_with(session, {one.row.item_id for one in listed})}


def _row(job: Job, index: int, one: Listed, item: Item, target: Target) -> FindingView:
    placed = placed_from(item, one.page_number, target) if item.kind == PICTURE else None
    fixes = [Fix(name) for name in one.row.fixes]
    reach, remedy = "", _REMEDIES.get(fixes[0], "") if fixes else ""
    if placed is not None and Fix.REACH in fixes:
        figures = placed.figures
        if figures.crop_reach_w_pt and figures.crop_reach_h_pt:
            unit = paper_unit(job)
            crop = figures.crop_reach_w_pt, figures.crop_reach_h_pt
            reach = reach_text(*crop, unit, is_short=True)
            remedy = f"{reach} at most"
    mark = mark_of(placed.figures) if placed is not None else "unknown"
    return FindingView(
        index=index, listed=one, placed=placed, mark=mark, remedy=remedy, reach=reach
    )


def _matches(
    session: Session, job: Job, chosen: FindingView | None, items: dict[int, Item]
) -> list[str]:
    """What the shelves have in place of the chosen picture: how many, and the best in words."""
    if chosen is None or chosen.placed is None or not chosen.offers(Fix.DENSER.value):
        return []
    item = items[chosen.listed.row.item_id]
    same = same_shots(session, job, item)
    if not same:
        has_others = is_any_other(session, item)
        others = "no other picture of this shot, but others fit"
        none = "no shelf has a picture of this orientation"
        return ["Look on the shelves", others if has_others else none]
    facts = same[0].picture.facts
    pixels = f"{facts['px_w']} × {facts['px_h']} px" if facts["px_w"] else "vector"
    return [
        f"Open {counted(len(same), 'match', 'matches')}",
        f"the same shot at {pixels} is on a shelf",
    ]


@dataclass(frozen=True, slots=True)
class AskedRule:
    """A rule as the view lists it: with the severity it has for this job's target."""

    rule: Rule
    severity: Severity


def _rules(job: Job) -> list[AskedRule]:
    target = target_of(job)
    return [
        AskedRule(rule, target.severity_of(rule.id, rule.severity)) for rule in rules_asked(target)
    ]
