"""Memory that is free, given back to the system while nothing is under way.

Threads that work on columns leave holes behind in the C library's heaps, which it keeps for later; over a long session
they add up to more than what is in use.
"""

import ctypes
import time

from PyQt6.QtCore import QObject, QThreadPool

from culvix.app.session.jobs import JobRunner

__all__ = ["FreeMemory"]

_BETWEEN_S = 5.0


class FreeMemory(QObject):
    """Gives free memory back when the jobs have come to rest, not more often than every few seconds."""

    def __init__(self, jobs: JobRunner) -> None:
        super().__init__(jobs)
        # Other C libraries than that of GNU keep less, and have no such function.
        self._trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
        self._last = time.monotonic()
        jobs.idle.connect(self._rested)

    def _rested(self) -> None:
        pool, trim = QThreadPool.globalInstance(), self._trim
        if trim is None or pool is None or time.monotonic() - self._last < _BETWEEN_S:
            return
        self._last = time.monotonic()
        pool.start(lambda: trim(0))
