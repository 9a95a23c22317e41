"""Files read and written: what is read is a regular file of a size that is looked at first; what is written is there
whole or not at all, and is never the source of a table.

What is written goes into a temporary file beside the target, which then takes its place in one step. Where a process
dies in between, a note in the state folder names what is left, and the next start takes it away.
"""

import itertools
import os
import stat
import tempfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO

from culvix.errors import ReadError, WriteError
from culvix.places import make_private, owner_mark, state_folder, was_made_by_a_process_gone

__all__ = [
    "display_path",
    "free_path",
    "is_same_file",
    "open_regular",
    "read_whole",
    "remove_stale_files",
    "write_by",
    "write_private",
    "write_whole",
]

_PREFIX, _SUFFIX = ".culvix-", ".part"
_SHOWN = 120
_LONGEST_PATH = 4096


def display_path(path: Path) -> str:
    """A path as it can be shown and written down: no longer than a line, and without bytes that are no text."""
    text = os.fsencode(path).decode("utf-8", errors="replace")
    return text if len(text) <= _SHOWN else f"…{text[-_SHOWN:]}"


def is_same_file(one: Path, other: Path) -> bool:
    """Whether two paths lead to one file, by whatever links."""
    try:
        return os.path.samefile(one, other)
    except (OSError, ValueError):
        return os.path.realpath(one) == os.path.realpath(other)


# Reading


def open_regular(path: Path, *, follow_links: bool = True) -> IO[bytes]:
    """The regular file at ``path``, open for reading; what a name or a link leads to is looked at before and after.

    Raises ReadError for a folder, a device, a pipe, a socket, or a link that is not to be followed, and OSError.
    """
    try:
        _check_regular(path, (os.stat if follow_links else os.lstat)(path))
        flags = os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK | os.O_NOCTTY | (0 if follow_links else os.O_NOFOLLOW)
        handle = os.open(path, flags)
    except ValueError as error:
        raise ReadError(f"{display_path(path)} is not the path of a file: {error}.") from error
    try:
        _check_regular(path, os.fstat(handle))
        return os.fdopen(handle, "rb")
    except BaseException:
        os.close(handle)
        raise


def _check_regular(path: Path, found: os.stat_result) -> None:
    if stat.S_ISDIR(found.st_mode):
        raise ReadError(f"{display_path(path)} is a folder; choose a file in it, or draw a sample of all.")
    if not stat.S_ISREG(found.st_mode):
        raise ReadError(f"{display_path(path)} is a device or a pipe, not a file, so it cannot be read as a table.")


def read_whole(path: Path, most: int) -> bytes:
    """The content of the regular file at ``path``, ``most`` bytes at the most. Raises ReadError."""
    try:
        with open_regular(path) as file:
            data = file.read(most + 1)
    except OSError as error:
        raise ReadError(
            f"{display_path(path)} cannot be read: {(error.strerror or 'unknown error').lower()}."
        ) from error
    if len(data) > most:
        raise ReadError(f"{display_path(path)} is longer than {most >> 20} MB, which no such file is.")
    return data


# Writing


def free_path(folder: Path, stem: str, suffix: str) -> Path:
    """A file in ``folder``, which is made for its owner, that is not there yet: ``stem``, or that with a number.

    Raises WriteError where the folder cannot be made.
    """
    try:
        make_private(folder)
    except OSError as error:
        raise WriteError(f"{display_path(folder)} cannot be written: {(error.strerror or '').lower()}.") from error
    names = itertools.chain([stem], (f"{stem} ({number})" for number in itertools.count(2)))
    return next(path for name in names if not (path := folder / f"{name}{suffix}").exists())


def write_whole(path: Path, content: bytes, *, sources: Iterable[Path] = ()) -> None:
    """Write ``content`` to ``path``, whole or not at all; links are followed, permissions of an old file kept.

    Raises WriteError with a sentence where that cannot be done, or ``path`` is one of the ``sources``, which are never
    written.
    """
    write_by(path, lambda temporary: temporary.write_bytes(content), sources=sources)


def write_private(path: Path, content: bytes) -> None:
    """Write a file of the program's own, for its owner alone, in a folder that is made. Raises WriteError."""
    try:
        make_private(path.parent)
    except OSError as error:
        raise WriteError(f"{display_path(path.parent)} cannot be made: {(error.strerror or '').lower()}.") from error
    write_by(path, lambda temporary: temporary.write_bytes(content), private=True)


