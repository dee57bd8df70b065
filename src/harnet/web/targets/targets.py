"""The list of targets: their figures and reasons, editing, files of them, calculators."""

from dataclasses import dataclass, replace
from io import BytesIO

from flask import (
    Blueprint,
    Response,
    make_response,
    redirect,
    render_template,
    request,
    send_file,
    url_for,
)

from harnet.core.measure.density import density_from_distance, density_from_screen
from harnet.core.measure.units import POINTS_PER_INCH, Unit
from harnet.core.measure.wording import counted
from harnet.core.pictures.colour_words import COLOUR_WORDS
from harnet.core.pictures.picture import Colour
from harnet.core.preflight.rules import Rule, all_rules
from harnet.core.targets.severity import Severity
from harnet.core.targets.shipped import shipped
from harnet.core.targets.target import Expectations, Target
from harnet.store.database import Session
from harnet.studio.common.errors import Refused
from harnet.studio.targets.files import targets_as_file
from harnet.studio.targets.targets import (
    all_targets,
    copy_target,
    drop_target,
    jobs_with_target,
    read_targets,
    row_of,
    save_target,
    take_over,
    target_with,
)
from harnet.web.common.shared import studio
from harnet.web.common.values import figure, length, whole_figure

blueprint = Blueprint("targets", __name__, url_prefix="/targets")
FORMATS = ("jpeg", "png", "tiff", "webp", "gif", "bmp", "heif", "avif", "svg", "pdf")
COLOURS = tuple(colour for colour in COLOUR_WORDS if colour not in (Colour.VECTOR, Colour.SPOT))
_PPI_FIELDS = ("density_ppi", "bilevel_ppi", "floor_ppi", "ceiling_ppi")


@dataclass(frozen=True, slots=True)
class Entry:
    """A target in the list: whether it ships, whether it was changed, how many jobs use it."""

    target: Target
    ships: bool
    is_changed: bool
    jobs: int


@blueprint.get("")
def listing() -> str:
    """Every target with its figures and its reason."""
    return _list()


def _list(message: str = "") -> str:
    with studio().session() as session:
        entries = []
        for target in all_targets(session):
            ships = shipped(target.key) is not None
            changed = ships and row_of(session, target.key) is not None
            entries.append(Entry(target, ships, changed, jobs_with_target(session, target.key)))
        return render_template("targets/list.html", entries=entries, message=message)


@blueprint.post("/<key>/copy")
def copy(key: str) -> Response:
    """A copy under a name of its own, open for editing."""
    with studio().session() as session:
        new_key = copy_target(session, key).key
    return make_response(redirect(url_for("targets.edit", key=new_key)))


@blueprint.post("/<key>/drop")
def drop(key: str) -> str:
    """Deletes a target of the studio's own, or takes the changes of a shipped one back."""
    with studio().session() as session:
        stands_again = drop_target(session, key)
    words = (
        "has its original figures again" if stands_again else "was deleted; jobs keep its figures"
    )
    return _list(f"The target {words}.")


@blueprint.get("/targets.json")
def export() -> Response:
    """All targets, or the one that `key` names, as a file."""
    with studio().session() as session:
        key = request.args.get("key", "")
        chosen = [target_with(session, key)] if key else all_targets(session)
        text = targets_as_file(chosen)
    name = f"harnet-target-{key}.json" if key else "harnet-targets.json"
    return send_file(
        BytesIO(text.encode()), "application/json", as_attachment=True, download_name=name
    )


@blueprint.post("/import")
def import_file() -> str:
    """Reads a file of targets in; nothing of it is kept when one is not valid."""
    file = request.files.get("file")
    if file is None or not file.filename:
        raise Refused("Choose a file of targets first, one written by “Export”.")
    try:
        text = file.stream.read(2_000_000).decode("utf-8-sig")
    except UnicodeDecodeError:
        raise Refused(f"{file.filename} is not a text file, so not a file of targets.") from None
    with studio().session() as session:
        new, replaced = read_targets(session, text)
    messages = [f"{counted(len(new), 'target')} imported: {', '.join(new)}."] if new else []
    if replaced:
        messages.append(f"{counted(len(replaced), 'target')} replaced: {', '.join(replaced)}.")
    return _list(" ".join(messages))


