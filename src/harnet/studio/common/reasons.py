"""Why something may pass, and who says so."""

from harnet.store.acting import actor_name
from harnet.studio.common.errors import Refused


def reason_given(reason: str, name: str) -> tuple[str, str]:
    """A reason and a name as they are kept.

    Raises:
        Refused: no reason, or nobody's name.
    """
    reason, name = trimmed(reason, name)
    if not reason:
        raise Refused("Give a reason; whoever prints this will read it.")
    if not name:
        raise Refused("Give your name.")
    return reason, name


def trimmed(reason: str, name: str) -> tuple[str, str]:
    """A reason and a name without needless spaces, as long as they may be.

    Whoever has signed in cannot give another name than their own.
    """
    return " ".join(reason.split())[:1000], actor_name() or " ".join(name.split())[:120]
