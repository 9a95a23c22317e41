"""What the commands have in common: options that say what is read and by which conventions, and progress."""

import argparse
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from culvix.cli.stopping import check_stopped
from culvix.errors import ReadError
from culvix.progress import Progress

if TYPE_CHECKING:
    from culvix.study import Study
    from culvix.tables import Table
    from culvix.tables.model.dictionary import Dictionary

__all__ = [
    "Parser",
    "add_reading_options",
    "add_study_options",
    "file_parser",
    "is_study",
    "listed",
    "path_of_file",
    "progress_shown",
    "study_of",
    "table_of",
]

_DIGITS, _LONGEST = 30, 400


class Parser(argparse.ArgumentParser):
    """Says what is wrong on one line and ends with status 2."""

    def error(self, message: str) -> None:  # type: ignore[override]
        from culvix.tables.engines.postgres.address import looks_like_address

        if looks_like_address(message):
            # An address may hold a password, which is for no terminal and no log of one.
            message = "an argument is an address where none is expected, and is not repeated"
        message = message if len(message) < _LONGEST else f"{message[:_LONGEST]} …"
        self.exit(2, f"culvix: {message}; see culvix --help\n")


def path_of_file(text: str) -> Path:
    """The path ``text``; an address is refused, without its password, with what to do instead."""
    from culvix.tables.engines.postgres.address import looks_like_address

    if looks_like_address(text) and not os.path.exists(text):
        raise argparse.ArgumentTypeError(
            "a file is needed, not an address; of a table in a server, culvix sample ADDRESS --whole -o FILE makes one"
        )
    return Path(text)


def file_parser(name: str, about: str, *, study: bool = False, add_help: bool = True) -> Parser:
    """The parser of the command ``name``, which takes a table or a study; what is ``about`` a study says STUDY."""
    parser = Parser(prog=f"culvix {name}".strip(), description=about, add_help=add_help)
    parser.add_argument(
        "file",
        metavar="STUDY" if study else "FILE",
        type=path_of_file,
        help="a table (delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite), or a study",
    )
    return parser


def add_reading_options(parser: argparse.ArgumentParser) -> None:
    """Which part of the file is read, and what is said of its columns."""
    parser.add_argument("--part", metavar="NAME", help="the sheet of a spreadsheet, or the table of a database")
    parser.add_argument("--cells", metavar="B3:F200", help="the range of a sheet to read")
    parser.add_argument("--only", metavar="A,B", default="", help="read these columns only")
    parser.add_argument("--rows", metavar="FROM-TO", default="", help="read these rows only, counted from 1")
    parser.add_argument("--sample", type=int, metavar="N", help="read a random sample of N rows")
    parser.add_argument("--sample-seed", type=int, default=1, metavar="SEED", help="seed of the sample (default 1)")
    parser.add_argument(
        "--ragged",
        choices=("fill", "leave-out"),
        help="fill lines that are too short with missing cells, or leave lines that do not fit out (default: refuse)",
    )
    parser.add_argument("--leave-last", type=int, default=0, metavar="N", help="leave the last N rows out (a total)")
    parser.add_argument("--header-lines", type=int, metavar="N", help="names stand in N lines (default: judged)")
    parser.add_argument("--decimal", choices=("point", "comma"), help="the decimal mark of a text (default: judged)")
    parser.add_argument(
        "--not-missing",
        action="append",
        default=[],
        metavar="TOKEN",
        help="a token such as NA that is a value here, in every column; repeatable",
    )
    parser.add_argument("--encoding", metavar="NAME", help="the encoding of a text (default: guessed)")
    parser.add_argument(
        "--dictionary",
        metavar="datapackage.json",
        type=path_of_file,
        help="what is said of the columns (a Table Schema)",
    )


def is_study(path: Path) -> bool:
    """Whether a study stands where a table may; what cannot be read at all is told when it is read."""
    from culvix.study.storage.schema import is_study_file

    try:
        return is_study_file(path)
    except ReadError:
        return False


