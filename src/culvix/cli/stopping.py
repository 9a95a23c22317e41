"""A request to end, taken in order wherever the work is."""

import signal
import threading
from collections.abc import Iterator
from contextlib import contextmanager

from culvix.errors import Cancelled

__all__ = ["check_stopped", "ending_in_order"]

_stop = threading.Event()
"""Set once the work should end; what computes in other threads looks at it with each step."""


@contextmanager
def ending_in_order() -> Iterator[None]:
    """Take a request to end like an interrupt from the keyboard, so that nothing half written is left."""

    def end(*_: object) -> None:
        _stop.set()
        raise KeyboardInterrupt

    _stop.clear()
    if threading.current_thread() is not threading.main_thread():
        yield
        return
    before = [(number, signal.signal(number, end)) for number in (signal.SIGINT, signal.SIGTERM)]
    try:
        yield
    finally:
        for number, handler in before:
            signal.signal(number, handler)


def check_stopped() -> None:
    """Raise Cancelled once the work should end."""
    if _stop.is_set():
        raise Cancelled("Stopped.")
