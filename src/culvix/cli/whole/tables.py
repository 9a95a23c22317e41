"""`culvix tables`: what a server has to be read."""

from collections.abc import Sequence

from culvix.cli.parsing import Parser

__all__ = ["tables", "tables_parser"]


def tables_parser(*, add_help: bool = True) -> Parser:
    about = "List the tables and views of a server that may be read, with estimates of their rows and comments."
    parser = Parser(prog="culvix tables", description=about, add_help=add_help)
    parser.add_argument("address", metavar="ADDRESS", help="postgresql://user@host/database")
    return parser


def tables(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = tables_parser().parse_args(arguments)
    from culvix.errors import ReadError
    from culvix.tables.engines import is_address, tables_at

    if not is_address(options.address):
        raise ReadError("The tables of a server are listed; its address begins with postgresql://.")
    for table in tables_at(options.address):
        print("\t".join((table.title, table.kind, "" if table.rows is None else str(table.rows), table.comment)))
    return 0
