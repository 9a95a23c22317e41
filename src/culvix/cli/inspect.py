"""`culvix inspect`: what reading a file found, before anything is settled."""

from collections.abc import Sequence

from culvix.cli.parsing import Parser, add_reading_options, file_parser, listed, path_of_file, progress_shown, table_of

__all__ = ["inspect", "inspect_parser"]


def inspect_parser(*, add_help: bool = True) -> Parser:
    about = "Write what reading FILE found, before anything is settled (format culvix-intake/2)."
    parser = file_parser("inspect", about, add_help=add_help)
    parser.add_argument("-o", "--output", metavar="OUT.json", type=path_of_file, required=True, help="file to write")
    add_reading_options(parser)
    parser.add_argument("--key", metavar="A,B", default="", help="look for rows that repeat these columns")
    return parser


def inspect(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = inspect_parser().parse_args(arguments)
    import msgspec

    from culvix.files import write_whole
    from culvix.report.documents.intake import intake_document

    with progress_shown() as progress:
        table, _ = table_of(options, progress)
        document = intake_document(table, listed(options.key))
        write_whole(options.output, msgspec.json.encode(document) + b"\n", sources=(options.file, table.source.path))
    return 0
