"""`culvix report`: what was found, done and how, as HTML, PDF, for a word processor, as Markdown, or its tables."""

from collections.abc import Sequence

from culvix.cli.outputs import REPORTS, check_outputs, write_report_files
from culvix.cli.parsing import Parser, add_study_options, file_parser, progress_shown, study_of

__all__ = ["report", "report_parser"]


def report_parser(*, add_help: bool = True) -> Parser:
    about = (
        "Write the report of FILE, a table or a study, in the format that the ending of OUT says: one self-contained "
        "file (.html), pages (.pdf), for a word processor (.docx), Markdown with a folder of pictures (.md), or all "
        "its tables and figures as a spreadsheet (.xlsx)."
    )
    parser = file_parser("report", about, add_help=add_help)
    add_study_options(parser, "html")
    return parser


def report(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = report_parser().parse_args(arguments)
    check_outputs([options.output], (*REPORTS, ".xlsx"))
    with progress_shown() as progress:
        study = study_of(options, lambda share, doing: progress(0.3 * share, doing))
        write_report_files(
            study,
            [options.output],
            lambda share, doing: progress(0.3 + 0.7 * share, doing),
            sources=(options.file,),
        )
    return 0
