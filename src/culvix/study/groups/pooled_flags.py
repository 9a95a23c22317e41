"""Outlier methods on several columns of one measure, pooled as one sample."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Ints
from culvix.stats.core.sample import Sample
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.outliers.flags import flag_column, methods_in_force, run_method

__all__ = ["PooledFlags", "flag_pooled"]


@dataclass(frozen=True, eq=False)
class PooledFlags:
    """The ``rows`` (ascending, from 0) of each column whose value is flagged in the pooled sample by ``methods``."""

    methods: tuple[str, ...]
    rows: dict[str, Ints]

    @property
    def count(self) -> int:
        """How many values are flagged."""
        return sum(rows.size for rows in self.rows.values())

    @property
    def names(self) -> str:
        """The methods, as they are called."""
        return ", ".join(OUTLIER_METHODS[key].name for key in self.methods)


def flag_pooled(analyses: Sequence[ColumnPreview]) -> PooledFlags:
    """The flags of the methods in force, at the limits of the study, on the values of all columns as one sample.

    Declared ranges are those of a column; they flag in its own numbers. Methods that do not apply flag nothing.
    """
    settings = analyses[0].request.settings
    columns = {each.column.name: each.flag_basis.values for each in analyses}
    pooled = Sample.of(np.concatenate(list(columns.values())))
    keys = methods_in_force(settings, (None, None))
    results = {key: run_method(key, pooled, settings) for key in keys if not OUTLIER_METHODS[key].follows_range}
    flagged, long = flag_column(results).rows, analyses[0].flag_basis.values.size
    rows = {name: flagged[flagged // long == index] % long for index, name in enumerate(columns)}
    return PooledFlags(tuple(key for key, found in results.items() if found.applies), rows)
