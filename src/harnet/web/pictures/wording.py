"""What the views of pictures say about them."""

from flask import request

from harnet.core.copies.recipe import Recipe
from harnet.core.measure.wording import share_text
from harnet.core.targets.shipped import SHIPPED
from harnet.core.targets.target import Target
from harnet.web.common.shared import listed_targets


def asked_target() -> Target:
    """The target that the address names, the first one shipped without."""
    key = request.args.get("target", "")
    return next((target for target in listed_targets() if target.key == key), SHIPPED[0])


def copy_note(recipe: Recipe) -> tuple[str, bool]:
    """What marks a print copy, and whether it warns: interpolated pixels are never hidden."""
    if recipe.change.is_enlarging:
        return f"copy, {share_text(recipe.change.interpolated_share)} interpolated", True
    return "print copy", False
