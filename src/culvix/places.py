"""The folders of the program's own, which nobody but their owner may look into, and temporary ones inside them.

Drafts, the log, settings, pasted tables, unpacked sources may show what is confidential: folders are made 0700 and
files 0600 from the first byte, and what an earlier version left open is mended at the start. Temporary folders bear
the mark of the process that made them, so that the next start takes away what a process left that is gone.
"""

import errno
import os
import shutil
import stat
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import platformdirs

__all__ = [
    "cache_folder",
    "config_folder",
    "data_folder",
    "make_private",
    "mend_permissions",
    "owner_mark",
    "remove_stale_scratch",
    "scratch_folder",
    "state_folder",
    "was_made_by_a_process_gone",
]

_NAME = "culvix"


def state_folder() -> Path:
    """Where drafts, the list of files opened lately and the log are; it need not be there yet."""
    return platformdirs.user_state_path(_NAME, appauthor=False)


def cache_folder() -> Path:
    """Where sources unpacked from studies and temporary folders are; it need not be there yet."""
    return platformdirs.user_cache_path(_NAME, appauthor=False)


def config_folder() -> Path:
    """Where preferences are; it need not be there yet."""
    return platformdirs.user_config_path(_NAME, appauthor=False)


def data_folder() -> Path:
    """Where pasted tables and samples of servers are; it need not be there yet."""
    return platformdirs.user_data_path(_NAME, appauthor=False)


def make_private(folder: Path) -> Path:
    """Make ``folder`` and those of the program's own above it, for their owner alone.

    Raises OSError where that cannot be done, or something else has its name.
    """
    roots = (state_folder(), cache_folder(), config_folder(), data_folder())
    root = next((root for root in roots if folder == root or root in folder.parents), folder)
    root.parent.mkdir(parents=True, exist_ok=True)
    parts = folder.relative_to(root).parts
    for depth in range(len(parts) + 1):
        each = root.joinpath(*parts[:depth])
        with suppress(FileExistsError):
            os.mkdir(each, 0o700)
        # Our own folder may be a link to another disk; what lies in it may not.
        found = os.lstat(each) if depth else os.stat(each)
        if not stat.S_ISDIR(found.st_mode):
            raise NotADirectoryError(errno.ENOTDIR, "something other than a folder has its name", str(each))
        if found.st_mode & 0o077 and found.st_uid == os.geteuid():
            os.chmod(each, 0o700)
    return folder


def mend_permissions() -> None:
    """Close what others could look into among the program's own files; links are not followed."""
    for root in {state_folder(), cache_folder(), config_folder(), data_folder()}:
        for folder, _, files in os.walk(root):
            for path, allowed in ((folder, 0o700), *((os.path.join(folder, name), 0o600) for name in files)):
                with suppress(OSError):
                    found = os.lstat(path)
                    is_ours = found.st_uid == os.geteuid() and not stat.S_ISLNK(found.st_mode)
                    if is_ours and found.st_mode & 0o077:
                        os.chmod(path, found.st_mode & allowed)


# Temporary folders


@contextmanager
def scratch_folder() -> Iterator[Path]:
    """A folder that is there as long as the context lasts, among the program's own. Raises OSError."""
    try:
        parent = make_private(cache_folder() / "scratch")
    except OSError:
        # Without a place of our own, the platform's has to do.
        parent = None
    folder = Path(tempfile.mkdtemp(prefix=f"{owner_mark()}-", dir=parent))
    try:
        yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def owner_mark() -> str:
    """This process in letters: its number, and when it began, as numbers are given again."""
    return f"{os.getpid()}.{_began(os.getpid())}"


def _began(process: int) -> str:
    """When a process began, in the system's ticks; empty where there is none of that number."""
    try:
        text = Path(f"/proc/{process}/stat").read_text(encoding="utf-8", errors="replace")
    except OSError:
        return ""
    return text.rpartition(")")[2].split()[19]


def was_made_by_a_process_gone(name: str) -> bool:
    """Whether the process whose mark ``name`` begins with is gone; something without a mark is nobody's."""
    number, _, began = name.partition("-")[0].partition(".")
    if not (number.isascii() and number.isdecimal() and len(number) < 10):
        return True
    return not began or began != _began(int(number))


def remove_stale_scratch() -> None:
    """Take away temporary folders of processes that are gone."""
    with suppress(OSError):
        for each in (cache_folder() / "scratch").iterdir():
            if was_made_by_a_process_gone(each.name):
                shutil.rmtree(each, ignore_errors=True)
