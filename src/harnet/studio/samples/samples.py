"""Samples for who has nothing at hand: three pictures, a job of theirs, a PDF made elsewhere."""

from collections.abc import Iterator
from io import BytesIO

import numpy
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas
from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.layout.placing import Fit
from harnet.core.measure.geometry import Box
from harnet.core.pictures.rights import Rights
from harnet.scenery import scenes
from harnet.store.tables.documents import Document
from harnet.store.tables.jobs import Job
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.studio import Studio
from harnet.studio.documents.uploads import add_document, delete_document
from harnet.studio.jobs.jobs import NewJob, make_job, page_of
from harnet.studio.jobs.listing import JobStatus, put
from harnet.studio.layout.arranging import place_in_frame
from harnet.studio.people.access import is_seen
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.keeping import remove_picture
from harnet.studio.pictures.shelves import shelf_named
from harnet.studio.targets.targets import target_with

SAMPLE_SHELF, SAMPLE_JOB, SAMPLE_PDF = "Samples", "Sample flyer", "sample leaflet.pdf"
_RIGHTS = Rights("CC0-1.0", "", "Drawn by Harnet as a sample")

_PLACES = (Box(-8.5, -8.5, 314.6, 218), Box(22.7, 240, 120, 90), Box(155, 240, 120, 90))
"""The frames of the flyer: at 343, 90 and 276 ppi."""


def _drawn() -> Iterator[tuple[str, Image.Image]]:
    """The three pictures: one with pixels enough, one with far too few, one in between."""
    views = (
        ("harbour", scenes.coast(1500, 1000, scenes.MORNING, 7)),
        ("gulls", scenes.gulls(150, 113, 8)),
        ("stones", scenes.stonework(460, 346, 9)),
    )
    for name, view in views:
        pixels = (numpy.clip(view, 0, 1) * 255).round().astype(numpy.uint8)
        yield name, Image.fromarray(pixels)


def sample_pictures(studio: Studio, session: Session) -> list[Picture]:
    """The three pictures on a shelf of their own; those that are there already stay."""
    shelf = shelf_named(studio, session, SAMPLE_SHELF)
    found = []
    for name, image in _drawn():
        data = BytesIO()
        image.save(data, "JPEG", quality=92, dpi=(300, 300))
        data.seek(0)
        found.append(import_picture(studio, session, shelf, f"sample {name}.jpg", data, _RIGHTS))
    return found


def sample_job(studio: Studio, session: Session) -> Job:
    """An A6 flyer with the three pictures, one of them far too large for its pixels."""
    pictures = sample_pictures(studio, session)
    new = NewJob.measured(SAMPLE_JOB, 105, 148, bleed_mm=3, margin_mm=8, pages=1)
    job = make_job(session, new)
    page = page_of(job, 1)
    for picture, where in zip(pictures, _PLACES, strict=True):
        place_in_frame(session, job, page, picture, where, Fit.COVER)
    return job


def sample_document(studio: Studio, session: Session) -> Document:
    """A page as somebody else might send it, to be checked; the worker reads it."""
    data = BytesIO()
    canvas = Canvas(data, pagesize=(298, 420), invariant=1)
    canvas.setTitle("Sample leaflet")
    images = {name: ImageReader(image) for name, image in _drawn()}
    canvas.drawImage(images["harbour"], 0, 221, 298, 199)
    canvas.drawImage(images["gulls"], 20, 110, 125, 93)
    canvas.drawImage(images["stones"], 155, 110, 124, 93)
    canvas.drawString(20, 80, "Boats at every full hour")
    canvas.save()
    data.seek(0)
    return add_document(studio, session, SAMPLE_PDF, data, target_with(session, "coated"))


def has_samples(session: Session) -> bool:
    """Whether any sample is here."""
    return any(session.scalar(select(wanted.exists())) for wanted in (_JOBS, _DOCUMENTS, _PICTURES))


def throw_samples_away(studio: Studio, session: Session) -> None:
    """Deletes the sample jobs, PDFs and pictures by the doors that others leave by.

    Raises:
        Refused: a sample picture is placed in a job that is no sample.
    """
    for job in list(session.scalars(_JOBS.where(is_seen(Job.group_id)))):
        put(job, JobStatus.DELETED)
    for document in list(session.scalars(_DOCUMENTS)):
        delete_document(session, document)
    for picture in list(session.scalars(_PICTURES)):
        remove_picture(studio, session, picture)


_JOBS = select(Job).where(Job.title == SAMPLE_JOB, Job.deleted_at.is_(None))
_DOCUMENTS = select(Document).where(Document.file_name == SAMPLE_PDF)
_PICTURES = select(Picture).join(Picture.shelf).where(Shelf.name == SAMPLE_SHELF)