@blueprint.get("/<key>")
def edit(key: str) -> str:
    """The figures of one target, with the calculators beside."""
    with studio().session() as session:
        return _form(session, target_with(session, key))


def _form(session: Session, target: Target) -> str:
    row = row_of(session, target.key)
    return render_template(
        "targets/target.html",
        target=target,
        version=row.version if row else "",
        jobs=jobs_with_target(session, target.key),
        colours=[(colour.value, COLOUR_WORDS[colour]) for colour in COLOURS],
        formats=FORMATS,
        rules=[
            RuleChoice(rule, target.severity_of(rule.id, rule.severity)) for rule in all_rules()
        ],
        severities=list(Severity),
        ships=shipped(target.key) is not None,
        figures=_figures(target),
    )


@dataclass(frozen=True, slots=True)
class RuleChoice:
    """A rule and the severity that a target gives it."""

    rule: Rule
    severity: Severity


def _figures(target: Target) -> dict[str, str]:
    """The densities as they stand in the form."""
    return {name: f"{getattr(target, name):.6g}" for name in _PPI_FIELDS}


@blueprint.post("/<key>")
def save(key: str) -> Response:
    """Keeps a target; jobs that use it follow where that is ticked."""
    form = request.form
    with studio().session() as session:
        before = target_with(session, key)
        target = _from_form(before)
        save_target(session, target, form.get("version", None, int))
        if form.get("take_over") == "yes":
            take_over(session, target)
    if "HX-Request" in request.headers:
        return Response("", headers={"HX-Redirect": url_for("targets.listing")})
    return make_response(redirect(url_for("targets.listing")))


def _from_form(before: Target) -> Target:
    form = request.form
    chosen = []
    for rule in all_rules():
        text = form.get(f"rule-{rule.id}", rule.severity.value)
        severity = next((one for one in Severity if one.value == text), rule.severity)
        if severity is not rule.severity:
            chosen.append((rule.id, severity))
    known = {colour.value: colour for colour in COLOURS}
    expects = Expectations(
        colours=tuple(known[one] for one in form.getlist("colours") if one in known),
        formats=tuple(one for one in form.getlist("formats") if one in FORMATS),
        profiled=tuple(known[one] for one in form.getlist("profiled") if one in known),
        allows_transparency=form.get("allows_transparency") == "yes",
        least_jpeg_quality=whole_figure(form.get("least_jpeg_quality", ""), "minimum JPEG quality"),
    )
    densities = {name: _figure(name, name.removesuffix("_ppi")) for name in _PPI_FIELDS}
    return replace(
        before,
        name=" ".join(form.get("name", "").split())[:100],
        tolerance=round(_figure("tolerance", "tolerance") / 100, 6),
        screen_lpi=_figure("screen_lpi", "line screen") if form.get("screen_lpi") else 0.0,
        reason=" ".join(form.get("reason", "").split())[:1000],
        expects=expects,
        severities=tuple(chosen),
        density_ppi=densities["density_ppi"],
        bilevel_ppi=densities["bilevel_ppi"],
        floor_ppi=densities["floor_ppi"],
        ceiling_ppi=densities["ceiling_ppi"],
    )


def _figure(name: str, what: str) -> float:
    return figure(request.form.get(name, ""), what)


@blueprint.post("/density-fields")
def density_fields() -> str:
    """The densities of the form for a line screen or a viewing distance; the limits go along."""
    form = request.form
    if "from_press" in form:
        density = density_from_screen(
            _figure("screen_lpi", "line screen"), _figure("factor", "quality factor")
        )
        source = f"{form['screen_lpi']} lines per inch, {form['factor']} pixels per line"
    else:
        distance = length(form.get("distance", ""), Unit.CM)
        density = density_from_distance(distance / POINTS_PER_INCH)
        source = f"one arc minute at {form.get('distance', '').strip()}"
        source += "" if form.get("distance", "").strip()[-1:].isalpha() else " cm"
    by = density / max(1e-6, _figure("density_ppi", "density"))
    figures = {name: f"{_figure(name, name) * by:.5g}" for name in _PPI_FIELDS}
    figures["density_ppi"] = f"{density:.5g}"
    figures["bilevel_ppi"] = form.get("bilevel_ppi", "")
    return render_template("common/_density_fields.html", figures=figures, source=source)
