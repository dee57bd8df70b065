"""A PDF from page plans: every pixel kept, vector kept vector, text as text."""

import tempfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

import pikepdf

from harnet.core.measure.density import EffectiveDensity, effective_density
from harnet.core.measure.geometry import Matrix, quarter_turns, turned_about
from harnet.core.output.pdf_settings import PdfSettings
from harnet.core.output.treatment import Treatment, treatment_of
from harnet.media.errors import ChangedFile, UnreadableFile
from harnet.media.pagedrawing.plan import (
    LinePart,
    PagePlan,
    Part,
    PicturePart,
    RectanglePart,
    TextPart,
)
from harnet.media.pdf.writing.boxes import boxes_of
from harnet.media.pdf.writing.finish import Finish, describe, explain_rgb, save_identified
from harnet.media.pdf.writing.forms import link_annotation, links_of, text_forms
from harnet.media.pdf.writing.image_store import ImageStore
from harnet.media.pdf.writing.marks import all_inks, crop_marks, registration_marks
from harnet.media.pdf.writing.operators import cm, line, missing_mark, outline_path, rectangle
from harnet.media.pdf.writing.paint import Paint
from harnet.media.pdf.writing.streams import (
    STAYS_VECTOR,
    FileStream,
    StoredImage,
    image_stream,
    is_taken_over,
)
from harnet.media.pdf.writing.unchanged import Unchanged
from harnet.media.pdf.writing.vector import VectorForm, vector_form

MISSING = "missing: replaced by a marked box"
CHANGED = "changed since it was checked: replaced by a marked box"
_FROM_PDF_UNIT = Matrix(1, 0, 0, -1, 0, 1)
"""PDF draws images on a unit square whose y grows upwards."""

Progress = Callable[[int, int], None]
TreatmentOf = Callable[[PicturePart], Treatment]


def _kept_whole(part: PicturePart) -> Treatment:
    return treatment_of(part.facts, part.placement, PdfSettings())


@dataclass(frozen=True, slots=True, kw_only=True)
class Promise:
    """What the PDF was made to hold of one placed picture.

    `density` runs along the stored picture's axes, None for vector art and missing files.
    """

    page_number: int
    item_id: int
    name: str
    how: str
    px_w: int | None
    px_h: int | None
    density: EffectiveDensity | None
    inside: tuple[tuple[int, int, EffectiveDensity], ...] = ()
    """Of a vector picture: pixels and density of the images inside it."""
    is_vector: bool = False


def write_pdf(
    plans: Sequence[PagePlan],
    title: str,
    path: Path,
    progress: Progress = lambda done, total: None,
    treatment: TreatmentOf = _kept_whole,
    finish: Finish | None = None,
) -> list[Promise]:
    """Writes the pages and says what was promised of each picture, in painting order.

    `treatment` says of each raster picture what happens to its pixels; without it all are kept.

    Media box is trim and bleed, and the marks around them; the trim and bleed boxes are written
    (ISO 32000-2, 14.11.2). The same input gives the same bytes.

    A picture whose file is no longer the one that was judged is a marked box, as a missing one is.

    Raises:
        UnreadableFile: a picture's file cannot be read any longer.
    """
    finish = finish or Finish()
    paint = Paint(finish.intent if finish.is_inked else None)
    texts = [part for plan in plans for part in plan.parts if isinstance(part, TextPart)]
    with (
        tempfile.TemporaryDirectory(dir=path.parent) as folder,
        ImageStore(Path(folder), finish) as images,
        Unchanged(_read_later(plans, treatment)) as unchanged,
    ):
        changed: set[str] = set()
        for done, plan in enumerate(plans):
            progress(done, len(plans))
            for part in _raster_pictures(plan):
                try:
                    _store(images, part, treatment(part), finish, unchanged)
                except ChangedFile:
                    changed.add(part.sha256)
        changed |= unchanged.changed()
        with images.opened() as pdf:
            writer = _Writer(
                *(pdf, text_forms(pdf, texts, paint), treatment, finish),
                *(images, paint, unchanged, changed),
            )
            for plan in plans:
                writer.add_page(plan)
            describe(pdf, title, [plan.number for plan in plans], finish)
            if finish.is_x4:
                for page in pdf.pages:
                    explain_rgb(page.obj.Resources, images.srgb())
            save_identified(pdf, path, writer.identity(title), finish)
    progress(len(plans), len(plans))
    return writer.promises


