"""`culvix verify`: everything in a report computed anew from its source, and compared."""

import sys
from collections.abc import Sequence

from culvix.cli.parsing import Parser, path_of_file, progress_shown

__all__ = ["verify", "verify_parser"]

DIFFERS = 3
"""The exit status where something is not as computed anew."""


def verify_parser(*, add_help: bool = True) -> Parser:
    parser = Parser(
        prog="culvix verify",
        add_help=add_help,
        description="Compute every figure of REPORT (HTML, PDF or DOCX) anew from the table it was made from, and "
        "compare it and the text with what is written. Exit status 0: all is the same; 3: something differs, each told "
        "in a line; 2: it cannot be done.",
    )
    parser.add_argument("report", metavar="REPORT", type=path_of_file, help="a report that Culvix wrote")
    parser.add_argument("--source", metavar="FILE", type=path_of_file, help="the table, where it was moved")
    return parser


def verify(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = verify_parser().parse_args(arguments)
    from culvix.app.shell.start import make_application
    from culvix.report.render_process import Drawing
    from culvix.report.verify import verify as compare

    make_application(offscreen=True)
    with progress_shown() as progress:
        found = compare(options.report, options.source, Drawing().draw, progress=progress)
    print(found.sentence)
    for sentence in found.differences:
        print(sentence, file=sys.stderr)
    return DIFFERS if found.differences else 0
