"""Improved copies of documents without a database: originals found, images replaced, all proven.

What each image becomes is planned first; a copy is handed out only once it is proven.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path
from typing import Any

from harnet.core.documents.comparison import (
    AREA_BOUND,
    DIFFERENCE_BOUND,
    SPOT_BOUND,
    comparison_as_values,
    comparison_from_values,
)
from harnet.core.documents.improving import (
    Candidate,
    CopyColours,
    DocumentImageObject,
    Fate,
    ImproveSettings,
    PlannedImage,
    Use,
    planned,
)
from harnet.core.documents.same_shot import Registration, Sureness
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.verdict import verdict_of_judged
from harnet.core.targets.target import Target
from harnet.media.errors import UnreadableFile
from harnet.studio.documents.making.apart import document_apart
from harnet.studio.documents.making.proof import proven
from harnet.studio.documents.making.unlocking import Locked

RECEIPT_VERSION = 2
_MOST_ROUNDS = 4
"""How often a copy is made again without the images that could not be proven."""
ENDINGS = frozenset(
    {".jpg", ".jpeg", ".png", ".tif", ".tiff", ".webp", ".heic", ".heif", ".avif", ".gif", ".bmp"}
)
Tell = Callable[[str, int, int], None]


def silent(_what: str, _done: int, _of: int) -> None:
    """Tells nobody."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """What an improved copy of a PDF does to each image, in the order they are painted."""

    path: Path
    name: str
    pages: str
    settings: ImproveSettings
    images: Sequence[PlannedImage]

    @property
    def changed(self) -> list[PlannedImage]:
        """The images that the copy has other samples of."""
        return [one for one in self.images if one.fate is not Fate.LEFT or one.is_cut]

    @property
    def still_short(self) -> list[PlannedImage]:
        """The images that fall short and are left."""
        return [one for one in self.images if self.falls_short(one)]

    def falls_short(self, one: PlannedImage) -> bool:
        """Whether an image that is seen falls short afterwards."""
        limits = self.settings.target.for_bits(one.image.is_bilevel)
        return one.image.is_seen and verdict_of_judged(one.ppi, limits).falls_short

    def rows(self) -> list[dict[str, Any]]:
        """The plan as a table: densities in ppi at the largest use, bytes as stored."""
        return [_row(one, self.settings) for one in self.images]


@dataclass(frozen=True, slots=True, kw_only=True)
class Receipt:
    """What became of each image, and whether the copy is proven; `faults` says where it is not."""

    plan: Plan
    rows: Sequence[dict[str, Any]]
    broken: Sequence[str] = ()
    faults: Sequence[str] = field(default=())

    @property
    def is_proven(self) -> bool:
        """Whether the copy may be handed out."""
        return not self.faults

    def as_json(self) -> dict[str, Any]:
        """The receipt in its published form, docs/schemas/improved-copy.schema.json."""
        return {
            "version": RECEIPT_VERSION,
            "file": self.plan.name,
            "target_ppi": self.plan.settings.target.density_ppi,
            "is_proven": self.is_proven,
            "faults": list(self.faults),
            "broken": list(self.broken),
            "images": list(self.rows),
        }


def pictures_in(folder: Path) -> list[Path]:
    """The picture files of a folder and those below it, in order.

    Raises:
        UnreadableFile: there is no such folder.
    """
    if not folder.is_dir():
        raise UnreadableFile(str(folder), "it is not a folder", "Name the folder of the originals")
    return sorted(
        one for one in folder.rglob("*") if one.suffix.lower() in ENDINGS and one.is_file()
    )


@dataclass(frozen=True, slots=True)
class Original:
    """A picture file that images may be part of; `hashes` of its points where they are known."""

    path: Path
    hashes: str | None = None


@dataclass(frozen=True, slots=True)
class LookedFor:
    """What a look for originals found: each image as values, and the hashes that were not known."""

    images: Sequence[dict[str, Any]]
    hashes: Sequence[str | None]


def look_for_originals(
    path: Path,
    name: str,
    originals: Sequence[Original],
    target: Target,
    *,
    pages: str = "all",
    tell: Tell = silent,
    look_up: Callable[[], None] | None = None,
) -> LookedFor:
    """Looks for the originals of a PDF's images that fall short of a target.

    Raises:
        UnreadableFile: the document cannot be read, or has no such pages.
    """
    answer = document_apart(
        "matching",
        path,
        name,
        {
            "pages": pages,
            "passes_ppi": target.passes_from_ppi,
            "bilevel_passes_ppi": target.for_bits(True).passes_from_ppi,
            "originals": [{"path": str(one.path), "hashes": one.hashes} for one in originals],
        },
        partial(tell, "file or image"),
        look_up,
    )
    return LookedFor(answer["images"], answer["hashes"])


def plan_improvement(
    path: Path,
    name: str,
    originals: Sequence[Path],
    settings: ImproveSettings,
    *,
    pages: str = "all",
    tell: Tell = silent,
) -> Plan:
    """Looks for the originals of a PDF's images and plans what each becomes; nothing is written.

    Raises:
        UnreadableFile: the document cannot be read, or has no such pages.
    """
    files = [Original(one) for one in originals]
    found = look_for_originals(path, name, files, settings.target, pages=pages, tell=tell)
    return plan_from(found.images, path, name, settings, pages)


def plan_from(
    images: Sequence[dict[str, Any]],
    path: Path,
    name: str,
    settings: ImproveSettings,
    pages: str = "all",
) -> Plan:
    """The plan for images as `look_for_originals` found them."""
    made = [planned_from(values, settings) for values in images]
    return Plan(path=path, name=name, pages=pages, settings=settings, images=made)


def planned_from(values: dict[str, Any], settings: ImproveSettings) -> PlannedImage:
    """What one of them becomes."""
    values = dict(values)
    found, failure = values.pop("candidate", None), values.pop("failure", None)
    uses = tuple(Use(page, place, Matrix(*matrix)) for page, place, matrix in values["uses"])
    crop = values.get("crop")
    image = DocumentImageObject(**{**values, "uses": uses, "crop": tuple(crop) if crop else None})
    candidate = None
    if found is not None and "comparison" not in found:
        # It was found before images were compared in colour.
        found, failure = None, "not compared in colour yet; look for originals again"
    if found is not None:
        registration = found["registration"]
        candidate = Candidate(
            path=found["path"],
            name=Path(found["path"]).name,
            sureness=Sureness(found["sureness"]),
            registration=Registration(
                **{**registration, "to_original": Matrix(*registration["to_original"])}
            ),
            comparison=comparison_from_values(found["comparison"]),
        )
    one = planned(image, candidate, settings)
    return replace(one, reason=failure) if failure and one.fate is Fate.LEFT else one


def make_copy(
    plan: Plan,
    copy: Path,
    folder: Path,
    *,
    profile: Path | None = None,
    locked: Locked | None = None,
    tell: Tell = silent,
    look_up: Callable[[], None] | None = None,
) -> Receipt:
    """Writes the copy and proves it; `folder` is one to work in.

    An image that cannot be proven is left as it was, and the rest is made and proven again. A copy
    in which anything outside of the changed images differs is taken away.

    `profile` is the CMYK profile, None the generic one. `locked` is the PDF of the plan as it is
    encrypted: the copy has the same passwords and permissions.

    Raises:
        UnreadableFile: the document cannot be read any longer, or an original changed meanwhile.
    """
    unproven: dict[int, str] = {}
    for _ in range(_MOST_ROUNDS):
        receipt, failing = _made_once(
            _without(plan, unproven),
            folder,
            profile=profile,
            locked=locked,
            tell=tell,
            look_up=look_up,
        )
        if not failing:
            break
        unproven |= failing
    if failing:
        # What is still not proven after the last round is never handed out.
        receipt = replace(receipt, faults=[*receipt.faults, *failing.values()])
    made = folder / "copy.pdf"
    if receipt.is_proven:
        made.replace(copy)
    else:
        made.unlink(missing_ok=True)
    return receipt


def _without(plan: Plan, unproven: Mapping[int, str]) -> Plan:
    """The plan with images left that could not be proven; the words say why."""
    return replace(
        plan,
        images=[
            _left(one, unproven[one.image.key]) if one.image.key in unproven else one
            for one in plan.images
        ],
    )


def _left(one: PlannedImage, reason: str) -> PlannedImage:
    image = one.image
    return replace(
        one,
        fate=Fate.LEFT,
        px_w=image.px_w,
        px_h=image.px_h,
        reason=reason,
        is_cut=False,
        carries_tone=False,
    )


def _made_once(
    plan: Plan,
    folder: Path,
    *,
    profile: Path | None,
    locked: Locked | None,
    tell: Tell,
    look_up: Callable[[], None] | None,
) -> tuple[Receipt, dict[int, str]]:
    """Writes the copy and draws it; its receipt, and by key the images that are not proven.

    Raises:
        UnreadableFile: the document cannot be read any longer, or an original changed meanwhile.
    """
    made = folder / "copy.pdf"
    stamps = _stamps(plan)
    password = locked.password if locked is not None else ""
    try:
        answer = document_apart(
            "copying",
            locked.path if locked is not None else plan.path,
            plan.name,
            {
                "password": password,
                "pages": plan.pages,
                "copy": str(made),
                "folder": str(folder),
                "quality": plan.settings.quality,
                "colours": plan.settings.colours.value,
                "profile": str(profile) if profile else "",
                "cuts": plan.settings.cuts,
                "items": [_item(one) for one in plan.changed],
            },
            partial(tell, "image"),
            look_up,
        )
    except UnreadableFile:
        # A decoder may well crash on a file that is cut while it reads.
        _require_unchanged(plan, stamps)
        raise
    _require_unchanged(plan, stamps)
    done = {row["key"]: row for row in answer["rows"]}
    plan = replace(plan, images=[_as_done(one, done.get(one.image.key)) for one in plan.images])
    order = {
        "after": str(made),
        "password": password,
        "pages": plan.pages,
        "changed": [one.image.key for one in plan.changed],
    }
    proof = proven(
        plan.path, plan.name, order, answer["page_count"], partial(tell, "page"), look_up
    )
    receipt = Receipt(
        plan=plan,
        rows=[_receipt_row(one, plan.settings, done, proof) for one in plan.images],
        broken=answer["broken"],
        faults=_faults(proof),
    )
    return receipt, _unproven(plan, proof, done)


def _stamps(plan: Plan) -> dict[str, tuple[int, int] | None]:
    """Size and time of each original that is used; None where it is gone."""
    paths = {one.candidate.path for one in plan.changed if one.candidate is not None}
    return {path: _stamp(Path(path)) for path in paths}


def _stamp(path: Path) -> tuple[int, int] | None:
    try:
        about = path.stat()
    except OSError:
        return None
    return about.st_size, about.st_mtime_ns


def _require_unchanged(plan: Plan, before: dict[str, tuple[int, int] | None]) -> None:
    for path, stamp in _stamps(plan).items():
        if stamp is not None and stamp != before[path]:
            raise UnreadableFile(Path(path).name, "it changed while the copy was made", "Try again")


def _item(one: PlannedImage) -> dict[str, Any]:
    item: dict[str, Any] = {
        "key": one.image.key,
        "fate": one.fate.value,
        "px_w": one.px_w,
        "px_h": one.px_h,
    }
    if one.fate is Fate.REPLACED:
        assert one.candidate is not None
        item["original"] = one.candidate.path
        item["to_original"] = list(one.candidate.registration.to_original.as_tuple())
        comparison = one.candidate.comparison
        item["threshold"], item["intent"] = comparison.threshold, comparison.intent
        item["tone"] = comparison_as_values(comparison)["tone"] if one.carries_tone else None
    return item


def _as_done(one: PlannedImage, row: dict[str, Any] | None) -> PlannedImage:
    """The plan of an image as it was carried out: it may have been left after all."""
    if row is None or "reason" not in row:
        return one
    return _left(one, str(row["reason"]))


def _row(one: PlannedImage, settings: ImproveSettings) -> dict[str, Any]:
    image, limits = one.image, settings.target.for_bits(one.image.is_bilevel)
    candidate = one.candidate
    comparison = candidate.comparison if candidate is not None else None
    return {
        "page": image.page,
        "place": image.largest.place,
        "where": image.where,
        "uses": len(image.uses),
        "px_w": image.px_w,
        "px_h": image.px_h,
        "ppi": round(image.ppi, 3),
        "verdict": verdict_of_judged(image.ppi, limits).value,
        "colour": image.colour,
        "bits": image.bits,
        "bytes": image.size_bytes,
        "fate": one.fate.value,
        "is_cut": one.is_cut,
        "original": candidate.name if candidate is not None else None,
        "sureness": candidate.sureness.value if candidate is not None else None,
        "similarity": (
            round(candidate.registration.similarity, 4) if candidate is not None else None
        ),
        "outcome": candidate.outcome.value if candidate is not None else None,
        "tone": comparison.tone.words if comparison is not None and comparison.tone else None,
        "carries_tone": one.carries_tone,
        "difference": round(comparison.difference, 2) if comparison is not None else None,
        "largest_difference": (
            round(max(comparison.area, comparison.spot), 2) if comparison is not None else None
        ),
        "places": [
            [round(edge, 4) for edge in (place.left, place.top, place.right, place.bottom)]
            for place in (comparison.places if comparison is not None else ())
        ],
        "new_px_w": one.px_w,
        "new_px_h": one.px_h,
        "new_ppi": round(one.ppi, 3),
        "new_verdict": verdict_of_judged(one.ppi, limits).value,
        "reason": one.reason,
    }


def _receipt_row(
    one: PlannedImage,
    settings: ImproveSettings,
    done: dict[int, dict[str, Any]],
    proof: dict[str, Any],
) -> dict[str, Any]:
    key = one.image.key
    made = done.get(key, {}) if one.fate is not Fate.LEFT or one.is_cut else {}
    drawn = proof["drawn"].get(str(key)) if made else None
    return _row(one, settings) | {
        "new_bytes": made.get("bytes", one.image.size_bytes),
        "how": made.get("how", "unchanged"),
        "drawn_difference": drawn["difference"] if drawn is not None else None,
        "drawn_largest": _drawn_largest(drawn) if drawn is not None else None,
    }


def _faults(proof: dict[str, Any]) -> list[str]:
    """Where something outside of the images is not as it was, as sentences."""
    before, after = proof["count"]
    if before != after:
        return [f"The copy has {after} pages instead of {before}."]
    faults = [
        f"Page {page['page']} differs outside of its changed images, at"
        f" {page['box'][0]}, {page['box'][1]} px of a drawing at 100 ppi."
        for page in proof["pages"]
    ]
    return faults + list(proof.get("differs", []))


def _looks_the_same(drawn: Mapping[str, Any], one: PlannedImage) -> bool:
    """Whether a page shows an image as before but for its sharpness and what was lost before."""
    comparison = one.candidate.comparison if one.candidate is not None else None
    explained = comparison.explained if comparison is not None else 0.0
    mean = max(drawn["floor"], comparison.difference if comparison is not None else 0.0)
    return bool(
        drawn["difference"] <= mean + DIFFERENCE_BOUND
        and drawn["area"] <= AREA_BOUND + explained
        and drawn["spot"] <= SPOT_BOUND + explained
    )


def _drawn_largest(drawn: Mapping[str, Any]) -> float:
    return float(max(drawn["area"], drawn["spot"]))


def _unproven(plan: Plan, proof: dict[str, Any], done: dict[int, dict[str, Any]]) -> dict[int, str]:
    """The images that are not what was promised, by their keys, each with a reason."""
    found = {}
    for one in plan.changed:
        key = str(one.image.key)
        promised = done.get(one.image.key, {}).get("px", [one.px_w, one.px_h])
        if proof["found"].get(key) != promised:
            found[one.image.key] = "not proven: it did not get the pixels that were promised"
            continue
        drawn = proof["drawn"].get(key)
        is_converted = plan.settings.colours is CopyColours.TARGET
        if drawn is None or is_converted or not one.looks_as_before:
            continue
        if not _looks_the_same(drawn, one):
            found[one.image.key] = (
                "not proven: the page would look different,"
                f" by {drawn['difference']:.1f} in the mean"
                f" and {_drawn_largest(drawn):.1f} in a place"
            )
    return found
