"""A sample of a whole table as a file of its own, that says what it is a sample of."""

import io
from dataclasses import asdict, dataclass
from pathlib import Path

import msgspec
import numpy as np
import polars as pl

from culvix.errors import ReadError
from culvix.files import open_regular
from culvix.progress import Progress, silent
from culvix.stats.display import count
from culvix.study.whole.survey import WholeSurvey
from culvix.study.whole.whole_document import survey_of_document, whole_document
from culvix.tables.engines.engine import Engine
from culvix.tables.engines.opening import open_engine
from culvix.tables.model.provenance import SAMPLE_KEY, Provenance

__all__ = ["BEYOND", "MOST_BEYOND", "SampleOf", "draw_sample", "open_whole", "rows_beyond", "sample_file", "whole_of"]

BEYOND = "beyond"
"""The column that says in which columns a row has a value beyond the limits."""

WHOLE_KEY = "culvix.whole"
"""Under which a file of a sample holds the survey of the whole."""

MOST_BEYOND = 100_000
"""Rows beyond limits that are fetched."""
_FILES = "files"
_MOST = 20_000_000
_MARK = b"PAR1"
"""With which a Parquet file begins."""


@dataclass(frozen=True)
class SampleOf:
    """``size`` rows by ``seed``; as many of each value of the column ``by``, empty for none."""

    size: int
    seed: int = 1
    by: str = ""

    def __post_init__(self) -> None:
        if not 0 < self.size <= _MOST:
            raise ReadError(f"A sample has 1 to {count(_MOST)} rows, not {self.size}.")
        if not 0 <= self.seed < 2**31:
            raise ReadError("The seed of a sample is a whole number from 0 up.")


def draw_sample(
    engine: Engine, of: SampleOf, *, query: str = "", progress: Progress = silent
) -> tuple[pl.DataFrame, Provenance]:
    """Rows of the table that ``engine`` holds, and what is to be said of them.

    Raises ReadError where a column to draw by is not there, and what ``engine`` and ``progress`` raise.
    """
    if of.by and of.by not in {column.name for column in engine.columns}:
        raise ReadError(f"There is no column {of.by} to draw by.")
    frame = engine.sample(of.size, of.seed, stratified_by=of.by or None, progress=progress)
    labels = {column.name: column.label for column in engine.columns if column.label}
    key = tuple(column.name for column in engine.columns if column.key)
    about = Provenance(
        engine.name, engine.address, engine.title, query, engine.rows, frame.height, of.seed, of.by, key, labels
    )
    return frame, about


def open_whole(
    sample: Provenance, *, address: str = "", seconds: float | None = None, progress: Progress = silent
) -> Engine:
    """The table that a ``sample`` was drawn from, or one like it at another ``address``.

    Raises ReadError where it is not there, or the server not to be reached.
    """
    if sample.engine == _FILES:
        return open_engine(address or sample.address, progress=progress)
    table = None if sample.query else sample.table
    query = sample.query or None
    return open_engine(address or sample.address, table=table, query=query, seconds=seconds, progress=progress)


def rows_beyond(
    engine: Engine, survey: WholeSurvey, method: str, *, most: int = MOST_BEYOND, progress: Progress = silent
) -> pl.DataFrame:
    """The rows of the whole with a value beyond the limits of ``method``; the column `BEYOND` says in which columns.

    They are no part of any sample, as they would be too many in it. At most ``most`` are given. Where a column has that
    name, underscores stand behind it.
    """
    limits = {
        column.column.name: (each.low, each.high)
        for column in survey.columns
        if column.numbers is not None
        for each in column.numbers.beyond
        if each.method == method and each.count
    }
    mark = BEYOND
    while mark in {column.name for column in engine.columns}:
        mark += "_"
    if not limits:
        return pl.DataFrame({name.name: [] for name in engine.columns} | {mark: []})
    found = engine.rows_beyond(limits, most, progress)
    marks: list[list[str]] = [[] for _ in range(found.height)]
    for name, (low, high) in limits.items():
        x = found.get_column(name).rename("x").cast(pl.Float64).to_numpy()
        for row in np.flatnonzero((x < low) | (x > high)):
            marks[row].append(name)
    return found.with_columns(pl.Series(mark, [", ".join(each) for each in marks], dtype=pl.String))


def sample_file(frame: pl.DataFrame, about: Provenance, survey: WholeSurvey | None = None) -> bytes:
    """A Parquet file of ``frame`` with all that is known of where it comes from, and the ``survey`` of the whole."""
    metadata = {SAMPLE_KEY: msgspec.json.encode(asdict(about)).decode()}
    if survey is not None:
        metadata[WHOLE_KEY] = msgspec.json.encode(whole_document(survey)).decode()
    target = io.BytesIO()
    frame.write_parquet(target, metadata=metadata)
    return target.getvalue()


def whole_of(path: Path) -> WholeSurvey | None:
    """The survey of the whole table that the file at ``path`` is a sample of; None where it holds none."""
    try:
        with open_regular(path) as file:
            if file.read(len(_MARK)) != _MARK:
                return None
            file.seek(0)
            written = pl.read_parquet_metadata(file).get(WHOLE_KEY)
        return None if written is None else survey_of_document(msgspec.json.decode(written))
    except (pl.exceptions.PolarsError, OSError, msgspec.MsgspecError, ReadError):
        # What it says of a whole cannot be read: there is nothing to show beside it.
        return None
