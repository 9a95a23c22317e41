"""Which studies are open in a window of this user, so that two windows do not write to one file.

A lock is held on a file of its own in the state folder, never on the study: SQLite's own locks on a file end when any
other handle to it is closed. It ends with the process that holds it, however that ends.
"""

import fcntl
import os
from hashlib import sha256
from pathlib import Path

from culvix.places import make_private, state_folder

__all__ = ["StudyLock"]


class StudyLock:
    """Held as long as the study at a path is open here; made by `take`."""

    def __init__(self, handle: int) -> None:
        self._handle: int | None = handle

    @classmethod
    def take(cls, path: Path) -> "StudyLock | None":
        """The lock of the study at ``path``; None where another window holds it.

        Where the state folder cannot be written nobody can know, and the lock is given.
        """
        name = sha256(os.fsencode(os.path.realpath(path))).hexdigest()[:32]
        try:
            folder = make_private(state_folder() / "open")
            handle = os.open(folder / name, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NOFOLLOW, 0o600)
        except OSError:
            return cls(-1)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(handle)
            return None
        return cls(handle)

    @classmethod
    def is_free(cls, path: Path) -> bool:
        """Whether no window has the study at ``path`` open."""
        lock = cls.take(path)
        if lock is not None:
            lock.release()
        return lock is not None

    def release(self) -> None:
        """Let others open the study."""
        handle, self._handle = self._handle, None
        if handle is not None and handle >= 0:
            os.close(handle)
