"""What if one value were another: the figures and limits of a column with it moved, and nothing recorded."""

from dataclasses import dataclass
from math import sqrt

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.moments import Moments
from culvix.stats.core.sample import Sample
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.outliers.flags import methods_in_force, run_method
from culvix.study.analysis.outliers.impact import Figures, figures_of
from culvix.study.document.choices.settings import MEASURED

__all__ = ["WhatIf", "moved", "what_if"]

_LONG = 50_000
"""In a longer column nothing is added up anew while a value is held, and the test is left out."""
_ENOUGH = 0.01


@dataclass(frozen=True, eq=False)
class WhatIf:
    """The column with the value of ``row`` (from 0) at ``value``: its figures, and the spans of its prompt methods."""

    row: int
    value: float
    figures: Figures
    results: dict[str, OutlierResult]
    flag_basis: Sample
    """The values that the results refer to."""


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
    centre = _moved_moments(sample.moments, before, value) if sample.n > _LONG else None
    if centre is not None:
        made.__dict__["moments"] = centre
    return made


def _moved_moments(centre: Moments | None, before: float, value: float) -> Moments | None:
    """Moments with one value moved, from sums of powers about the old mean; None where too few digits would be left."""
    if centre is None or not centre.sd_n or centre.g1 is None or centre.g2 is None:
        return None
    n, sd = centre.n, centre.sd_n
    a, b = (before - centre.mean) / sd, (value - centre.mean) / sd
    first, second = (b - a) / n, (n + b**2 - a**2) / n
    third, fourth = centre.g1 + (b**3 - a**3) / n, centre.g2 + 3 + (b**4 - a**4) / n
    spread = second - first**2
    if not _ENOUGH < spread < 1 / _ENOUGH or fourth < _ENOUGH * (centre.g2 + 3):
        return None
    g1 = (third - 3 * first * second + 2 * first**3) / spread**1.5
    g2 = (fourth - 4 * first * third + 6 * first**2 * second - 3 * first**4) / spread**2 - 3
    mean, sd_n = centre.mean + first * sd, sd * sqrt(spread)
    return Moments(n, mean * n, mean, sd_n * sqrt(n / (n - 1)), sd_n, g1, g2)


def what_if(preview: ColumnPreview, row: int, value: float) -> WhatIf:
    """What ``preview`` would be with the value in use of ``row`` at ``value``.

    Spans are those of the methods that are quick and need no groups or scale. Raises StatisticsError as `moved`.
    """
    settings, column = preview.request.settings, preview.column
    now = moved(preview.sample, row, value)
    chosen = settings.of(column.name)
    plain = chosen.flag_within is None and chosen.flag_scale == MEASURED
    flag_basis = now if preview.flag_basis is preview.sample else moved(preview.flag_basis, row, value)
    bounds = preview.request.valid_range
    in_force = methods_in_force(settings, bounds)
    keys = [key for key in in_force if not OUTLIER_METHODS[key].deferred] if plain else []
    test = settings.verdict_test_at(preview.sample.n).key
    results = {key: run_method(key, flag_basis, settings, bounds, column=column.name) for key in keys}
    return WhatIf(row, value, figures_of(now, settings.trim, test, brief=now.n > _LONG), results, flag_basis)
