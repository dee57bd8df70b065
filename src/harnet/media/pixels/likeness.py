"""How pictures look, as a perceptual hash: near-duplicates differ in few bits."""

from pathlib import Path

import imagehash
from PIL import Image


def likeness_of(preview: Path) -> str:
    """The hash of a preview as 16 hexadecimal digits, by ImageHash's `phash`."""
    with Image.open(preview) as image:
        if image.mode in ("RGBA", "LA", "P"):
            upon = Image.new("RGBA", image.size, "white")
            upon.alpha_composite(image.convert("RGBA"))
            return str(imagehash.phash(upon.convert("RGB")))
        return str(imagehash.phash(image))
