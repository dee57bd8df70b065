"""Parts of pages to be written."""

from harnet.core.layout.placing import Fit, Placement, Source, fitted
from harnet.core.measure.geometry import Box
from harnet.media.facts.read import facts_of
from harnet.media.pagedrawing.plan import PicturePart
from harnet.store.blobs import sha256_of

FRAME = Box(36, 48, 144, 96)


def part(path, frame=FRAME, *, rotation_deg=0.0, content=None, fit=Fit.COVER):
    facts = facts_of(path)
    source = Source(
        px_w=facts.px_w or facts.width_pt,
        px_h=facts.px_h or facts.height_pt,
        is_vector=facts.is_vector,
    )
    placement = Placement(
        source=source,
        frame=frame,
        content=content or fitted(source, frame, fit),
        rotation_deg=rotation_deg,
    )
    return PicturePart(
        item_id=1,
        name=path.name,
        sha256=sha256_of(path),
        path=path,
        facts=facts,
        placement=placement,
    )
