"""Files and folders of them that no memory holds, read by the streaming engine of Polars."""

import os
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from itertools import islice
from math import ceil, log2, sqrt
from pathlib import Path
from threading import Lock

import numpy as np
import polars as pl

from culvix.errors import ReadError
from culvix.files import display_path
from culvix.progress import Progress, silent
from culvix.stats.display import count, significant
from culvix.tables.engines.edits import Edit, NumbersWhere
from culvix.tables.engines.engine import EngineColumn, Kind
from culvix.tables.engines.files.edits import edited
from culvix.tables.engines.files.expressions import Aggregates, Reading
from culvix.tables.engines.files.texts import scan_texts
from culvix.tables.engines.requests import (
    Answer,
    Distinct,
    DistinctCount,
    Extent,
    Frequencies,
    Frequency,
    NumberExtent,
    Request,
    ValueCounts,
    ValueCountsQuery,
    ValuesWithin,
    ValuesWithinQuery,
)

__all__ = ["PolarsEngine", "files_below"]

_SCANS: dict[str, Callable[..., pl.LazyFrame]] = {
    ".parquet": pl.scan_parquet,
    ".arrow": pl.scan_ipc,
    ".ipc": pl.scan_ipc,
    ".feather": pl.scan_ipc,
    ".csv": pl.scan_csv,
    ".tsv": pl.scan_csv,
    ".txt": pl.scan_csv,
}
_FEW, _MOST_COUNTED = 10_000, 1_000_000
"""So few different values, or those of so few rows, are counted exactly."""
_ROWS_OF_PIECE = 25_000
"""A piece of many columns, and what is made of it, stays near the processor."""
_PIECES = 32
"""From so many places of the table come the pilot rows."""
_ROW, _HASH, _SHARE = "row", "hash", "share"
_LAST_HASH = 2**64 - 1


def files_below(path: Path) -> list[Path]:
    """The files of the table at ``path``: itself, or all of one kind below a folder. Raises ReadError without any."""
    if os.path.isfile(path):
        found = [path]
    else:
        found = sorted(each for each in path.rglob("*") if each.suffix.lower() in _SCANS and os.path.isfile(each))
    odd = next((each for each in found if not display_path(each).isprintable() or "\ufffd" in display_path(each)), None)
    if odd is not None:
        raise ReadError(f"{display_path(odd)} has a name that is no text; give it another one.")
    kinds = {_SCANS.get(each.suffix.lower()) for each in found}
    if not found or None in kinds:
        raise ReadError(f"{display_path(Path(path.name))} is no table in parts: Parquet, Arrow or delimited text.")
    if len(kinds) > 1:
        suffixes = ", ".join(sorted({each.suffix.lower() for each in found}))
        raise ReadError(f"The files in {path.name} are of several kinds ({suffixes}); a table has one.")
    return found


