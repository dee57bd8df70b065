"""What people do to pictures before these end up poor in a document, each in three strengths.

`KINDS` names every change with what is right for it: the image is replaced by its original (plain
or in the image's tone), or it is left because somebody edited it.
"""

import io
from dataclasses import dataclass
from functools import cache

import numpy
from PIL import Image, ImageDraw, ImageEnhance, ImageFilter, ImageFont
from skimage.color import deltaE_cie76, rgb2lab

from harnet.scenery.scenes import gulls, lamp_room, rope_store, stair, stonework
from tests.trials.registration import photographs

REPLACE, LEAVE = "replace", "leave"
_SEPIA = [0.393, 0.769, 0.189, 0, 0.349, 0.686, 0.168, 0, 0.272, 0.534, 0.131, 0]


@cache
def scenes():
    """Open photographs and scenes of our own by name, in RGB, at least 900 pixels wide."""
    found = {
        name: Image.fromarray(one).convert("RGB")
        for name, one in photographs().items()
        if name not in ("motorcycle right", "page", "text")
    }
    own = {"gulls": gulls, "lamp room": lamp_room, "rope store": rope_store, "stair": stair}
    own["stonework"] = stonework
    for name, draw in own.items():
        array = numpy.clip(draw(1200, 900, 7) * 255, 0, 255).astype(numpy.uint8)
        found[name] = Image.fromarray(array)
    return {
        name: one.resize((one.width * 2, one.height * 2), Image.Resampling.BICUBIC)
        if one.width < 700
        else one
        for name, one in found.items()
    }


def jpeg(image, quality, subsampling=-1):
    """An image after a round through JPEG."""
    out = io.BytesIO()
    image.save(out, "JPEG", quality=quality, subsampling=subsampling)
    return Image.open(out).convert("RGB")


def _kernel(image, strength, _chance):
    kernels = [Image.Resampling.LANCZOS, Image.Resampling.BOX, Image.Resampling.BILINEAR]
    return image.resize(image.size, kernels[strength])


def _sharpened(image, strength, _chance):
    return image.filter(ImageFilter.UnsharpMask(0.8, (40, 80, 120)[strength], 2))


def _noise(image, strength, chance):
    grain = chance.normal(0, (1.5, 3, 5)[strength], (*image.size[::-1], 1))
    return Image.fromarray(numpy.clip(numpy.asarray(image) + grain, 0, 255).astype(numpy.uint8))


def _curve(image, power):
    return image.point([round(255 * (value / 255) ** power) for value in range(256)] * 3)


def _darker(image, strength, _chance):
    return _curve(image, (1.25, 1.6, 2.2)[strength])


def _lighter(image, strength, _chance):
    return _curve(image, (0.85, 0.7, 0.55)[strength])


def _contrast(image, strength, _chance):
    return ImageEnhance.Contrast(image).enhance((0.8, 1.25, 1.5)[strength])


def _saturation(image, strength, _chance):
    return ImageEnhance.Color(image).enhance((0.6, 0.3, 1.5)[strength])


def _grey(image, strength, _chance):
    grey = image.convert("L")
    return (grey if strength != 1 else ImageEnhance.Contrast(grey).enhance(1.2)).convert("RGB")


def _sepia(image, strength, _chance):
    return Image.blend(image, image.convert("RGB", _SEPIA), (0.4, 0.7, 1.0)[strength])


def _warmer(image, strength, _chance):
    factor = (0.06, 0.12, 0.2)[strength]
    return image.convert("RGB", [1 + factor, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1 - factor, 0])


def _hue(image, strength, _chance):
    """Turned as SVG's `hueRotate` does (W3C Filter Effects Module Level 1, 9.6; from memory)."""
    angle = numpy.radians((12, 40, 120)[strength])
    luma = numpy.array([[0.213, 0.715, 0.072]] * 3)
    turn = numpy.array([[-0.213, -0.715, 0.928], [0.143, 0.140, -0.283], [-0.787, 0.715, 0.072]])
    matrix = luma + numpy.cos(angle) * (numpy.eye(3) - luma) + numpy.sin(angle) * turn
    return image.convert("RGB", [one for row in matrix for one in (*row, 0)])


def _box(image, share, chance):
    edge = (share * image.width * image.height) ** 0.5
    left, top = (
        chance.uniform(2, image.width - edge - 2),
        chance.uniform(2, image.height - edge - 2),
    )
    return tuple(round(one) for one in (left, top, left + edge, top + edge))


def _patch(image, strength, chance):
    """A patch of 1, 2 or 4 % of the picture in a colour that is not there."""
    image, box = image.copy(), _box(image, (0.01, 0.02, 0.04)[strength], chance)
    mean = numpy.asarray(image.crop(box)).mean(axis=(0, 1))
    image.paste(tuple(int(255 - one) if abs(one - 128) > 40 else 30 for one in mean), box)
    return image


def _spot(image, strength, chance):
    """Something small that is added, as dark or light as it must be to be seen."""
    image = image.copy()
    left, top, right, bottom = _box(image, (0.003, 0.006, 0.012)[strength], chance)
    mean = numpy.asarray(image.crop((left, top, right, bottom)).convert("L")).mean()
    tone = (25, 22, 20) if mean > 110 else (235, 230, 220)
    ImageDraw.Draw(image).ellipse((left, top, right, bottom), fill=tone)
    return image


