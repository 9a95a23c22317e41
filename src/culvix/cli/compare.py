"""`culvix compare`: one table against another, column by column and row by row."""

from argparse import Namespace
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from culvix.cli.outputs import check_outputs
from culvix.cli.parsing import (
    Parser,
    add_reading_options,
    file_parser,
    is_study,
    listed,
    path_of_file,
    progress_shown,
    table_of,
)

if TYPE_CHECKING:
    from culvix.study.another_table.comparison import TableComparison
    from culvix.tables import Table

__all__ = ["compare", "compare_parser"]

_KINDS = (".json", ".html")


def compare_parser(*, add_help: bool = True) -> Parser:
    about = (
        "Compare FILE with OTHER, last year's table or the same one a month ago: columns matched, what has changed in "
        "each, and rows by a key (.json: format culvix-comparison/1; .html: to be read)."
    )
    parser = file_parser("compare", about, add_help=add_help)
    parser.add_argument("other", metavar="OTHER", type=path_of_file, help="the table it is compared with")
    parser.add_argument("-o", "--output", metavar="OUT", type=path_of_file, required=True, help="file: .json or .html")
    add_reading_options(parser)
    parser.add_argument("--key", metavar="A,B", default="", help="match rows by these columns")
    parser.add_argument("--level", type=float, default=0.05, help="what is told as more than chance (default 0.05)")
    return parser


def compare(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = compare_parser().parse_args(arguments)
    check_outputs([options.output], _KINDS)
    from culvix.errors import CulvixError
    from culvix.study.another_table.comparison import compare_tables

    if not 0 < options.level < 1:
        raise CulvixError("The level is a share between 0 and 1, such as 0.05.")
    with progress_shown() as progress:
        here, dictionary = table_of(options, progress)
        if is_study(options.file) and not is_study(options.other):
            from culvix.tables import read_table

            # What the study says of its columns is said of the other table, too.
            there = read_table(options.other, dictionary=dictionary, progress=progress)
        else:
            there, _ = table_of(Namespace(**{**vars(options), "file": options.other}), progress)
        found = compare_tables(here, there, key=listed(options.key), level=options.level, progress=progress)
        sources = (options.file, options.other, here.source.path, there.source.path)
        from culvix.files import write_whole

        write_whole(options.output, _written(found, here, there, options.output), sources=sources)
    return 0


def _written(found: "TableComparison", here: "Table", there: "Table", path: Path) -> bytes:
    if path.suffix.lower() == ".html":
        from culvix.report.formats.html import report_html
        from culvix.report.sections.another_table import comparison_report

        return report_html(comparison_report(found), lambda picture: "").encode()
    import msgspec

    from culvix.report.documents.comparison import comparison_document

    return bytes(msgspec.json.encode(comparison_document(found, here, there))) + b"\n"
