"""`culvix report`: the report as one self-contained file."""

from collections.abc import Sequence

from culvix.cli.outputs import write_output
from culvix.cli.parsing import Parser, add_study_options, file_parser, progress_shown, study_of

__all__ = ["report", "report_parser"]


def report_parser(*, add_help: bool = True) -> Parser:
    parser = file_parser("report", "Write the report of FILE as one self-contained HTML file.", add_help=add_help)
    add_study_options(parser, "html")
    return parser


def report(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = report_parser().parse_args(arguments)
    with progress_shown() as progress:
        study = study_of(options, lambda share, doing: progress(0.3 * share, doing))
        write_output(
            study,
            options.output,
            lambda share, doing: progress(0.3 + 0.7 * share, doing),
            kind=".html",
            sources=(options.file,),
        )
    return 0
