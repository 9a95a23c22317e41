"""The process: runs the command and ends with its exit status."""

import logging
import os
import sys

from culvix.cli import main

__all__ = ["end_process", "run"]


def end_process(status: int) -> None:
    """End at once, with all that was said written.

    The interpreter's own end takes the objects of a window down in no order of theirs, and may fault when all is done.
    """
    logging.shutdown()
    for stream in (sys.stdout, sys.stderr):
        stream.flush()
    os._exit(status)


def run() -> None:
    """Run the command that the process was started with."""
    status = main()
    if "PyQt6.QtWidgets" in sys.modules:
        end_process(status)
    sys.exit(status)


if __name__ == "__main__":
    run()