def _pictures(plan: PagePlan) -> list[PicturePart]:
    return [one for one in plan.parts if isinstance(one, PicturePart) and one.path is not None]


def _raster_pictures(plan: PagePlan) -> list[PicturePart]:
    return [part for part in _pictures(plan) if not part.facts.is_vector]


def _key(part: PicturePart, treatment: Treatment) -> str:
    """Uses that need the same pixels share one stored image."""
    return f"{part.sha256} {treatment}"


def _read_later(plans: Sequence[PagePlan], treatment: TreatmentOf) -> Iterator[PicturePart]:
    """The pictures whose files are not taken over as they are."""
    for plan in plans:
        for part in _pictures(plan):
            if part.facts.is_vector or not is_taken_over(part, treatment(part)):
                yield part


def _store(
    images: ImageStore,
    part: PicturePart,
    treatment: Treatment,
    finish: Finish,
    unchanged: Unchanged,
) -> None:
    """Stores a picture, whose file is looked at before, or beside where its bytes are taken over.

    Raises:
        ChangedFile: it is not what was judged.
        UnreadableFile: it cannot be read.
    """
    is_taken = is_taken_over(part, treatment)
    if not is_taken:
        unchanged.require(part)

    def make(pdf: pikepdf.Pdf) -> StoredImage:
        try:
            stored = image_stream(pdf, part, treatment, finish.intent)
        except UnreadableFile:
            # A file that is another one by now need not be readable.
            unchanged.require(part)
            raise
        if isinstance(stored.stream, FileStream):
            unchanged.look_at(part, stored.stream.data)
        elif is_taken:
            unchanged.require(part)
        return stored

    images.add(_key(part, treatment), make)


