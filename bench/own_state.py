"""A state folder of its own for a campaign that imports this: its studies are nobody's drafts, and nothing is left.

Where the program was told already where to keep its state, as in tests, that holds.
"""

import os
import tempfile

__all__ = ["clear_state"]

_folder = None if "XDG_STATE_HOME" in os.environ else tempfile.TemporaryDirectory(prefix="culvix-state-")
if _folder is not None:
    os.environ["XDG_STATE_HOME"] = _folder.name


def clear_state() -> None:
    """Take the folder away."""
    if _folder is not None:
        _folder.cleanup()