def _reopened(options: argparse.Namespace, progress: Progress) -> "Study":
    """The study that stands where a table may. It says itself how its source is read, and by which conventions."""
    from culvix.study.storage.reopening import reopen

    plain = Parser()
    add_study_options(plain, "")
    usual = vars(plain.parse_args(["-o", "any"]))
    given = [name for name, value in vars(options).items() if name in usual and value != usual[name]]
    beside = [f"--{name.replace('_', '-')}" for name in given if name != "output"]
    if beside:
        raise ReadError(
            f"A study has its own conventions and way of reading; {', '.join(beside)} cannot stand beside it."
        )
    return reopen(options.file, progress)


def table_of(options: argparse.Namespace, progress: Progress) -> "tuple[Table, Dictionary]":
    """The table that the options ask for, and what is said of its columns; of a study, those that it is about."""
    from culvix.tables import read_table
    from culvix.tables.model.dictionary import Dictionary, load_data_package
    from culvix.tables.model.options.extent import Extent
    from culvix.tables.model.options.read_options import ReadOptions
    from culvix.tables.model.sample_dictionary import dictionary_of_sample
    from culvix.tables.reading.samples import sample_of
    from culvix.tables.text.ragged import FILLED, LEFT_OUT, REFUSED

    if is_study(options.file):
        study = _reopened(options, progress)
        return study.table.as_read, study.dictionary
    dictionary = Dictionary() if options.dictionary is None else load_data_package(options.dictionary)
    extent = Extent(tuple(listed(options.only)), *_row_range(options.rows), options.sample, options.sample_seed)
    dictionary = replace(dictionary, not_missing=(*dictionary.not_missing, *options.not_missing))
    dictionary = dictionary_of_sample(sample_of(options.file), dictionary)
    reading = ReadOptions(
        encoding=options.encoding,
        part=options.part,
        cells=options.cells,
        extent=extent,
        header_rows=options.header_lines,
        decimal={"point": ".", "comma": ","}.get(options.decimal or ""),
        ragged={"fill": FILLED, "leave-out": LEFT_OUT}.get(options.ragged or "", REFUSED),
        leave_last=options.leave_last,
    )
    table = read_table(
        options.file,
        reading,
        missing_codes=getattr(options, "missing", ()),
        dictionary=dictionary,
        progress=progress,
    )
    return table, dictionary


def _row_range(text: str) -> tuple[int, int | None]:
    """The first and last row in "100-200", "100-" or "-200"."""
    if not text:
        return 1, None
    first, dash, last = text.partition("-")
    if not dash or not (first or last) or not (first + last).isdecimal() or len(first + last) > _DIGITS:
        raise ReadError(f"Rows are written like 100-200, not {text[:40]!r}.")
    return int(first or 1), int(last) if last else None


def add_study_options(parser: argparse.ArgumentParser, kind: str) -> None:
    parser.add_argument("-o", "--output", metavar=f"OUT.{kind}", type=path_of_file, required=True, help="file to write")
    parser.add_argument("--alpha", type=float, default=0.05, help="level of the tests (default 0.05)")
    parser.add_argument(
        "--quantile-type", type=int, default=7, metavar="1-9", help="definition of quantiles (default 7, inclusive)"
    )
    parser.add_argument(
        "--missing", action="append", default=[], metavar="CODE", help="a cell text that means missing; repeatable"
    )
    add_reading_options(parser)


@contextmanager
def progress_shown() -> Iterator[Progress]:
    """Progress on standard error where it is a terminal."""
    shown = sys.stderr.isatty()

    def progress(share: float, doing: str) -> None:
        check_stopped()
        if shown:
            sys.stderr.write(f"\r\033[K{100 * share:3.0f} % {doing[:60]}")
            sys.stderr.flush()

    try:
        yield progress
    finally:
        if shown:
            sys.stderr.write("\r\033[K")
            sys.stderr.flush()


def study_of(options: argparse.Namespace, progress: Progress) -> "Study":
    from culvix.study import Settings, Study

    if is_study(options.file):
        return _reopened(options, progress)
    settings = Settings(alpha=options.alpha, quantile_type=options.quantile_type)
    table, dictionary = table_of(options, progress)
    return Study.of_table(table, settings, dictionary=dictionary)


def listed(text: str) -> list[str]:
    """Names between commas."""
    return [name.strip() for name in text.split(",")] if text else []
