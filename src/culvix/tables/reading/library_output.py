"""What libraries print of their own when they give up goes to the log, so that a refusal stays one line."""

import logging
import os
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock

__all__ = ["library_output_to_log"]

_log = logging.getLogger("culvix.libraries")
_one_at_a_time = Lock()
_STANDARD_ERROR = 2
_MOST = 20_000


@contextmanager
def library_output_to_log() -> Iterator[None]:
    """While this lasts, what is written to the file of standard error, by whatever code, is logged instead."""
    with _one_at_a_time, os.fdopen(os.memfd_create("library output"), "w+b") as caught:
        try:
            before = os.dup(_STANDARD_ERROR)
        except OSError:
            # There is no standard error to keep clean.
            yield
            return
        os.dup2(caught.fileno(), _STANDARD_ERROR)
        try:
            yield
        finally:
            os.dup2(before, _STANDARD_ERROR)
            os.close(before)
            caught.seek(0)
            words = caught.read(_MOST).decode("utf-8", errors="replace").strip()
            if words:
                _log.info("a library wrote: %s", words)
