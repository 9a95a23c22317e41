"""The command line: open a window, profile a file, write its report, or run the example."""

import argparse
import os
import signal
import sys
import threading
from collections.abc import Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from culvix.errors import Cancelled, CulvixError, ReadError, WriteError
from culvix.files import display_path, remove_stale_files
from culvix.progress import Progress
from culvix.version import VERSION

if TYPE_CHECKING:
    from collections.abc import Iterator

    from culvix.study import Study
    from culvix.tables import Table
    from culvix.tables.model.dictionary import Dictionary

__all__ = ["main"]

_USAGE = """culvix FILE                      open FILE in a window
       culvix inspect FILE -o OUT.json  write what reading the file found, as data
       culvix profile FILE -o OUT.json  write every number of the core as data
       culvix report FILE -o OUT.html   write the report
       culvix demo                      open the example study
       culvix --help | --version"""


_SEED = 20260318
_DIGITS = 30


class _Parser(argparse.ArgumentParser):
    """Says what is wrong on one line and ends with status 2."""

    def error(self, message: str) -> None:  # type: ignore[override]
        self.exit(2, f"culvix: {message}; see culvix --help\n")


def _parser(name: str, about: str) -> _Parser:
    parser = _Parser(prog=f"culvix {name}".strip(), description=about)
    parser.add_argument(
        "file", metavar="FILE", type=Path, help="a table: delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite"
    )
    return parser


def _reading_options(parser: argparse.ArgumentParser) -> None:
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
        "--dictionary", metavar="datapackage.json", type=Path, help="what is said of the columns (a Table Schema)"
    )


def _table(options: argparse.Namespace, progress: Progress) -> "tuple[Table, Dictionary]":
    """The table that the options ask for, and what is said of its columns."""
    from culvix.tables import read_table
    from culvix.tables.model.dictionary import Dictionary, load_data_package
    from culvix.tables.model.extent import Extent
    from culvix.tables.model.read_options import ReadOptions
    from culvix.tables.text.ragged import FILLED, LEFT_OUT, REFUSED

    said = Dictionary() if options.dictionary is None else load_data_package(options.dictionary)
    extent = Extent(tuple(_listed(options.only)), *_row_range(options.rows), options.sample, options.sample_seed)
    said = replace(said, not_missing=(*said.not_missing, *options.not_missing))
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
        dictionary=said,
        progress=progress,
    )
    return table, said


def _row_range(text: str) -> tuple[int, int | None]:
    """The first and last row in "100-200", "100-" or "-200"."""
    if not text:
        return 1, None
    first, dash, last = text.partition("-")
    if not dash or not (first or last) or not (first + last).isdecimal() or len(first + last) > _DIGITS:
        raise ReadError(f"Rows are written like 100-200, not {text[:40]!r}.")
    return int(first or 1), int(last) if last else None


def _core_options(parser: argparse.ArgumentParser, kind: str) -> None:
    parser.add_argument("-o", "--output", metavar=f"OUT.{kind}", type=Path, required=True, help="file to write")
    parser.add_argument("--alpha", type=float, default=0.05, help="level of the tests (default 0.05)")
    parser.add_argument(
        "--quantile-type", type=int, default=7, metavar="1-9", help="definition of quantiles (default 7, inclusive)"
    )
    parser.add_argument(
        "--missing", action="append", default=[], metavar="CODE", help="a cell text that means missing; repeatable"
    )
    _reading_options(parser)


@contextmanager
def _told() -> "Iterator[Progress]":
    """Progress on standard error where it is a terminal."""
    shown = sys.stderr.isatty()

    def progress(share: float, doing: str) -> None:
        if _stop.is_set():
            raise Cancelled("Stopped.")
        if shown:
            sys.stderr.write(f"\r\033[K{100 * share:3.0f} % {doing[:60]}")
            sys.stderr.flush()

    try:
        yield progress
    finally:
        if shown:
            sys.stderr.write("\r\033[K")
            sys.stderr.flush()


