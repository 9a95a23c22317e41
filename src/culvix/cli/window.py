"""`culvix FILE`: a window, with a table where one is named."""

import os
from collections.abc import Sequence
from pathlib import Path

from culvix.cli.parsing import Parser, path_of_file
from culvix.errors import CulvixError, ReadError
from culvix.files import display_path
from culvix.version import VERSION

_USAGE = """culvix FILE                         open FILE, a table or a study, in a window
       culvix FILE --recipe RECIPE         run RECIPE on FILE, and open what results
       culvix postgresql://host/database   choose a table of a server, in a window
       culvix inspect FILE -o OUT.json     write what reading the file found, as data
       culvix profile FILE -o OUT.json     write every number of the core as data
       culvix report FILE -o OUT.html      write the report
       culvix clean STUDY -o OUT.csv       write the table with the decisions applied
       culvix recipe STUDY -o RECIPE.json  write what was said of the table, for the next one
       culvix compare FILE OTHER -o OUT    compare a table with another one, as data or to be read
       culvix apply RECIPE FILE -o OUT     run a recipe on another table
       culvix tables ADDRESS               list the tables of a server
       culvix whole ADDRESS -o OUT.json    survey a whole table of any size where it lies
       culvix sample ADDRESS -o OUT.parquet  draw rows of a table of any size
       culvix remembered                   list or erase what Culvix remembers of your work
       culvix desktop --install            make studies open with a double click
       culvix demo                         open the example study
       culvix --help | --version"""

__all__ = ["open_window", "window_parser"]


def window_parser() -> Parser:
    parser = Parser(
        prog="culvix",
        usage=_USAGE,
        description="Profile the numeric columns of a table: shape, normality, outliers and what was decided about "
        "them, correlation, and a report. Each command has a --help of its own.",
    )
    parser.add_argument(
        "file", metavar="FILE", nargs="?", help="a table or a study to open, or the address of a server or folder"
    )
    parser.add_argument("--recipe", metavar="RECIPE", type=path_of_file, help="run this recipe on the table first")
    parser.add_argument("--version", action="version", version=f"culvix {VERSION}")
    return parser


def open_window(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = window_parser().parse_args(arguments)
    from culvix.app.shell.start import has_display, run_window
    from culvix.tables.engines import NO_PLACE, is_address, looks_like_address
    from culvix.tables.engines.postgres.address import parse_address

    address = options.file if options.file and (is_address(options.file) or os.path.isdir(options.file)) else ""
    if options.file and not address and looks_like_address(options.file) and not os.path.exists(options.file):
        raise ReadError(NO_PLACE)
    if address and is_address(address):
        parse_address(address)
    file = Path(options.file) if options.file is not None and not address else None
    if file is not None:
        _check_readable(file)
    if options.recipe is not None:
        _check_recipe(options.recipe, file)
    if not has_display():
        raise CulvixError("There is no display to open a window on; “culvix report” and “culvix profile” need none.")
    return run_window(file, options.recipe, address)


def _check_recipe(recipe: Path, file: Path | None) -> None:
    """Refuse a recipe that could never be run before a window comes up."""
    from culvix.study.recipes.recipe_format import load_recipe

    if file is None:
        raise CulvixError("A recipe is run on a table; name its file, too.")
    load_recipe(recipe)


def _check_readable(path: Path) -> None:
    """Refuse what could never be opened before a window comes up."""
    from culvix.tables.reading.sources import checked_file

    with checked_file(path) as file:
        if not file.read(1):
            raise ReadError(f"{display_path(Path(path.name))} is empty: there is nothing in it to read.")
