"""A state folder of its own for a campaign: its studies are nobody's drafts, and nothing of them is left."""

import os
import tempfile
from collections.abc import Callable

__all__ = ["own_state"]


def own_state() -> Callable[[], None]:
    """Let the program keep its state in a temporary folder, unless it was told where to; what takes that away."""
    if "XDG_STATE_HOME" in os.environ:
        return lambda: None
    folder = tempfile.TemporaryDirectory(prefix="culvix-state-", ignore_cleanup_errors=True)
    os.environ["XDG_STATE_HOME"] = folder.name
    return folder.cleanup
