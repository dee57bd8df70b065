"""The facts of a picture as lines of text."""

from harnet.core.layout.placing import placed_at_native_size, source_from
from harnet.core.measure.density import native_length_pt
from harnet.core.measure.units import Unit
from harnet.core.measure.wording import (
    bytes_text,
    counted,
    grouped,
    memory_text,
    ppi_text,
    px_text,
    size_text,
)
from harnet.core.pictures.colour_words import COLOUR_WORDS
from harnet.core.pictures.picture import Facts
from harnet.core.pictures.rights import UNSTATED
from harnet.store.tables.pictures import Picture


def fact_lines(picture: Picture, facts: Facts) -> list[tuple[str, str]]:
    """The facts as a list of names and texts."""
    lines = []
    if facts.is_vector:
        natural = size_text(facts.width_pt or 0, facts.height_pt or 0, Unit.MM)
        lines.append(("Natural size", natural))
        lines += _inside_lines(facts)
    else:
        pixels = f"{px_text(facts.px_w, facts.px_h)} · {facts.megapixels:.1f} megapixels"
        lines.append(("Pixels", pixels))
        lines.append(("Density tag", _tag_text(facts)))
        if facts.density_unit is not None:
            lines.append(("Tag as written", _written_text(facts)))
        lines.append(("Native size", _native_text(facts)))
        lines.append(("Colour", _colour_text(facts)))
        lines.append(("Alpha", "yes" if facts.alpha else "no"))
    lines.append(("File", _file_text(facts)))
    if not facts.is_vector:
        lines.append(("Unpacked", memory_text(facts.unpacked_bytes)))
    if facts.frames > 1:
        has_pages = facts.format in ("pdf", "tiff")
        lines.append(("Pages" if has_pages else "Frames", _frames_text(facts, has_pages)))
    rights = " · ".join(text for text in (picture.licence, picture.credit) if text)
    lines.append(("Rights", rights or UNSTATED))
    lines.append(("Content", f"SHA-256 {picture.sha256[:12]}…"))
    return lines


def _inside_lines(facts: Facts) -> list[tuple[str, str]]:
    """The pixels inside a drawing: none, or those of its images at its natural size."""
    if not facts.images:
        return [("Pixels", "none: vector, sharp at any size")]
    natural = placed_at_native_size(source_from(facts), 0, 0)
    worst = facts.images[0]
    density = natural.density
    assert density is not None
    return [
        ("Images inside", grouped(facts.image_count)),
        (
            "Least dense",
            f"{px_text(worst.px_w, worst.px_h)} px, {ppi_text(density.judged)} ppi at that size",
        ),
    ]


def _colour_text(facts: Facts) -> str:
    if facts.colour.value == "bilevel":
        return "1-bit, ink or paper"
    return f"{COLOUR_WORDS[facts.colour]} · {facts.bits}-bit · {facts.icc or 'no profile'}"


def _tag_text(facts: Facts) -> str:
    if facts.density_x is None or facts.density_y is None:
        return "none"
    text = f"{ppi_text(facts.density_x)} ppi"
    if abs(facts.density_x - facts.density_y) >= 0.5:
        text = f"{ppi_text(facts.density_x)} × {ppi_text(facts.density_y)} ppi"
    return text


def _written_text(facts: Facts) -> str:
    """The density tag as the file has it."""
    unit = facts.density_unit
    assert unit is not None and facts.density_x is not None and facts.density_y is not None
    x, y = (f"{density / unit.per_inch:.6g}" for density in (facts.density_x, facts.density_y))
    figure = x if x == y else f"{x} × {y}"
    return f"{figure} px/{unit.value}"


def _frames_text(facts: Facts, has_pages: bool) -> str:
    text = grouped(facts.frames) if has_pages else counted(facts.frames, "frame")
    return f"{text}, of which the first is placed"


def _native_text(facts: Facts) -> str:
    width = native_length_pt(facts.px_w or 0, facts.density_x)
    height = native_length_pt(facts.px_h or 0, facts.density_y)
    text = size_text(width, height, Unit.CM)
    return text if facts.density_x else f"{text}, 72 ppi assumed"


def _file_text(facts: Facts) -> str:
    parts = [facts.format.upper()]
    if facts.jpeg_quality is not None:
        parts.append(f"quality ≈ {facts.jpeg_quality}")
    elif facts.compression and facts.compression not in ("JPEG", facts.format.upper()):
        parts.append("unpacked" if facts.compression == "none" else facts.compression)
    if not facts.is_vector:
        parts.append("lossy" if facts.lossy else "lossless")
    parts.append(bytes_text(facts.size_bytes))
    return " · ".join(parts)