def _study(options: argparse.Namespace, progress: Progress) -> "Study":
    from culvix.study import Settings, Study

    settings = Settings(alpha=options.alpha, quantile_type=options.quantile_type)
    table, said = _table(options, progress)
    return Study.of_table(table, settings, dictionary=said)


def _extra_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--with",
        dest="add",
        action="append",
        default=[],
        metavar="NAME",
        help="add bootstrap, intervals, monte_carlo, transformations, unimodality, robust_correlation, "
        "distance_correlation, bootstrap_correlation or multivariate, or kendall for more than 100 000 rows; "
        "repeatable, or several with commas",
    )
    parser.add_argument("--by", metavar="COLUMN", help="add outliers and correlations within the groups of COLUMN")
    parser.add_argument("--given", default="", metavar="A,B", help="add correlations with these columns held fixed")
    parser.add_argument("--seed", type=int, default=_SEED, help=f"seed of random figures (default {_SEED})")
    parser.add_argument("--repeats", type=int, metavar="N", help="repeats of random figures (default: by figure)")


def _positive(text: str) -> int:
    value = int(text)
    if value < 1:
        raise argparse.ArgumentTypeError("a number from 1 up is needed")
    return value


def _listed(text: str) -> list[str]:
    """Names between commas."""
    return [name.strip() for name in text.split(",")] if text else []


def _profile(arguments: Sequence[str]) -> int:
    parser = _parser("profile", "Write every number of the core for FILE as a JSON document (format culvix-profile/2).")
    _core_options(parser, "json")
    parser.add_argument("--columns", metavar="A,B", help="profile these columns only")
    parser.add_argument("--no-correlation", action="store_true", help="leave the correlation matrices out")
    _extra_options(parser)
    parser.add_argument("--jobs", type=_positive, default=os.cpu_count() or 1, metavar="N", help="columns at a time")
    options = parser.parse_args(arguments)
    import msgspec

    from culvix.files import write_whole
    from culvix.report.documents.profile import profile_document
    from culvix.report.documents.profile_extras import Asked

    with _told() as progress:
        study = _study(options, lambda share, doing: progress(0.3 * share, doing))
        document = profile_document(
            study.workspace,
            columns=None if options.columns is None else _listed(options.columns),
            missing_codes=options.missing,
            with_correlation=not options.no_correlation,
            asked=Asked(
                frozenset(_listed(",".join(options.add))),
                options.by,
                tuple(_listed(options.given)),
                options.seed,
                options.repeats,
            ),
            jobs=options.jobs,
            progress=lambda share, doing: progress(0.3 + 0.7 * share, doing),
        )
        write_whole(options.output, msgspec.json.encode(document) + b"\n", sources=(options.file,))
    return 0


def _inspect(arguments: Sequence[str]) -> int:
    parser = _parser("inspect", "Write what reading FILE found, before anything is settled (format culvix-intake/2).")
    parser.add_argument("-o", "--output", metavar="OUT.json", type=Path, required=True, help="file to write")
    _reading_options(parser)
    parser.add_argument("--key", metavar="A,B", default="", help="look for rows that repeat these columns")
    options = parser.parse_args(arguments)
    import msgspec

    from culvix.files import write_whole
    from culvix.report.documents.intake import intake_document

    with _told() as progress:
        table, _ = _table(options, progress)
        document = intake_document(table, _listed(options.key))
        write_whole(options.output, msgspec.json.encode(document) + b"\n", sources=(options.file,))
    return 0


def _report(arguments: Sequence[str]) -> int:
    parser = _parser("report", "Write the report of FILE as one self-contained HTML file.")
    _core_options(parser, "html")
    options = parser.parse_args(arguments)
    with _told() as progress:
        study = _study(options, lambda share, doing: progress(0.3 * share, doing))
        _write_report(study, options.output, lambda share, doing: progress(0.3 + 0.7 * share, doing))
    return 0


