"""The grain marks as one hidden SVG of symbols: dots that get finer as density rises."""

from harnet.core.layout.figures import Figures
from harnet.core.measure.verdict import Verdict

_DOTS = {
    Verdict.COARSE: 2,
    Verdict.THIN: 3,
    Verdict.NEAR: 4,
    Verdict.FULL: 5,
    Verdict.SURPLUS: 7,
}
_SIZE = 14.0
_RADIUS_SHARE = 0.36


def mark_of(figures: Figures) -> str:
    """The name of the grain mark that goes with a verdict: vector art has its own."""
    return "line" if figures.is_vector else figures.verdict.value


def sprite() -> str:
    """The symbols `grain-coarse` … `grain-surplus`, `grain-line` and `grain-unknown`."""
    symbols = [_symbol(verdict.value, _dots(count)) for verdict, count in _DOTS.items()]
    stroke = 'fill="none" stroke="currentColor"'
    symbols.append(
        _symbol("line", f'<path d="M1 11.5C4 1 9.5 13 13 2.5" {stroke} stroke-width="2"/>')
    )
    square = f'<rect x="1.5" y="1.5" width="11" height="11" {stroke} stroke-dasharray="2.4 2"/>'
    symbols.append(_symbol("unknown", square))
    return f'<svg width="0" height="0" class="sprite" aria-hidden="true">{"".join(symbols)}</svg>'


def _symbol(name: str, shapes: str) -> str:
    # Nothing leaves its box, and clipping each mark to it costs a page of hundreds dearly.
    box = f'viewBox="0 0 {_SIZE:g} {_SIZE:g}" overflow="visible"'
    return f'<symbol id="grain-{name}" {box}>{shapes}</symbol>'


def _dots(count: int) -> str:
    """All dots as one shape: a browser paints hundreds of marks at every move of the hand."""
    pitch = _SIZE / count
    radius = pitch * _RADIUS_SHARE
    arc = f"{radius:.2f} {radius:.2f} 0 1 0"
    dots = "".join(
        f"M{(column + 0.5) * pitch - radius:.2f} {(row + 0.5) * pitch:.2f}"
        f"a{arc} {2 * radius:.2f} 0a{arc} {-2 * radius:.2f} 0z"
        for row in range(count)
        for column in range(count)
    )
    return f'<path d="{dots}" fill="currentColor"/>'
