"""A state folder of its own for a campaign that imports this: its studies are nobody's drafts, and nothing is left.

Where the program was told already where to keep its state, as in tests, that holds.
"""

import os
import tempfile
from pathlib import Path

__all__ = ["clear_state", "peak_megabytes"]

_folder = None if "XDG_STATE_HOME" in os.environ else tempfile.TemporaryDirectory(prefix="culvix-state-")
if _folder is not None:
    os.environ["XDG_STATE_HOME"] = _folder.name


def clear_state() -> None:
    """Take the folder away."""
    if _folder is not None:
        _folder.cleanup()


def peak_megabytes() -> int:
    """The most memory that this process took; what the one took that started it does not count."""
    line = next(each for each in Path("/proc/self/status").read_text().splitlines() if each.startswith("VmHWM"))
    return int(line.split()[1]) >> 10
