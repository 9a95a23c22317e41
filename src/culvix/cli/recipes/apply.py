"""`culvix apply`: a recipe run on another table, with all that a person must look at."""

import os
import sys
from argparse import Namespace
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from culvix.cli.outputs import check_outputs, write_output
from culvix.cli.parsing import Parser, is_study, path_of_file, progress_shown
from culvix.cli.whole.engine_options import add_engine_options, engine_of, write_beside
from culvix.errors import ReadError
from culvix.progress import Progress

if TYPE_CHECKING:
    from culvix.study.recipes.recipe import Recipe

__all__ = ["apply", "apply_parser"]

NEEDS_REVIEW = 3
"""The exit status where everything was written, but a person must look."""


def apply_parser(*, add_help: bool = True) -> Parser:
    parser = Parser(
        prog="culvix apply",
        add_help=add_help,
        description="Read FILE the way RECIPE says, describe it, make the recipe's decisions again, and compare it "
        "with the table that the recipe was made with. Exit status 0: done; 3: done, but a person must look, for the "
        "reasons on standard error; 2: it cannot be done.",
    )
    parser.add_argument("recipe", metavar="RECIPE", type=path_of_file, help="a recipe (of “culvix recipe”), or a study")
    parser.add_argument(
        "address",
        metavar="FILE",
        nargs="?",
        default="",
        help="the table to run it on, a study of it, or the address of a server or folder, of which a sample is drawn "
        "(default: the table that the recipe's own was a sample of)",
    )
    parser.add_argument(
        "-o",
        "--output",
        metavar="OUT",
        type=path_of_file,
        action="append",
        default=[],
        help="file to write; its ending says what: a study (.culvix), the report (.html, .pdf, .docx, .md), the "
        "profile document (.json) or the cleaned table (.csv, .parquet, .xlsx); repeatable",
    )
    add_engine_options(parser)
    parser.add_argument("--sample", metavar="ROWS.parquet", type=path_of_file, help="of a server or folder: the sample")
    parser.add_argument("--size", type=int, default=100_000, metavar="N", help="rows of the sample (default 100000)")
    parser.add_argument("--seed", type=int, default=1, metavar="SEED", help="which rows (default 1)")
    parser.add_argument(
        "--log", metavar="LOG.json", type=path_of_file, help="write what was done, and what to look at, as data"
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


def _take_address(options: Namespace, recipe: "Recipe") -> None:
    """Let the options name the table that the recipe's own was a sample of. Raises ReadError where it was none."""
    from culvix.tables.engines import is_address

    sample = recipe.source.sample
    if sample is None:
        raise ReadError("Name the table to run it on; the recipe was made with none that lies elsewhere.")
    options.address = sample.address
    if options.table is None and options.query is None and options.query_file is None:
        options.query = sample.query or None
        options.table = sample.table if is_address(sample.address) and not sample.query else None


def _sampled(options: Namespace, progress: Progress) -> Path:
    """The file of a sample of the table at an address, drawn now, with the survey of the whole. Raises ReadError."""
    from culvix.study.whole.samples import SampleOf, draw_sample, sample_file
    from culvix.study.whole.survey import survey_whole

    if options.sample is None:
        raise ReadError("A recipe is run on a sample of such a table; name a file for it with --sample.")
    of = SampleOf(options.size, options.seed)
    with engine_of(options, progress) as engine:
        survey = survey_whole(engine, progress=progress)
        frame, about = draw_sample(engine, of, query=options.query or "", progress=progress)
        write_beside(engine, options.sample, sample_file(frame, about, survey))
    return Path(options.sample)


def apply(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = apply_parser().parse_args(arguments)
    check_outputs(options.output)
    from culvix.files import write_whole
    from culvix.report.documents.apply_log import apply_log
    from culvix.study.recipes.applying import apply_recipe
    from culvix.tables.engines import is_address

    with progress_shown() as progress:
        recipe = _recipe_in(options.recipe, progress)
        known = not options.address
        if known:
            _take_address(options, recipe)
        stays = known or is_address(options.address) or os.path.isdir(options.address)
        if not stays and any(each is not None for each in (options.table, options.query, options.sample)):
            raise ReadError("A file is read whole; a table, query or sample is named of a server or folder.")
        file = _sampled(options, progress) if stays else Path(options.address)
        table = file if stays else _table_of(file)
        sources = (options.recipe, file, table)
        applied = apply_recipe(recipe, table, lambda share, doing: progress(0.5 * share, doing))
        for path in options.output:
            write_output(applied.study, path, lambda share, doing: progress(0.5 + 0.5 * share, doing), sources=sources)
        if options.log is not None:
            write_whole(options.log, apply_log(recipe, applied), sources=sources)
    for sentence in (*applied.notes, *(each.sentence for each in applied.discrepancies)):
        print(f"culvix: {sentence}", file=sys.stderr)
    return NEEDS_REVIEW if applied.needs_review else 0
