"""How far background work is: the states of an output or a print copy."""

WAITING, WORKING, DONE, FAILED, CANCELLED = "waiting", "working", "done", "failed", "cancelled"
RUNNING = (WAITING, WORKING)


class Cancelled(Exception):
    """The work was cancelled while it was being done."""
