"""Writing files: each is there whole or not at all, and none is the source of a table.

The content goes into a temporary file beside the target, which then takes its place in one step. Where a process dies
in between, a note in the state folder names what is left, and the next start takes it away.
"""

import itertools
import os
import stat
import tempfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import platformdirs

from culvix.errors import WriteError

__all__ = ["display_path", "is_same_file", "remove_stale_files", "write_by", "write_whole"]

_PREFIX, _SUFFIX = ".culvix-", ".part"
_SHOWN = 120


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


def free_path(folder: Path, stem: str, suffix: str) -> Path:
    """A file in ``folder``, which is made, that is not there yet: ``stem``, with a number where that is taken.

    Raises WriteError where the folder cannot be made.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
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


def write_by(path: Path, write: Callable[[Path], object], *, sources: Iterable[Path] = ()) -> None:
    """The same, of a file that ``write`` fills at the place it is given. Raises whatever that raises besides."""
    for source in sources:
        if is_same_file(path, source):
            raise WriteError(f"{display_path(path)} is the table itself, which is never written; choose another name.")
    try:
        target = Path(os.path.realpath(path))
        _check_target(path, target)
        _replace(target, write)
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


def _replace(target: Path, write: Callable[[Path], object]) -> None:
    """Put a file that ``write`` fills in the place of ``target``."""
    handle, temporary = tempfile.mkstemp(dir=target.parent, prefix=_PREFIX, suffix=_SUFFIX)
    try:
        with _noted(temporary):
            with os.fdopen(handle, "wb") as file:
                write(Path(temporary))
                os.fsync(file.fileno())
                _take_over(file.fileno(), target)
            os.replace(temporary, target)
    except BaseException:
        with suppress(OSError):
            os.unlink(temporary)
        raise


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
    return Path(platformdirs.user_state_dir("culvix")) / "writing"


@contextmanager
def _noted(temporary: str) -> Iterator[None]:
    """Write down that ``temporary`` is being written, as long as it is."""
    note = _notes() / f"{os.getpid()}-{Path(temporary).name}"
    try:
        note.parent.mkdir(parents=True, exist_ok=True)
        note.write_bytes(os.fsencode(temporary))
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
        owner = note.name.partition("-")[0]
        if owner.isdecimal() and _is_running(int(owner)):
            continue
        with suppress(OSError):
            temporary = Path(os.fsdecode(note.read_bytes()))
            if temporary.name.startswith(_PREFIX) and temporary.name.endswith(_SUFFIX) and temporary.is_file():
                temporary.unlink()
                removed += 1
            note.unlink()
    return removed


def _is_running(process: int) -> bool:
    if process == os.getpid():
        return True
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except (PermissionError, OverflowError):
        return True
    return True