def _removed(image, strength, chance):
    """What was there is retouched away: cloned from beside it."""
    image = image.copy()
    left, top, right, bottom = _box(image, (0.02, 0.03, 0.05)[strength], chance)
    edge = right - left
    from_left = left - edge - 4 if left > edge + 6 else right + 4
    image.paste(image.crop((from_left, top, from_left + edge, bottom)), (left, top))
    return image


def _headline(image, strength, chance):
    image = image.copy()
    font = ImageFont.load_default(size=max(9, round(image.height * (0.06, 0.1, 0.16)[strength])))
    place = (image.width * 0.05, image.height * chance.uniform(0.1, 0.7))
    pen = ImageDraw.Draw(image)
    pen.text(place, "Spring tide", font=font, fill="white", stroke_width=1, stroke_fill="black")
    return image


def _caption(image, strength, _chance):
    """A caption on a bar at the lower edge."""
    image = image.copy()
    top = image.height - max(9, round(image.height * (0.05, 0.08, 0.12)[strength]))
    pen = ImageDraw.Draw(image)
    pen.rectangle((0, top, image.width, image.height), fill=(12, 30, 60))
    pen.text(
        (4, top), "The quay", font=ImageFont.load_default(image.height - top - 2), fill="white"
    )
    return image


def _stamp(image, strength, _chance):
    """A mark across the picture, more or less opaque."""
    layer = Image.new("RGBA", image.size, (0, 0, 0, 0))
    font = ImageFont.load_default(size=round(image.width / 9))
    opacity = (90, 150, 255)[strength]
    ImageDraw.Draw(layer).text(
        (image.width * 0.1, image.height * 0.4),
        "SAMPLE COPY",
        font=font,
        fill=(255, 255, 255, opacity),
    )
    return Image.alpha_composite(image.convert("RGBA"), layer).convert("RGB")


def _blurred(image, strength, _chance):
    return image.filter(ImageFilter.GaussianBlur((1.6, 2.5, 4)[strength]))


def _blurred_place(image, strength, chance):
    """A face or a number plate that is not to be known."""
    edge = int((0.05 * image.width * image.height) ** 0.5)
    grey = numpy.asarray(image.convert("L"), float)
    rough = [
        (grey[y : y + edge, x : x + edge].std(), x, y)
        for y in range(2, image.height - edge - 2, 6)
        for x in range(2, image.width - edge - 2, 6)
    ]
    _, left, top = max(rough)
    box = (left, top, left + edge, top + edge)
    image = image.copy()
    image.paste(image.filter(ImageFilter.GaussianBlur((2, 3, 5)[strength])).crop(box), box)
    return image


def _nothing(image, _strength, _chance):
    return image


def _quality(image, strength, _chance):
    return image


@dataclass(frozen=True)
class Kind:
    """A change, what is right for it, and the JPEG qualities an image with it is saved with."""

    name: str
    change: object
    right: str
    qualities: tuple = (None, 75, 90)


KINDS = (
    Kind("nothing but smaller", _kernel, REPLACE, (None, None, None)),
    Kind("compressed", _quality, REPLACE, (45, 65, 85)),
    Kind("sharpened", _sharpened, REPLACE),
    Kind("grainy", _noise, REPLACE),
    Kind("darker", _darker, REPLACE),
    Kind("lighter", _lighter, REPLACE),
    Kind("contrast", _contrast, REPLACE),
    Kind("saturation", _saturation, REPLACE),
    Kind("grey", _grey, REPLACE),
    Kind("sepia", _sepia, REPLACE),
    Kind("warmer", _warmer, REPLACE),
    Kind("hue turned", _hue, REPLACE),
    Kind("patch", _patch, LEAVE),
    Kind("spot added", _spot, LEAVE),
    Kind("retouched away", _removed, LEAVE),
    Kind("headline", _headline, LEAVE),
    Kind("caption", _caption, LEAVE),
    Kind("stamped", _stamp, LEAVE),
    Kind("blurred", _blurred, LEAVE),
    Kind("blurred in a place", _blurred_place, LEAVE),
)


def used(original, chance, area=None, px=(150, 420)):
    """A cut of an original on few pixels, and where its corners lie: left, top, right, bottom."""
    width, height = original.size
    area = area or float(chance.choice([0.3, 0.5, 0.8, 1.0]))
    aspect = chance.uniform(0.8, 1.25) if area < 1 else 1.0
    part_w = min(width, width * area**0.5 * aspect)
    part_h = min(height, width * height * area / part_w)
    left, top = chance.uniform(0, width - part_w), chance.uniform(0, height - part_h)
    box = (left, top, left + part_w, top + part_h)
    edge = chance.uniform(*px)
    size = round(edge), max(24, round(edge * part_h / part_w))
    return original.resize(size, Image.Resampling.LANCZOS, box=box), box


def changed(image, kind, strength, chance):
    """An image with a change, and the quality of its JPEG, None without loss."""
    made = kind.change(image, strength, chance)
    quality = kind.qualities[strength]
    return (jpeg(made, quality) if quality else made), quality


def looks_like(image, other):
    """The mean and, of a hundredth of it, the most CIE76 difference of two images, coarsely."""
    size = max(4, image.width // 4), max(4, image.height // 4)
    labs = [
        rgb2lab(numpy.asarray(one.convert("RGB").resize(size, Image.Resampling.BOX)))
        for one in (image, other)
    ]
    apart = deltaE_cie76(*labs)
    return float(apart.mean()), float(numpy.percentile(apart, 99))
