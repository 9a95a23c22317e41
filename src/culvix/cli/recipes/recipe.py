"""`culvix recipe`: what was said of one table, in a form that says it again of the next."""

import sys
from collections.abc import Sequence

from culvix.cli.parsing import Parser, add_study_options, file_parser, progress_shown, study_of

__all__ = ["recipe", "recipe_parser"]


def recipe_parser(*, add_help: bool = True) -> Parser:
    parser = file_parser(
        "recipe",
        "Write the recipe of STUDY: how its table was read and described, its conventions, columns worked out, marks "
        "and decisions, and what each column looked like. “culvix apply” runs it on another table.",
        study=True,
        add_help=add_help,
    )
    add_study_options(parser, "json")
    return parser


def recipe(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = recipe_parser().parse_args(arguments)
    from culvix.files import write_whole
    from culvix.study.recipes.recipe import recipe_of
    from culvix.study.recipes.recipe_format import encode_recipe

    with progress_shown() as progress:
        study = study_of(options, lambda share, doing: progress(0.7 * share, doing))
        made = recipe_of(study.workspace, study.history)
        write_whole(options.output, encode_recipe(made), sources=(options.file, study.table.source.path))
    for sentence in made.left_out:
        print(f"culvix: {sentence}", file=sys.stderr)
    return 0
