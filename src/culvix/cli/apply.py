"""`culvix apply`: a recipe run on another table, with all that a person must look at."""

import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from culvix.cli.outputs import check_outputs, write_output
from culvix.cli.parsing import Parser, is_study, progress_shown
from culvix.progress import Progress

if TYPE_CHECKING:
    from culvix.study.recipes.recipe import Recipe

__all__ = ["apply", "apply_parser"]

NEEDS_A_LOOK = 3
"""The exit status where everything was written, but a person must look."""


def apply_parser(*, add_help: bool = True) -> Parser:
    parser = Parser(
        prog="culvix apply",
        add_help=add_help,
        description="Read FILE the way RECIPE says, describe it, make the recipe's decisions again, and compare it "
        "with the table that the recipe was made with. Exit status 0: done; 3: done, but a person must look, for the "
        "reasons on standard error; 2: it cannot be done.",
    )
    parser.add_argument("recipe", metavar="RECIPE", type=Path, help="a recipe (from “culvix recipe”), or a study")
    parser.add_argument("file", metavar="FILE", type=Path, help="the table to run it on, or a study of it")
    parser.add_argument(
        "-o",
        "--output",
        metavar="OUT",
        type=Path,
        action="append",
        default=[],
        help="file to write; its ending says what: a study (.culvix), the report (.html, .pdf, .docx, .md), the "
        "profile document (.json) or the cleaned table (.csv, .parquet, .xlsx); repeatable",
    )
    parser.add_argument(
        "--log", metavar="LOG.json", type=Path, help="write what was done, and what to look at, as data"
    )
    return parser


def _recipe_in(path: Path, progress: Progress) -> "Recipe":
    """The recipe in the file at ``path``, or that of the study that it holds."""
    from culvix.study.recipes.recipe import recipe_of
    from culvix.study.recipes.recipe_format import load_recipe
    from culvix.study.storage.reopening import reopen

    if not is_study(path):
        return load_recipe(path)
    study = reopen(path, lambda share, doing: progress(0.1 * share, doing))
    return recipe_of(study.workspace, study.history)


def _table_of(path: Path) -> Path:
    """The table to read: the file at ``path``, or what the study in it is about."""
    from culvix.study.storage.reopening import find_source
    from culvix.study.storage.study_reading import read_study

    return find_source(path, read_study(path).current.origin.path) if is_study(path) else path


def apply(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = apply_parser().parse_args(arguments)
    check_outputs(options.output)
    from culvix.files import write_whole
    from culvix.report.documents.apply_log import apply_log
    from culvix.study.recipes.applying import apply_recipe

    with progress_shown() as progress:
        recipe, table = _recipe_in(options.recipe, progress), _table_of(options.file)
        sources = (options.recipe, options.file, table)
        applied = apply_recipe(recipe, table, lambda share, doing: progress(0.5 * share, doing))
        for path in options.output:
            write_output(applied.study, path, lambda share, doing: progress(0.5 + 0.5 * share, doing), sources=sources)
        if options.log is not None:
            write_whole(options.log, apply_log(recipe, applied), sources=sources)
    for sentence in (*applied.notes, *(each.sentence for each in applied.discrepancies)):
        print(f"culvix: {sentence}", file=sys.stderr)
    return NEEDS_A_LOOK if applied.needs_a_look else 0