def _write_report(study: "Study", path: Path, progress: Progress) -> None:
    from culvix.app.shell.start import make_application
    from culvix.files import write_whole
    from culvix.report.formats.html import report_html
    from culvix.report.render_process import draw_here

    make_application(offscreen=True)
    text = report_html(study.workspace, draw_here, progress=progress)
    write_whole(path, text.encode("utf-8", errors="replace"), sources=(study.table.source.path,))


def _demo(arguments: Sequence[str]) -> int:
    parser = _Parser(prog="culvix demo", description="Open the example study, or run it whole without a display.")
    parser.parse_args(arguments)
    from culvix.app.shell.start import has_display, run_window
    from culvix.demo import write_demo

    folder = Path("culvix-demo")
    try:
        path = write_demo(folder)
    except OSError as error:
        raise WriteError(f"{folder} cannot be written: {(error.strerror or 'unknown error').lower()}.") from error
    if has_display() and os.environ.get("QT_QPA_PLATFORM") != "offscreen":
        return run_window(path)
    return _demo_without_display(path, folder)


def _demo_without_display(path: Path, folder: Path) -> int:
    from culvix.app.shell.start import picture_views

    document, report = folder / "spring_cohort.profile.json", folder / "spring_cohort.report.html"
    _profile([str(path), "-o", str(document)])
    _report([str(path), "-o", str(report)])
    pictures = picture_views(path, folder)
    print(f"No display, so the example was run without one. In {folder.resolve()} are now:")
    for made, what in (
        (path, "the example table, with last year's beside it"),
        (document, "its profile document"),
        (report, "its report"),
        *((picture, f"a picture of the {picture.stem} view") for picture in pictures),
    ):
        print(f"  {made.name:28} {what}")
    return 0


def _window(arguments: Sequence[str]) -> int:
    parser = _Parser(prog="culvix", usage=_USAGE, description="Profile the numeric columns of a table.")
    parser.add_argument("file", metavar="FILE", type=Path, nargs="?", help="a table to open")
    parser.add_argument("--version", action="version", version=f"culvix {VERSION}")
    options = parser.parse_args(arguments)
    from culvix.app.shell.start import has_display, run_window

    if options.file is not None:
        _check_readable(options.file)
    if not has_display():
        raise CulvixError("There is no display to open a window on; “culvix report” and “culvix profile” need none.")
    return run_window(options.file)


def _check_readable(path: Path) -> None:
    """Refuse what could never be opened before a window comes up."""
    from culvix.tables.reading.sources import checked_file

    with checked_file(path) as file:
        if not file.read(1):
            raise ReadError(f"{display_path(Path(path.name))} is empty: there is nothing in it to read.")


_stop = threading.Event()
"""Set once the work should end; what computes in other threads looks at it with each step."""


@contextmanager
def _ending_in_order() -> "Iterator[None]":
    """Take a request to end like an interrupt from the keyboard, so that nothing half written is left."""

    def end(*_: object) -> None:
        _stop.set()
        raise KeyboardInterrupt

    _stop.clear()
    if threading.current_thread() is not threading.main_thread():
        yield
        return
    before = [(number, signal.signal(number, end)) for number in (signal.SIGINT, signal.SIGTERM)]
    try:
        yield
    finally:
        for number, handler in before:
            signal.signal(number, handler)


_COMMANDS = {"inspect": _inspect, "profile": _profile, "report": _report, "demo": _demo}


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line; the exit status is 0, or 2 with one line on standard error for a user's mistake."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    remove_stale_files()
    command = _COMMANDS.get(given[0]) if given else None
    try:
        with _ending_in_order():
            return command(given[1:]) if command else _window(given)
    except CulvixError as error:
        print(f"culvix: {error.sentence}", file=sys.stderr)
        return 2
    except MemoryError:
        print("culvix: there is not enough memory for this; read a part of the file.", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        print("culvix: stopped; nothing was written.", file=sys.stderr)
        return 130
