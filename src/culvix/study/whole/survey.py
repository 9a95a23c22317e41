"""A survey of a whole table by the engine that holds it: exact figures from as few readings as will do."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.quantiles import PERCENTILES, quantile
from culvix.stats.core.sample import Sample
from culvix.study.whole.column_figures import ColumnOfWhole, NumbersOfWhole
from culvix.study.whole.column_survey import ColumnSurvey, TextSurvey, WholeSettings
from culvix.study.whole.pair_survey import PairSurvey
from culvix.study.whole.pilot import pilot_of
from culvix.tables.engines.engine import Engine, EngineColumn, StateLost
from culvix.tables.engines.requests import DistinctCount, Request

__all__ = ["WholeSettings", "WholeSurvey", "survey_whole"]

_FIRST_ROWS = 100_000


@dataclass(frozen=True, eq=False)
class WholeSurvey:
    """All ``columns`` of the table ``title`` at ``address``, whose ``engine`` found ``rows`` rows.

    ``r`` is the matrix of Pearson's coefficient of the columns named ``correlated``, NaN where there is none, and
    ``pairs`` that of the rows with both values. ``readings`` is how often the whole table was read.
    """

    engine: str
    title: str
    address: str
    rows: int
    columns: tuple[ColumnOfWhole, ...]
    correlated: tuple[str, ...]
    r: Floats
    pairs: Ints
    readings: int
    notes: tuple[str, ...] = ()

    def of(self, name: str) -> ColumnOfWhole | None:
        """The column called ``name``."""
        return next((each for each in self.columns if each.column.name == name), None)


def survey_whole(
    engine: Engine,
    settings: WholeSettings | None = None,
    *,
    seed: int = 1,
    progress: Progress = silent,
    on_figures: Callable[[tuple[ColumnOfWhole, ...]], None] = lambda columns: None,
) -> WholeSurvey:
    """Survey the table that ``engine`` holds.

    ``on_figures`` gets all columns as they are in the pilot rows, and after each reading. Raises ReadError where the
    engine cannot answer, and what ``progress`` raises.
    """
    settings = settings or WholeSettings()
    try:
        return _survey(engine, settings, seed, progress, on_figures)
    except StateLost:
        return _survey(engine, settings, seed, progress, on_figures, sums_later=True)


def _survey(
    engine: Engine,
    settings: WholeSettings,
    seed: int,
    progress: Progress,
    on_figures: Callable[[tuple[ColumnOfWhole, ...]], None],
    *,
    sums_later: bool = False,
) -> WholeSurvey:
    progress(0.0, f"looking at {engine.title}")
    first = engine.pilot_rows(_FIRST_ROWS, seed, progress)
    on_figures(tuple(_in_pilot_rows(first, column) for column in engine.columns))
    surveys: list[ColumnSurvey | TextSurvey] = []
    for column in engine.columns:
        if column.kind.has_numbers:
            pilot = pilot_of(_numbers_of(first, column), engine.rows, settings.fence, settings.z, first.height)
            surveys.append(ColumnSurvey(column, pilot, engine.rows, settings, sums_later=sums_later))
        else:
            surveys.append(TextSurvey(column))
    pairs = PairSurvey([each for each in surveys if isinstance(each, ColumnSurvey)])
    readings = 0
    while True:
        asked: list[Request] = [request for each in surveys for request in each.wanted()]
        if readings or (engine.pairs_at_once and not sums_later):
            asked += pairs.wanted()
        if not asked:
            break
        answers = engine.answer(asked, _within(progress, readings))
        readings += 1
        for each in surveys:
            each.take(answers)
        pairs.take(answers)
        on_figures(tuple(each.found() for each in surveys))
    names, r, n = pairs.matrix()
    columns = tuple(each.found() for each in surveys)
    return WholeSurvey(
        engine.name, engine.title, engine.address, engine.rows, columns, names, r, n, readings, engine.notes
    )


def _within(progress: Progress, readings: int) -> Progress:
    """The part of all work that one reading is; there are two, seldom more."""
    begin = min(0.1 + 0.4 * readings, 0.9)
    return lambda share, doing: progress(begin + 0.4 * share, f"{doing} (pass {readings + 1})")


def _numbers_of(first: pl.DataFrame, column: EngineColumn) -> Floats:
    # To Polars some names are patterns.
    cells = first.get_column(column.name).rename("x")
    values = cells.cast(pl.Float64, strict=False).drop_nulls().to_numpy()
    return np.asarray(values[np.isfinite(values)])


def _in_pilot_rows(first: pl.DataFrame, column: EngineColumn) -> ColumnOfWhole:
    """What the pilot rows alone show of a column."""
    unknown = DistinctCount(None, exact=False)
    if not column.kind.has_numbers:
        there = first.get_column(column.name).rename("x").count() if column.name in first.columns else 0
        return ColumnOfWhole(column, there, first.height - there, unknown, pilot_rows=first.height)
    x = _numbers_of(first, column)
    sample = Sample.of(x)
    low, high = (float(sample.sorted[0]), float(sample.sorted[-1])) if x.size else (None, None)
    quantiles = {each: quantile(sample.sorted, each / 100) for each in PERCENTILES} if x.size else {}
    zeros, negatives = int((x == 0).sum()), int((x < 0).sum())
    numbers = NumbersOfWhole(0, 0, zeros, negatives, low, high, sample.moments, quantiles)
    return ColumnOfWhole(column, x.size, first.height - x.size, unknown, (), "", numbers, first.height)
