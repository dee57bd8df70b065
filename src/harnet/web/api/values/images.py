"""Settings of page images as a body of the API gives them."""

from harnet.core.output.page_images import (
    ImageSettings,
    image_settings_as_values,
    image_settings_from_values,
)
from harnet.studio.common.errors import Refused
from harnet.web.api.forms.outputs import ImageSettingsIn

_SIZES = {"density_ppi": "density", "width_px": "width", "height_px": "height"}


def image_settings_meant(kept: ImageSettings, body: ImageSettingsIn | None) -> ImageSettings:
    """The settings kept so far with what was asked for in their place.

    Raises:
        Refused: two figures that each decide about the pixels.
    """
    given = body.model_dump(exclude_none=True) if body else {}
    edges = [given.pop(name) for name in ("width_px", "height_px") if name in given]
    size_by = [word for name, word in _SIZES.items() if body and getattr(body, name) is not None]
    if "limit_bytes" in given:
        size_by = [word for word in size_by if word != "density"] + ["bytes"]
    if len(size_by) > 1:
        raise Refused(
            "density_ppi, width_px, height_px and limit_bytes each decide about the pixels; send"
            " one of them, a limit with a density at most."
        )
    values = image_settings_as_values(kept) | given
    if size_by:
        values["size_by"] = size_by[0]
    if edges:
        values["edge_px"] = edges[0]
    return image_settings_from_values(values)
