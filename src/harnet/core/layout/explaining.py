"""Why a placement has its verdict, in sentences with its own figures."""

from harnet.core.layout.figures import Figures
from harnet.core.layout.placing import Placement
from harnet.core.measure.units import Unit
from harnet.core.measure.verdict import Verdict
from harnet.core.measure.wording import limit_text, ppi_text, px_text, reach_text, size_text


def verdict_reasons(placement: Placement, figures: Figures, unit: Unit) -> list[str]:
    """How the density comes about, what the target asks, and what follows; in this order."""
    target, judged = figures.target, figures.judged_ppi
    if judged is None or figures.density is None:
        return ["A vector picture is drawn by lines, not by pixels: it prints sharp at any size."]
    now, wanted = ppi_text(judged), ppi_text(target.density_ppi)
    sentences = []
    if placement.source.is_vector:
        sentences.append(f"The least dense image inside this drawing stands at {now} ppi.")
    else:
        width, height = placement.drawn_size_pt
        pixels = px_text(int(placement.source.px_w), int(placement.source.px_h))
        sentences.append(
            f"The picture has {pixels} pixels and is drawn {size_text(width, height, unit)} large:"
            f" {now} pixels for each inch."
        )
        if figures.is_uneven:
            x, y = ppi_text(figures.density.x), ppi_text(figures.density.y)
            sentences.append(f"It is stretched, {x} by {y} ppi; the lower figure counts.")
    kind = " of 1-bit pictures" if figures.is_bilevel else ""
    sentences.append(
        f"{target.name} asks {wanted} ppi{kind}, lets {limit_text(target.passes_from_ppi)} pass,"
        f" and has its floor at {limit_text(target.floor_ppi)} and its ceiling at"
        f" {limit_text(target.ceiling_ppi)}."
    )
    reach = ""
    if figures.reach_w_pt is not None and figures.reach_h_pt is not None:
        reach = reach_text(figures.reach_w_pt, figures.reach_h_pt, unit)
    sentences.append(_MEANINGS[figures.verdict].format(now=now, wanted=wanted, reach=reach))
    return sentences


_MEANINGS = {
    Verdict.COARSE: (
        "{now} is below the floor: pixels show as steps. At {reach} at most it would be full."
    ),
    Verdict.THIN: (
        "{now} is above the floor and below what passes: it looks soft in print. At {reach} at"
        " most it would be full."
    ),
    Verdict.NEAR: "{now} is a little below {wanted} and within tolerance: hardly anybody sees it.",
    Verdict.FULL: "{now} is enough: it may grow to {reach}.",
    Verdict.SURPLUS: (
        "{now} is above the ceiling: it prints as well as any, with more pixels than the press"
        " can use. It may grow to {reach}."
    ),
}
