"""Whether the clock of this machine was set: everything then looks older than it is."""

import time

_UNNOTICED_SECONDS = 60.0


class Clock:
    """Compares the clock that can be set with the one that only counts."""

    def __init__(self) -> None:
        self._apart = time.time() - time.monotonic()

    def was_set(self) -> bool:
        """Whether it was set by more than a minute since the last time this was asked.

        A machine that slept looks as if: its counting clock stood still.
        """
        apart = time.time() - time.monotonic()
        is_set = abs(apart - self._apart) > _UNNOTICED_SECONDS
        self._apart = apart
        return is_set
