"""The process: sees to what it may use, runs the command, and ends with its exit status."""

import os
import signal
import sys
from types import FrameType


def _stopped(number: int, frame: FrameType | None) -> None:
    """End a process that is only starting, in which nothing has to be put in order yet."""
    os.write(2, b"culvix: stopped; nothing was written.\n")
    os._exit(130)


if __name__ == "__main__":
    signal.signal(signal.SIGINT, _stopped)
    signal.pthread_sigmask(signal.SIG_UNBLOCK, {signal.SIGINT})

import logging  # noqa: E402 what is imported from here on takes time, in which the process may be stopped
import resource  # noqa: E402
import threading  # noqa: E402

__all__ = ["end_process", "run"]

_LEAST_MEMORY, _LEAST_FILES, _THREADS = 3 << 29, 128, 12


def end_process(status: int) -> None:
    """End at once, with all that was said written.

    The interpreter's own end takes the objects of a window down in no order of theirs, and may fault when all is done;
    and it would wait for a server that does not answer.
    """
    logging.shutdown()
    for stream in (sys.stdout, sys.stderr):
        try:
            stream.flush()
        except (OSError, ValueError):
            # Nobody reads it any more.
            status = status or 1
    os._exit(status)


def _shortage() -> str:
    """What this process may use too little of, in a sentence; libraries would end it in the middle without a word."""
    for limit in (resource.RLIMIT_AS, resource.RLIMIT_DATA):
        most = resource.getrlimit(limit)[0]
        if most != resource.RLIM_INFINITY and most < _LEAST_MEMORY:
            return f"this process may use {most >> 20} MB of memory; {_LEAST_MEMORY >> 20} are needed."
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    if soft != resource.RLIM_INFINITY and soft < _LEAST_FILES:
        if hard != resource.RLIM_INFINITY and hard < _LEAST_FILES:
            return f"this process may have {hard} files open; {_LEAST_FILES} are needed."
        resource.setrlimit(resource.RLIMIT_NOFILE, (_LEAST_FILES, hard))
    done = threading.Event()
    started: list[threading.Thread] = []
    try:
        for _ in range(_THREADS):
            started.append(threading.Thread(target=done.wait, daemon=True))
            started[-1].start()
    except RuntimeError:
        return f"this process may start {len(started) - 1} threads; {_THREADS} are needed."
    finally:
        done.set()
    return ""


def run() -> None:
    """Run the command that the process was started with."""
    # Processes that are started from this one import nothing from the current folder, either.
    os.environ["PYTHONSAFEPATH"] = "1"
    shortage = _shortage()
    if shortage:
        print(f"culvix: {shortage}", file=sys.stderr)
        end_process(2)
    from culvix.cli import main

    end_process(main())


if __name__ == "__main__":
    run()