class _Writer:
    """The PDF being written, the pictures it holds already, and what was promised so far."""

    def __init__(
        self,
        pdf: pikepdf.Pdf,
        texts: list[pikepdf.Object],
        treatment: TreatmentOf,
        finish: Finish,
        images: ImageStore,
        paint: Paint,
        unchanged: Unchanged,
        changed: set[str],
    ) -> None:
        self.pdf = pdf
        self._unchanged = unchanged
        self._identity = sha256()
        self._changed = changed
        self.promises: list[Promise] = []
        self._texts = texts
        self._treatment = treatment
        self._finish = finish
        self._images = images
        self._paint = paint
        self._vectors: dict[str, VectorForm] = {}

    def identity(self, title: str) -> bytes:
        """A hash of what the pages show; bytes of pictures count by their own hashes."""
        whole = self._identity.copy()
        finish = self._finish
        whole.update(f"{title} {finish.standard} {finish.language} {finish.dated}".encode())
        return whole.digest()

    def add_page(self, plan: PagePlan) -> None:
        boxes = boxes_of(plan, self._finish.has_marks)
        page = self.pdf.add_blank_page(page_size=(boxes.media[2], boxes.media[3]))
        page.obj.TrimBox = pikepdf.Array(boxes.trim)
        page.obj.BleedBox = pikepdf.Array(boxes.bleed)
        left, _, _, top = boxes.trim
        to_pdf = Matrix(1, 0, 0, -1, left, top)
        xobjects = pikepdf.Dictionary()
        page.obj.Resources = pikepdf.Dictionary(XObject=xobjects)
        # Held on to as the page's own: what is assigned here is copied into the PDF.
        xobjects = page.obj.Resources.XObject
        operators: list[str] = []
        if self._finish.has_marks:
            page.obj.Resources.ColorSpace = pikepdf.Dictionary(All=all_inks(self.pdf))
            operators += self._clipped_to(boxes.bleed)
        for index, part in enumerate(plan.parts):
            operators.append("q")
            operators += self._drawn(part, plan, to_pdf, f"/X{index}", xobjects)
            operators.append("Q")
        if self._finish.has_marks:
            operators.append("Q q")
            if self._finish.crop_marks:
                operators += crop_marks(boxes.trim, plan.bleed_pt)
            if self._finish.registration_marks:
                operators += registration_marks(boxes.trim, plan.bleed_pt)
            operators.append("Q")
        content = "\n".join(operators).encode()
        page.obj.Contents = self.pdf.make_stream(content)
        self._identity.update(f"{plan.number} {boxes}".encode() + content)
        # PDF/X-4 has no annotations on the page (ISO 15930-7, 6.17, from memory).
        links = [] if self._finish.is_x4 else links_of(plan)
        if links:
            page.obj.Annots = pikepdf.Array(
                [self.pdf.make_indirect(link_annotation(part, to_pdf)) for part in links]
            )

    @staticmethod
    def _clipped_to(box: tuple[float, float, float, float]) -> list[str]:
        left, bottom, right, top = box
        return [f"q {left:.8g} {bottom:.8g} {right - left:.8g} {top - bottom:.8g} re W n"]

    def _drawn(
        self,
        part: Part,
        plan: PagePlan,
        to_pdf: Matrix,
        name: str,
        xobjects: pikepdf.Dictionary,
    ) -> list[str]:
        if isinstance(part, RectanglePart):
            return rectangle(part, to_pdf, self._paint)
        if isinstance(part, LinePart):
            return line(part, to_pdf, self._paint)
        if isinstance(part, TextPart):
            xobjects[name] = self._texts.pop(0)
            self._identity.update(f"{part}".encode())
            frame = part.frame
            turn = turned_about(part.rotation_deg, frame.centre)
            lower_left = Matrix(1, 0, 0, -1, frame.x, frame.y + frame.height)
            return [cm(lower_left.then(turn).then(to_pdf)), f"{name} Do"]
        return self._picture(part, plan, to_pdf, name, xobjects)

    def _picture(
        self,
        part: PicturePart,
        plan: PagePlan,
        to_pdf: Matrix,
        name: str,
        xobjects: pikepdf.Dictionary,
    ) -> list[str]:
        clip = [outline_path(part.placement.outline.mapped(to_pdf)), "W n"]
        vector = self._vector(part)
        if part.path is None or part.sha256 in self._changed:
            is_changed = part.is_changed or part.sha256 in self._changed
            self._promise(part, plan, CHANGED if is_changed else MISSING)
            to_page = part.placement.turn.then(to_pdf)
            return [*clip, *missing_mark(part.placement.frame, to_page, self._paint)]
        to_page = part.placement.matrix.then(to_pdf)
        if vector is not None:
            xobjects[name] = vector.form
            self._identity.update(part.sha256.encode())
            inside = tuple(
                (one.px_w, one.px_h, density) for one, density in part.placement.inner_densities
            )
            self._promise(part, plan, STAYS_VECTOR, inside=inside, is_vector=True)
            return [*clip, cm(vector.to_unit.then(to_page)), f"{name} Do"]
        treatment = self._treatment(part)
        key = _key(part, treatment)
        image, xobjects[name] = self._images.image(key)
        self._identity.update(key.encode())
        matrix = _FROM_PDF_UNIT.then(quarter_turns(part.facts.orientation))
        matrix = matrix.then(_part_of_unit(part, treatment)).then(to_page)
        density = effective_density(image.px_w, image.px_h, matrix)
        self._promise(part, plan, image.how, (image.px_w, image.px_h), density)
        return [*clip, cm(matrix), f"{name} Do"]

    def _promise(
        self,
        part: PicturePart,
        plan: PagePlan,
        how: str,
        px: tuple[int | None, int | None] = (None, None),
        density: EffectiveDensity | None = None,
        inside: tuple[tuple[int, int, EffectiveDensity], ...] = (),
        is_vector: bool = False,
    ) -> None:
        px_w, px_h = px
        self.promises.append(
            Promise(
                page_number=plan.number,
                item_id=part.item_id,
                name=part.name,
                how=how,
                px_w=px_w,
                px_h=px_h,
                density=density,
                inside=inside,
                is_vector=is_vector,
            )
        )

    def _vector(self, part: PicturePart) -> VectorForm | None:
        """A vector picture's form; None for pixels, and where its file is not what was judged."""
        if not part.facts.is_vector or part.path is None or part.sha256 in self._changed:
            return None
        if part.sha256 not in self._vectors:
            try:
                self._unchanged.require(part)
            except ChangedFile:
                self._changed.add(part.sha256)
                return None
            self._vectors[part.sha256] = vector_form(self.pdf, part.path, part.name)
        return self._vectors[part.sha256]


def _part_of_unit(part: PicturePart, treatment: Treatment) -> Matrix:
    """The map from what is left of a picture to its unit square."""
    box, px_w, px_h = treatment.part, part.facts.px_w, part.facts.px_h
    if box is None or px_w is None or px_h is None:
        return Matrix()
    return Matrix(box.width / px_w, 0, 0, box.height / px_h, box.left / px_w, box.top / px_h)
