"""What if one value were another: the figures and limits of a column with it moved, and nothing recorded."""

from dataclasses import dataclass

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.methods import OUTLIER_METHODS, suggested_test
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.sample import Sample
from culvix.study.analysis import ColumnLook
from culvix.study.flags import run_method, valid_range
from culvix.study.impact import Figures, figures_of
from culvix.study.settings import MEASURED

__all__ = ["WhatIf", "moved", "what_if"]


@dataclass(frozen=True, eq=False)
class WhatIf:
    """The column with the value of ``row`` (from 0) at ``value``: its figures, and the spans of its prompt methods."""

    row: int
    value: float
    figures: Figures
    results: dict[str, OutlierResult]


def moved(sample: Sample, row: int, value: float) -> Sample:
    """``sample`` with the value of ``row`` at ``value``; the order is kept but for that one.

    Raises StatisticsError where the row has no value.
    """
    before = float(sample.values[row])
    if not (np.isfinite(before) and np.isfinite(value)):
        raise StatisticsError("Only a value that is there can be moved, to a finite one.")
    values = sample.values.copy()
    values[row] = value
    made = Sample(values)
    if sample.all_finite:
        x = np.delete(sample.sorted, int(np.searchsorted(sample.sorted, before)))
        made.__dict__["_ordered"] = np.insert(x, int(np.searchsorted(x, value)), value)
    return made


def what_if(look: ColumnLook, row: int, value: float) -> WhatIf:
    """What ``look`` would be with the value in use of ``row`` at ``value``.

    Spans are those of the methods that are quick and need no groups or scale. Raises StatisticsError as `moved`.
    """
    settings, column = look.request.settings, look.column
    now = moved(look.sample, row, value)
    chosen = settings.of(column.name)
    plain = chosen.flag_within is None and chosen.flag_scale == MEASURED
    judged = now if look.judged is look.sample else moved(look.judged, row, value)
    keys = [key for key in settings.methods if not OUTLIER_METHODS[key].deferred] if plain else []
    bounds = valid_range(column, settings)
    results = {key: run_method(key, judged, settings, bounds) for key in keys}
    return WhatIf(row, value, figures_of(now, settings.trim, suggested_test(look.sample.n).key), results)