def write_by(
    path: Path, write: Callable[[Path], object], *, sources: Iterable[Path] = (), private: bool = False
) -> None:
    """The same as `write_whole`, of a file that ``write`` fills at the place it is given.

    One that is ``private`` can be read by its owner only. Raises whatever ``write`` raises besides.
    """
    for source in sources:
        if is_same_file(path, source):
            raise WriteError(f"{display_path(path)} is the table itself, which is never written; choose another name.")
    try:
        target = Path(os.path.realpath(path))
        _check_target(path, target)
        _replace(target, write, private=private)
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or str(error) or "unknown error"
        raise WriteError(f"{display_path(path)} cannot be written: {why.lower()}.") from error


def _check_target(path: Path, target: Path) -> None:
    with suppress(FileNotFoundError):
        mode = os.stat(target).st_mode
        if stat.S_ISDIR(mode):
            raise WriteError(f"{display_path(path)} is a folder; give the name of a file in it.")
        if not stat.S_ISREG(mode):
            raise WriteError(f"{display_path(path)} is a device or a pipe, not a file; nothing is written there.")


def _replace(target: Path, write: Callable[[Path], object], *, private: bool) -> None:
    """Put a file that ``write`` fills in the place of ``target``."""
    with _unfinished_beside(target) as unfinished:
        write(unfinished)
        handle = os.open(unfinished, os.O_RDONLY | os.O_CLOEXEC | os.O_NOFOLLOW)
        try:
            os.fsync(handle)
            if not private:
                _take_over(handle, target)
        finally:
            os.close(handle)
        os.replace(unfinished, target)


@contextmanager
def _unfinished_beside(target: Path) -> Iterator[Path]:
    """An empty file beside ``target``, for its owner alone, that goes with the context unless it took a place.

    Raises OSError.
    """
    handle, temporary = tempfile.mkstemp(dir=target.parent, prefix=_PREFIX, suffix=_SUFFIX)
    os.close(handle)
    try:
        with _noted(temporary):
            yield Path(temporary)
    finally:
        with suppress(FileNotFoundError):
            os.unlink(temporary)


def _take_over(handle: int, target: Path) -> None:
    """Give the new file the permissions of the old one, or those a new file gets."""
    try:
        old = os.stat(target)
    except FileNotFoundError:
        os.fchmod(handle, 0o666 & ~_umask())
        return
    with suppress(PermissionError):
        os.fchown(handle, old.st_uid, old.st_gid)
    os.fchmod(handle, stat.S_IMODE(old.st_mode))


def _umask() -> int:
    """What new files are not to be allowed; read without setting it, which other threads would feel."""
    with suppress(OSError, ValueError):
        for line in Path("/proc/self/status").read_text().splitlines():
            if line.startswith("Umask:"):
                return int(line.split()[1], 8)
    return 0o022


# What a process that died has left


def _notes() -> Path:
    return state_folder() / "writing"


@contextmanager
def _noted(temporary: str) -> Iterator[None]:
    """Write down that ``temporary`` is being written, as long as it is."""
    note = _notes() / f"{owner_mark()}-{Path(temporary).name}"
    try:
        make_private(note.parent)
        handle = os.open(note, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o600)
        with os.fdopen(handle, "wb") as file:
            file.write(os.fsencode(os.path.abspath(temporary)))
    except OSError:
        # Without a state folder files are written all the same; only what a dying process leaves then stays.
        yield
        return
    try:
        yield
    finally:
        with suppress(OSError):
            note.unlink()


def remove_stale_files() -> int:
    """Take away temporary files of processes that are gone; returns how many there were."""
    removed = 0
    try:
        notes = list(_notes().iterdir())
    except OSError:
        return 0
    for note in notes:
        if not was_made_by_a_process_gone(note.name):
            continue
        with suppress(OSError, ValueError, ReadError):
            with open_regular(note, follow_links=False) as file:
                temporary = Path(os.fsdecode(file.read(_LONGEST_PATH)))
            is_ours = temporary.name.startswith(_PREFIX) and temporary.name.endswith(_SUFFIX)
            if is_ours and stat.S_ISREG(os.lstat(temporary).st_mode):
                temporary.unlink()
                removed += 1
        with suppress(OSError):
            note.unlink()
    return removed
