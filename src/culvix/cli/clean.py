"""`culvix clean`: the table with the decisions of a study applied."""

from collections.abc import Sequence

from culvix.cli.outputs import check_outputs, write_output
from culvix.cli.parsing import Parser, add_study_options, file_parser, progress_shown, study_of

__all__ = ["clean", "clean_parser"]

_KINDS = (".csv", ".parquet", ".xlsx")


def clean_parser(*, add_help: bool = True) -> Parser:
    parser = file_parser(
        "clean",
        "Write the table of STUDY with its decisions applied: excluded rows left out, values excluded or treated as "
        "missing empty, corrected values as they are now. The first column is the row's number in the source.",
        study=True,
        add_help=add_help,
    )
    add_study_options(parser, "csv|parquet|xlsx")
    return parser


def clean(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = clean_parser().parse_args(arguments)
    check_outputs([options.output], _KINDS)
    with progress_shown() as progress:
        study = study_of(options, lambda share, doing: progress(0.6 * share, doing))
        write_output(
            study,
            options.output,
            lambda share, doing: progress(0.6 + 0.4 * share, doing),
            sources=(options.file,),
        )
    return 0
