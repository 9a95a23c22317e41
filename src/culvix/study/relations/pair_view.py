"""One pair of columns: its points and lines at once, its coefficients, smooth curve and influential rows when asked."""

from dataclasses import dataclass

import numpy as np

from culvix.caching import cached_property
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.correlation.result import PairCorrelation, present_pairs
from culvix.stats.describe.influence import pearson_left_out, sums_of
from culvix.stats.registry import CORRELATION_KINDS
from culvix.stats.regression.line_influence import line_influence
from culvix.stats.regression.lowess import SmoothCurve, lowess
from culvix.stats.regression.straight_line import StraightLine, straight_line

__all__ = ["InfluentialRow", "PairView", "view_pair"]

_LATER = ("line_without", "with_flagged", "without_flagged", "smooth", "influential")
"""What takes long at many rows."""

_MOST_INFLUENTIAL = 3
_CUTOFF = 4.0
"""Rows are influential from a distance of so many over n on (Bollen & Jackman 1990)."""


@dataclass(frozen=True)
class InfluentialRow:
    """A ``row`` (from 0) that moves the line: Cook's ``distance``, its ``leverage``, and Pearson's r without it."""

    row: int
    distance: float
    leverage: float
    residual: float
    r_without: float | None


@dataclass(frozen=True, eq=False)
class PairView:
    """A pair with its points (``rows`` from 0), the ``flagged`` ones of them, and its line.

    What takes long is worked out when it is first asked for; `work_out` does so beforehand.
    """

    x: str
    y: str
    rows: Ints
    x_values: Floats
    y_values: Floats
    flagged: Ints
    line: StraightLine | None

    @cached_property
    def line_without(self) -> StraightLine | None:
        """The line without the flagged rows; the same one where there are none."""
        if not self.flagged.size:
            return self.line
        left = ~np.isin(self.rows, self.flagged)
        return straight_line(self.x_values[left], self.y_values[left])

    @cached_property
    def with_flagged(self) -> dict[str, PairCorrelation]:
        """The coefficient of each kind over all rows."""
        return {key: kind.run(self.x_values, self.y_values) for key, kind in CORRELATION_KINDS.items()}

    @cached_property
    def without_flagged(self) -> dict[str, PairCorrelation]:
        """The coefficient of each kind without the flagged rows; the same ones where there are none."""
        if not self.flagged.size:
            return self.with_flagged
        left = ~np.isin(self.rows, self.flagged)
        x, y = self.x_values[left], self.y_values[left]
        return {key: kind.run(x, y) for key, kind in CORRELATION_KINDS.items()}

    @cached_property
    def smooth(self) -> SmoothCurve | None:
        """The smooth curve through all rows."""
        return lowess(self.x_values, self.y_values)

    @cached_property
    def influential(self) -> tuple[InfluentialRow, ...]:
        """The rows that move the line most, if any do, the most influential first."""
        found = line_influence(self.x_values, self.y_values)
        if found is None:
            return ()
        worst = found.worst[:_MOST_INFLUENTIAL]
        worst = worst[np.nan_to_num(found.distance[worst]) > _CUTOFF / self.rows.size]
        x, y = self.x_values, self.y_values
        without = pearson_left_out(sums_of(x, y), x, y, worst)
        return tuple(
            InfluentialRow(
                int(self.rows[index]),
                float(found.distance[index]),
                float(found.leverage[index]),
                float(found.residual[index]),
                None if np.isnan(r) else float(r),
            )
            for index, r in zip(worst, without, strict=True)
        )

    def work_out(self, progress: Progress = silent) -> None:
        """Work out everything that takes long. Raises what ``progress`` raises."""
        for share, name in enumerate(_LATER):
            progress(share / len(_LATER), f"correlating {self.x} and {self.y}")
            getattr(self, name)


def view_pair(x: str, y: str, x_values: Floats, y_values: Floats, flagged: Ints) -> PairView:
    """Look at one pair of columns (both shape ``(rows,)``) with the ``flagged`` rows (ascending) of either marked."""
    both = present_pairs(x_values, y_values)
    rows = np.flatnonzero(both)
    marked = flagged[both[flagged]]
    line = straight_line(x_values, y_values)
    return PairView(x, y, rows, x_values[rows], y_values[rows], marked, line)
