"""The density ruler's scale: steps of a sixteenth of an octave, counted from the target."""

import math

STEPS_AN_OCTAVE = 16
STEP_HAIR = 1e-9
"""What lies so little below a step stands on it; in steps."""


def ruler_step(headroom: float) -> int:
    """The step that a placement stands on; step 0 begins at the target, so no dot crosses it.

    >>> ruler_step(0.0), ruler_step(1.0), ruler_step(-0.01)
    (0, 16, -1)
    """
    return math.floor(STEPS_AN_OCTAVE * math.log2(1 + headroom) + STEP_HAIR)


def step_headroom(step: float) -> float:
    """The headroom at which a step begins."""
    return float(2 ** (step / STEPS_AN_OCTAVE) - 1)
