"""What commands have in common that work on a table where it lies: its address, and which table or query is meant."""

import argparse
import os
from argparse import Namespace
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from culvix.cli.parsing import Parser, path_of_file
from culvix.errors import ReadError, WriteError
from culvix.files import display_path, read_whole
from culvix.progress import Progress

if TYPE_CHECKING:
    from culvix.tables.engines import Engine

__all__ = ["add_engine_options", "engine_of", "engine_parser", "write_beside"]

_LONGEST_QUERY = 1 << 20


def engine_parser(name: str, about: str, *, add_help: bool = True) -> Parser:
    """The parser of the command ``name``, which works on a file, a folder of files, or a server."""
    parser = Parser(prog=f"culvix {name}", description=about, add_help=add_help)
    parser.add_argument(
        "address",
        metavar="ADDRESS",
        help="a file or folder of files (Parquet, Arrow, delimited text), or postgresql://user@host/database; "
        "passwords are taken from PGPASSWORD or a password file",
    )
    add_engine_options(parser)
    return parser


def add_engine_options(parser: argparse.ArgumentParser) -> None:
    """Which table of a server is meant."""
    parser.add_argument("--table", metavar="SCHEMA.NAME", help="the table or view of a server")
    parser.add_argument("--query", metavar="SQL", help="a query whose rows are the table; it can only read")
    parser.add_argument("--query-file", metavar="FILE.sql", type=path_of_file, help="a file with such a query")
    parser.add_argument("--seconds", type=float, metavar="S", help="how long one question to a server may take")


@contextmanager
def engine_of(options: Namespace, progress: Progress) -> Iterator["Engine"]:
    """The engine that holds the table which the options name, for as long as it is needed. Raises ReadError."""
    from culvix.tables.engines import open_engine

    if options.seconds is not None and not 0 < options.seconds < 1e6:
        raise ReadError("A question to a server may take more than 0 seconds.")
    query = options.query
    if options.query_file is not None:
        if query is not None:
            raise ReadError("Give a query or a file with one, not both.")
        try:
            query = read_whole(options.query_file, _LONGEST_QUERY).decode("utf-8")
        except UnicodeDecodeError as error:
            raise ReadError(f"{display_path(options.query_file)} cannot be read as a query: {error}.") from error
    engine = open_engine(options.address, table=options.table, query=query, seconds=options.seconds, progress=progress)
    try:
        yield engine
    finally:
        engine.close()


def write_beside(engine: "Engine", path: Path, content: bytes) -> None:
    """Write ``content`` to ``path``, which is not of the table that ``engine`` holds. Raises WriteError."""
    from culvix.files import display_path, write_whole

    folder = Path(engine.address)
    if engine.files and os.path.isdir(folder) and path.resolve().is_relative_to(folder.resolve()):
        raise WriteError(f"{display_path(path)} would be in the folder that is the table; choose another place.")
    write_whole(path, content, sources=engine.files)