class PolarsEngine:
    """The table in one file, or in all files below a folder, whose names may hold values (``year=2026``)."""

    name = "files"
    pairs_at_once = False

    def __init__(self, path: Path, progress: Progress = silent) -> None:
        """Look at the files' heads and count rows. Raises ReadError where they do not fit together."""
        files = files_below(path)
        self.title, self.address, self.files = path.name, str(path.absolute()), tuple(files)
        self._text = _SCANS[files[0].suffix.lower()] is pl.scan_csv
        try:
            self._frame, notes = _scanned(files, path)
            schema = self._frame.collect_schema()
        except (pl.exceptions.PolarsError, OSError) as error:
            raise _unreadable(path.name, error) from error
        self.columns = tuple(_column(name, kind) for name, kind in schema.items())
        # To Polars some names are patterns; here each is called by its place.
        self._by_name = {each.name: replace(each, name=f"c{index}") for index, each in enumerate(self.columns)}
        indices = (pl.nth(index).alias(each.name) for index, each in enumerate(self._by_name.values()))
        self._frame = self._frame.select(*indices)
        self.rows = self._counted_rows()
        several = f"{count(len(files))} files, " if len(files) > 1 else ""
        self.notes = tuple(each for each in (f"{several}{count(self.rows)} rows", *notes) if each)

    def _counted_rows(self) -> int:
        return int(self._plain(self._frame.select(pl.len())).item())

    def _collect(
        self,
        query: Callable[[pl.LazyFrame], pl.LazyFrame],
        progress: Progress,
        doing: str,
        columns: Sequence[str] | None = None,
    ) -> pl.DataFrame:
        """What ``query`` makes of ``columns`` (None for all), read piece by piece as long as ``progress`` lets it."""
        watched = self._watched(progress, doing, columns)
        try:
            return query(watched).collect(engine="streaming")
        except (pl.exceptions.PolarsError, OSError) as error:
            raise _unreadable(self.title, error) from error

    def _watched(self, progress: Progress, doing: str, columns: Sequence[str] | None = None) -> pl.LazyFrame:
        """``columns`` (None for all), which tell ``progress`` as they are read."""
        read, lock = 0, Lock()

        def watch(piece: pl.DataFrame) -> pl.DataFrame:
            nonlocal read
            with lock:
                read += piece.height
                progress(min(read / max(self.rows, 1), 1.0), doing)
            return piece

        read_from = self._frame if columns is None else self._frame.select(columns)
        return read_from.map_batches(watch, streamable=True, validate_output_schema=False)

    def answer(self, requests: Sequence[Request], progress: Progress = silent) -> dict[Request, Answer]:
        """Answer all ``requests`` from one reading of the table. Raises ReadError for cells that cannot be read."""
        reading = Reading(self._by_name)
        answers = self._together({request: reading.aggregates(request) for request in requests}, reading, progress)
        for request in requests:
            if isinstance(request, ValuesWithinQuery):
                answers[request] = self._values_within(request, progress)
            elif isinstance(request, ValueCountsQuery):
                answers[request] = self._value_counts(request, progress)
            elif isinstance(request, Distinct):
                answers[request] = self._distinct(request, progress)
            elif isinstance(request, Frequencies):
                answers[request] = self._frequencies(request, progress)
        self._learn(answers)
        return answers

    def _learn(self, answers: Mapping[Request, Answer]) -> None:
        """Columns of which every cell is a finite number or missing need not be looked through for others again."""
        for request, found in answers.items():
            finite = isinstance(found, NumberExtent) and found.n + found.missing == self.rows
            if finite and isinstance(request, Extent):
                self._by_name[request.column] = replace(self._by_name[request.column], floating=False)

    def _together(
        self, prepared: Mapping[Request, Aggregates | None], reading: Reading, progress: Progress
    ) -> dict[Request, Answer]:
        """The answers to all that is asked by expressions."""
        asked = [(request, each) for request, each in prepared.items() if each is not None]
        if not asked:
            return {}
        named = [
            expression.alias(f"{index}/{part}")
            for index, (_, each) in enumerate(asked)
            for part, expression in enumerate(each.expressions)
        ]
        with pl.Config(streaming_chunk_size=_ROWS_OF_PIECE):
            found = self._collect(
                lambda frame: reading.of(frame).select(named), progress, f"reading {self.title}", reading.used
            )
        values = iter(found.row(0))
        return {request: each.read(*islice(values, len(each.expressions))) for request, each in asked}

    def _distinct(self, request: Distinct, progress: Progress) -> Answer:
        if self.rows <= _MOST_COUNTED:
            return DistinctCount(self._different(request.column, 1, progress), exact=True)
        parts = int(2 ** ceil(log2(self.rows / _MOST_COUNTED)))
        found = self._different(request.column, parts, progress)
        if found * parts <= _FEW:
            # Of few values an estimate may be wrong by some, which is much.
            return DistinctCount(self._different(request.column, 1, progress), exact=True)
        how = f"counted for one of {parts} hashes, standard error {significant(100 / sqrt(found), 2)} %"
        return DistinctCount(min(found * parts, self.rows), exact=False, how=how)

    def _different(self, name: str, parts: int, progress: Progress) -> int:
        """How many different values have a hash in the first of so many ``parts`` of all."""
        reading = Reading(self._by_name)
        values, last = reading.values(name).alias(_ROW), _LAST_HASH // parts

        def query(frame: pl.LazyFrame) -> pl.LazyFrame:
            there = reading.of(frame).select(values).drop_nulls()
            if parts > 1:
                there = there.select(pl.col(_ROW).hash().alias(_ROW)).filter(pl.col(_ROW) <= last)
            return there.select(pl.col(_ROW).n_unique())

        return int(self._collect(query, progress, f"counting the values of {name}", reading.used).item())

    def _values_within(self, request: ValuesWithinQuery, progress: Progress) -> Answer:
        reading = Reading(self._by_name)
        x = reading.numbers(request.column)
        inside = pl.any_horizontal((x >= low) & (x < high) for low, high in request.ranges)
        # Within one answer with others the whole column would be held.
        found = self._collect(
            lambda frame: reading.of(frame).select(x).filter(inside),
            progress,
            f"ordering {request.column}",
            reading.used,
        )
        values, counts = np.unique(found.to_series(0).to_numpy(), return_counts=True)
        return ValuesWithin(values, counts.astype(np.int64))

    def _value_counts(self, request: ValueCountsQuery, progress: Progress) -> Answer:
        found = self._grouped(request.column, progress)
        if found.height > request.limit:
            return None
        there = found.drop_nulls()
        missing = int(found[_ROW].sum()) - int(there[_ROW].sum())
        values, counts = there.to_series(0).cast(pl.Float64), there[_ROW].cast(pl.Int64)
        return ValueCounts.of(values.to_numpy(), counts.to_numpy(), missing)

    def _grouped(self, name: str, progress: Progress) -> pl.DataFrame:
        """All values of a column, missing ones as one of them, and how often each occurs."""
        column = self._by_name[name].name
        return self._collect(
            lambda frame: frame.group_by(column).agg(pl.len().alias(_ROW)),
            progress,
            f"counting the values of {name}",
            [column],
        )

    def _frequencies(self, request: Frequencies, progress: Progress) -> Answer:
        found = self._grouped(request.column, progress).drop_nulls()
        if found.height > request.limit:
            return None
        values = found.to_series(0)
        texts = values.cast(pl.String) if values.dtype != pl.Boolean else values.cast(pl.Int8).cast(pl.String)
        ordered = pl.DataFrame({"text": texts, "count": found[_ROW]}).sort(["count", "text"], descending=[True, False])
        return tuple(Frequency(str(text), int(many)) for text, many in ordered.rows())

    def pilot_rows(self, size: int, seed: int, progress: Progress = silent) -> pl.DataFrame:
        """About ``size`` rows in pieces from all over the table; of a text, from its beginning."""
        if self.rows <= size or self._text:
            return self._named(self._plain(self._frame.head(size)))
        long = max(size // _PIECES, 1)
        starts = np.sort(np.random.default_rng(seed).integers(0, self.rows - long, _PIECES))
        pieces = (self._frame.slice(int(start), long) for start in starts)
        # One after the other: of each piece a whole part of a file is unpacked.
        return self._named(pl.concat([self._plain(piece) for piece in pieces]))

    def _plain(self, frame: pl.LazyFrame) -> pl.DataFrame:
        """What is found quickly, as it reads little of the table."""
        try:
            return frame.collect(engine="streaming")
        except (pl.exceptions.PolarsError, OSError) as error:
            raise _unreadable(self.title, error) from error

    def _named(self, found: pl.DataFrame) -> pl.DataFrame:
        """The columns of the table under their own names."""
        named = found.select([each.name for each in self._by_name.values()])
        named.columns = list(self._by_name)
        return named

    def sample(
        self, size: int, seed: int, *, stratified_by: str | None = None, progress: Progress = silent
    ) -> pl.DataFrame:
        """``size`` rows by the hash of their places in the files, in the order of the table."""
        drawing = f"drawing a sample of {self.title}"
        if stratified_by is None:
            # A few more than are wanted pass, of which those with the smallest hashes stay.
            passing = int(min(_more_than(size) / max(self.rows, 1), 1.0) * _LAST_HASH)
            found = self._collect(
                lambda frame: _hashed(frame, seed).filter(pl.col(_HASH) <= passing), progress, drawing
            )
            return self._named(found.sort(_HASH).head(size).sort(_ROW))
        within = self._by_name[stratified_by].name
        levels = self._collect(
            lambda frame: frame.group_by(within).agg(pl.len().alias(_ROW)), progress, f"counting {stratified_by}"
        )
        each = max(size // max(levels.height, 1), 1)
        share = (_more_than(each) / pl.col(_ROW)).clip(0, 1) * float(_LAST_HASH)
        shares = levels.lazy().select(within, share.alias(_SHARE))
        found = self._collect(
            lambda frame: (
                _hashed(frame, seed)
                .join(shares, on=within, how="inner", nulls_equal=True)
                .filter(pl.col(_HASH).cast(pl.Float64) <= pl.col(_SHARE))
            ),
            progress,
            drawing,
        )
        return self._named(found.sort(_HASH).group_by(within, maintain_order=True).head(each).sort(_ROW))

    def rows_beyond(
        self, limits: Mapping[str, tuple[float, float]], most: int, progress: Progress = silent
    ) -> pl.DataFrame:
        """The first ``most`` rows with a number beyond the ``limits`` of its column, in the order of the table."""
        reading = Reading(self._by_name)
        parts = (NumbersWhere(name, low, high, inside=False) for name, (low, high) in limits.items())
        outside = pl.any_horizontal(map(reading.is_met, parts))
        every = [each.name for each in self._by_name.values()]
        found = self._collect(
            lambda frame: reading.of(frame.with_row_index(_ROW)).filter(outside).select(_ROW, *every).head(most),
            progress,
            f"fetching rows of {self.title}",
        )
        return self._named(found.sort(_ROW))

    def edited(self, edits: tuple[Edit, ...], folder: Path, progress: Progress = silent) -> pl.LazyFrame:
        """The table with ``edits`` made; it is read when it is written, and tells ``progress`` then."""
        reading = Reading(self._by_name)
        changed = edited(self._watched(progress, f"writing {self.title}"), reading, edits)
        names = {each.name: name for name, each in self._by_name.items() if each.kind is not Kind.OTHER}
        return changed.select(pl.col(own).alias(name) for own, name in names.items())

    def close(self) -> None:
        """Nothing is held open."""


def _hashed(frame: pl.LazyFrame, seed: int) -> pl.LazyFrame:
    """Each row with its place in the table, and the hash of that."""
    return frame.with_row_index(_ROW).with_columns(pl.col(_ROW).hash(seed).alias(_HASH))


def _more_than(size: int) -> float:
    """So many rows are let pass that fewer than ``size`` hardly ever do."""
    return float(size + 6 * size**0.5 + 10)


def _scanned(files: list[Path], path: Path) -> tuple[pl.LazyFrame, tuple[str, ...]]:
    """The files as one frame, and what is to be known of how they are read."""
    scan = _SCANS[files[0].suffix.lower()]
    if scan is pl.scan_csv:
        return scan_texts(files)
    folders = os.path.isdir(path) and any("=" in part for each in files for part in each.relative_to(path).parts[:-1])
    if scan is pl.scan_parquet:
        return scan(files, hive_partitioning=folders, glob=False), ()
    return scan(files), ()


def _column(name: str, kind: pl.DataType) -> EngineColumn:
    if kind == pl.Boolean:
        return EngineColumn(name, Kind.YES_NO, "boolean", whole=True)
    if kind.is_integer():
        large = kind in (pl.Int64, pl.UInt64, pl.Int128)
        note = "whole numbers beyond 2⁵³ are rounded" if large else ""
        return EngineColumn(name, Kind.NUMBER, str(kind), note=note, whole=True)
    if kind.is_float():
        return EngineColumn(name, Kind.NUMBER, str(kind), floating=True)
    if kind.is_decimal():
        return EngineColumn(name, Kind.NUMBER, str(kind), note="digits beyond 15 are rounded")
    if kind.is_temporal() and not isinstance(kind, pl.Duration):
        return EngineColumn(name, Kind.DATE, str(kind))
    if kind == pl.String or isinstance(kind, pl.Categorical | pl.Enum):
        return EngineColumn(name, Kind.TEXT, str(kind))
    return EngineColumn(name, Kind.OTHER, str(kind), note=f"{kind} is no type of a table's cell; it is left out")


def _unreadable(name: str, error: Exception) -> ReadError:
    why = " ".join(str(error).split())[:200]
    return ReadError(f"{name} cannot be read as one table: {why}")
