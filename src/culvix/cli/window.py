"""`culvix FILE`: a window, with a table where one is named."""

from collections.abc import Sequence
from pathlib import Path

from culvix.cli.parsing import Parser
from culvix.errors import CulvixError, ReadError
from culvix.files import display_path
from culvix.version import VERSION

_USAGE = """culvix FILE                      open FILE in a window
       culvix inspect FILE -o OUT.json  write what reading the file found, as data
       culvix profile FILE -o OUT.json  write every number of the core as data
       culvix report FILE -o OUT.html   write the report
       culvix demo                      open the example study
       culvix --help | --version"""

__all__ = ["open_window"]


def open_window(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    parser = Parser(prog="culvix", usage=_USAGE, description="Profile the numeric columns of a table.")
    parser.add_argument("file", metavar="FILE", type=Path, nargs="?", help="a table to open")
    parser.add_argument("--version", action="version", version=f"culvix {VERSION}")
    options = parser.parse_args(arguments)
    from culvix.app.shell.start import has_display, run_window

    if options.file is not None:
        _check_readable(options.file)
    if not has_display():
        raise CulvixError("There is no display to open a window on; “culvix report” and “culvix profile” need none.")
    return run_window(options.file)


def _check_readable(path: Path) -> None:
    """Refuse what could never be opened before a window comes up."""
    from culvix.tables.reading.sources import checked_file

    with checked_file(path) as file:
        if not file.read(1):
            raise ReadError(f"{display_path(Path(path.name))} is empty: there is nothing in it to read.")
