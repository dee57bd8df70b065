"""A page image looked at before it is exported: 1:1 where one looks, before and after a change."""

import json
from dataclasses import dataclass
from json import JSONDecodeError

from flask import Blueprint, Response, abort, render_template, request, url_for

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.wording import grouped, ppi_text
from harnet.core.output.page_images import (
    ImageFormat,
    ImageSettings,
    SizeBy,
    image_settings_as_values,
    image_settings_from_values,
)
from harnet.media.pixels.exact import exact_square
from harnet.store.tables.jobs import Job, Page
from harnet.studio.common.errors import sentence_of
from harnet.studio.jobs.jobs import page_of
from harnet.studio.output.close_look import MAKE_CLOSE_LOOK, CloseLook, close_look
from harnet.web.common.image_form import image_settings_from
from harnet.web.common.shared import drawn_box, in_background, studio, viewed_job
from harnet.web.common.values import row_number

blueprint = Blueprint("close_look", __name__, url_prefix="/jobs/<int:job_id>/output/close-look")
_PANE_PX, _MAP_PX = 320, 130.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Pane:
    """One of the two looks: its settings, in words, and the part of it that is seen."""

    settings: ImageSettings
    look: CloseLook
    page: Page
    job: Job

    @property
    def words(self) -> str:
        """What leaves by these settings."""
        look, form = self.look, self.settings.format
        parts = [f"{ppi_text(look.density_ppi)} ppi"]
        parts.append(f"{grouped(look.px_w)} × {grouped(look.px_h)} px")
        if self.settings.size_by is SizeBy.BYTES:
            parts.append(f"JPEG under {self.settings.limit_bytes / 1000:g} kB")
        elif form is ImageFormat.JPEG:
            parts.append(f"JPEG quality {self.settings.quality}")
        else:
            parts.append(form.value.upper())
        return ", ".join(parts)

    @property
    def values(self) -> str:
        """The settings, for the next question."""
        return json.dumps(image_settings_as_values(self.settings))

    def address(self, x: float, y: float) -> str:
        """Where its pixels around a place are."""
        return url_for(
            "close_look.pixels",
            job_id=self.job.id,
            page=self.page.position + 1,
            settings=self.values,
            x=f"{x:.4f}",
            y=f"{y:.4f}",
            stamp=self.look.path.name[:12] if self.look.path else "",
        )


@blueprint.get("")
def show(job_id: int) -> str:
    """Both looks around a place; the page asks again while one is being made."""
    x, y = _place()
    failure, now, before = "", None, None
    with studio().session() as session:
        job = viewed_job(session, job_id)
        page = page_of(job, row_number(request.args.get("page", "")) or 1)
        try:
            wanted = image_settings_from(request.args)
            now = _pane(job, page, wanted)
            before = _before(job, page, wanted)
        except ValueOutOfRange as error:
            failure = sentence_of(error)
        waits = False
        for pane in (now, before):
            if pane is not None and pane.look.path is None and not pane.look.failure:
                waits = True
                if "asked" not in request.args:
                    in_background(
                        MAKE_CLOSE_LOOK,
                        job_id=job.id,
                        number=page.position + 1,
                        settings=image_settings_as_values(pane.settings),
                    )
        width, height = drawn_box(page.width_pt, page.height_pt, _MAP_PX, _MAP_PX)
        return render_template(
            "output/_close_look.html",
            job=job,
            page_number=page.position + 1,
            stamp=job.edited_at.timestamp(),
            failure=failure,
            now=now,
            before=before,
            waits=waits,
            x=x,
            y=y,
            map_w=width,
            map_h=height,
            pane_px=_PANE_PX,
        )


def _pane(job: Job, page: Page, settings: ImageSettings) -> Pane:
    return Pane(
        settings=settings, look=close_look(studio(), job, page, settings), page=page, job=job
    )


def _before(job: Job, page: Page, wanted: ImageSettings) -> Pane | None:
    """The look before the last change of what is written; None where nothing was changed yet."""
    last, earlier = (_kept(name) for name in ("shown", "before"))
    changed = last is not None and _written(last) != _written(wanted)
    found = last if changed else earlier
    return _pane(job, page, found) if found is not None else None


def _written(settings: ImageSettings) -> dict[str, object]:
    """What of the settings shows in the pixels."""
    values = image_settings_as_values(settings)
    return {name: value for name, value in values.items() if name not in ("pages", "names")}


def _kept(name: str) -> ImageSettings | None:
    """Settings that the page sends back; None where it has none, or none that can be."""
    try:
        values = json.loads(request.args.get(name, ""))
        return image_settings_from_values(values)
    except (JSONDecodeError, TypeError, ValueError, AttributeError):
        return None


def _place() -> tuple[float, float]:
    """Where one looks, as shares of the page; its middle without a choice."""
    x, y = (request.args.get(name, 0.5, float) for name in ("x", "y"))
    return min(max(x, 0.0), 1.0), min(max(y, 0.0), 1.0)


@blueprint.get("/pixels")
def pixels(job_id: int) -> Response:
    """The square of pixels around `x` and `y` of a look that was made."""
    settings = _kept("settings")
    with studio().session() as session:
        job = viewed_job(session, job_id)
        page = page_of(job, row_number(request.args.get("page", "")) or 1)
        look = close_look(studio(), job, page, settings) if settings is not None else None
    if look is None or look.path is None:
        abort(404)
    return Response(exact_square(look.path, _place(), _PANE_PX), mimetype="image/png")
