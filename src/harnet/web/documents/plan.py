"""The plan of an improved copy as a view draws it, and samples of the images of a PDF."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from flask import url_for

from harnet.core.documents.comparison import Outcome
from harnet.core.documents.document import DocumentPage
from harnet.core.documents.images import ImageOnPage
from harnet.core.documents.improving import (
    Candidate,
    DocumentImageObject,
    Fate,
    PlannedImage,
)
from harnet.core.documents.same_shot import Sureness
from harnet.core.documents.userspace import seen_space
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.verdict import Verdict, verdict_of_judged
from harnet.core.output.pdf_settings import DEFAULT_THRESHOLD
from harnet.store.database import Session
from harnet.store.tables.documents import Document, DocumentWork
from harnet.studio.documents.making.improving import Plan
from harnet.studio.documents.making.works import images_found, plan_of_found
from harnet.studio.documents.uploads import pictures_in, read_of

MOST_SAMPLES = 200
"""Images that are shown to be chosen from; of more, all are extracted."""


@dataclass(frozen=True, slots=True)
class Sample:
    """An image cut out of the drawing of its page: `matrix` draws the page in its own pixels.

    An image of another document than a PDF is drawn by itself; `address` is where the drawing is.
    """

    address: str
    page_size: tuple[float, float]
    matrix: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanRow:
    """An image that falls short, beside the part of the original that it shows.

    `original_matrix` draws the original in the image's own pixels, `part` is the outline of what it
    shows, in pixels of the original.
    """

    planned: PlannedImage
    verdict: Verdict
    then: Verdict
    where: str
    sample: Sample
    sha256: str
    original_size: tuple[int, int]
    original_matrix: str
    part: str

    @property
    def is_sure(self) -> bool:
        """Whether the page would surely look as before, with more pixels."""
        candidate = self.planned.candidate
        if self.planned.fate is not Fate.REPLACED or candidate is None:
            return False
        return candidate.sureness is Sureness.SURE and candidate.outcome.is_replaced_unasked

    @property
    def says(self) -> str:
        """How the image looks beside its original, in words; empty without one."""
        candidate = self.planned.candidate
        return outcome_words(candidate) if candidate is not None else ""

    @property
    def places(self) -> list[tuple[float, float, float, float]]:
        """Where the image differs: left, top, width and height in its own pixels."""
        candidate, image = self.planned.candidate, self.planned.image
        if candidate is None:
            return []
        return [
            (
                one.left * image.px_w,
                one.top * image.px_h,
                (one.right - one.left) * image.px_w,
                (one.bottom - one.top) * image.px_h,
            )
            for one in candidate.comparison.places
        ]

    @property
    def can_be_chosen(self) -> bool:
        """Whether there is an original to put in its place."""
        return self.planned.fate is Fate.REPLACED


def outcome_words(candidate: Candidate) -> str:
    """How an image looks beside its original, in words."""
    comparison = candidate.comparison
    if candidate.outcome is Outcome.EDITED:
        is_soft = comparison.is_softened and not comparison.places
        return "softer than its original: look" if is_soft else "edited: look"
    if candidate.sureness is not Sureness.SURE:
        return "may be the same shot: look"
    if comparison.tone is not None:
        return f"tone carried over ({comparison.tone.words})"
    return "same"


def surplus_of(plan: Plan) -> int:
    """How many images are so much denser than the target that trimming them is offered."""
    above_ppi = plan.settings.target.density_ppi * DEFAULT_THRESHOLD
    return sum(one.image.is_seen and one.image.ppi > above_ppi for one in plan.images)


def cropped_of(plan: Plan) -> int:
    """How many images have cropped-off parts that could be cut away."""
    return sum(one.image.crop is not None for one in plan.images)


def changed_rows(rows: Sequence[dict[str, Any]]) -> list[dict[str, Any]]:
    """The rows of a receipt whose images changed."""
    return [one for one in rows if one["fate"] != Fate.LEFT.value or one.get("is_cut")]


def plan_rows(session: Session, document: Document, found: DocumentWork) -> list[PlanRow]:
    """The images that fall short, as they are painted."""
    sampler = _Sampler(document, pictures_in(session, document))
    stored = {values["key"]: values.get("candidate") for values in images_found(found)}
    plan = plan_of_found(found)
    limits_of = plan.settings.target.for_bits
    rows = []
    for one in plan.images:
        image, limits = one.image, limits_of(one.image.is_bilevel)
        verdict = verdict_of_judged(image.ppi, limits)
        if not (image.is_seen and verdict.falls_short):
            continue
        use = image.largest
        px = image.px_w, image.px_h
        sample = sampler.of(image.part, use.page_number, use.matrix, px)
        candidate = stored[image.key]
        to_original = one.candidate.registration.to_original if one.candidate else None
        rows.append(
            PlanRow(
                planned=one,
                verdict=verdict,
                then=verdict_of_judged(one.ppi, limits),
                where=_where(image),
                sample=sample,
                sha256=candidate["sha256"] if candidate else "",
                original_size=(candidate["px"][0], candidate["px"][1]) if candidate else (0, 0),
                original_matrix=_text(to_original.inverse) if to_original else "",
                part=_outline(to_original, image.px_w, image.px_h) if to_original else "",
            )
        )
    return rows


def _text(matrix: Matrix) -> str:
    return "matrix(" + " ".join(f"{value:.8g}" for value in matrix.as_tuple()) + ")"


def image_samples(session: Session, document: Document) -> list[tuple[ImageOnPage, Sample]]:
    """The first images of a PDF that can be seen, as they are painted, each with its sample."""
    pictures = pictures_in(session, document)
    sampler = _Sampler(document, pictures)
    seen = [one for one in pictures if one.is_judged][:MOST_SAMPLES]
    return [
        (one, sampler.of(one.part, one.page_number, one.matrix, (one.px_w, one.px_h)))
        for one in seen
    ]


def _where(image: DocumentImageObject) -> str:
    """The page of an image, or where it stands, in words."""
    return image.where if image.part else f"page {image.page}"


class _Sampler:
    """Samples of the images of one document."""

    def __init__(self, document: Document, pictures: Sequence[ImageOnPage]) -> None:
        self._document, self._pages = document, read_of(document).pages
        self._by_part = {one.part: one.id for one in reversed(pictures) if one.part}

    def of(self, part: str, page_number: int, matrix: Matrix, px: tuple[int, int]) -> Sample:
        """The sample of an image: the file inside, or cut out of its page."""
        if part:
            number = self._by_part.get(part, 0)
            address = url_for(
                "documentpicture.look", document_id=self._document.id, picture_id=number
            )
            return Sample(address, (float(px[0]), float(px[1])), _text(Matrix()))
        address = url_for("documents.page_png", document_id=self._document.id, number=page_number)
        return _on_page(self._pages[page_number - 1], matrix, px, address)


def _on_page(page: DocumentPage, matrix: Matrix, px: tuple[int, int], address: str) -> Sample:
    space = seen_space(page.box, page.turn_deg)
    # The image's pixels, counted from its upper left corner, on the page as it is seen.
    from_pixels = Matrix(1 / px[0], 0, 0, -1 / px[1], 0, 1)
    on_page = from_pixels.then(matrix).then(space.matrix)
    return Sample(address, (space.width_pt, space.height_pt), _text(on_page.inverse))


def _outline(to_original: Matrix, px_w: int, px_h: int) -> str:
    corners = ((0, 0), (px_w, 0), (px_w, px_h), (0, px_h))
    mapped = (to_original.applied(x, y) for x, y in corners)
    return " ".join(f"{x:.1f},{y:.1f}" for x, y in mapped)
