"""In which form the rows of a pair are looked at: as measured, by rank, off the line, or by how far they agree."""

from dataclasses import dataclass, replace
from math import isfinite

import numpy as np

from culvix.caching import cached_property
from culvix.stats.association.agreement import LimitsOfAgreement, limits_of_agreement
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.correlation.pair_sums import average_ranks
from culvix.stats.regression.straight_line import straight_line
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.study.relations.pair_analysis import PairAnalysis
from culvix.study.relations.pair_view import PairView

__all__ = ["PAIR_FORMS", "Cells", "Level", "PairForm", "can_agree", "pair_form"]

PAIR_FORMS = {
    "values": "values",
    "ranks": "ranks",
    "residuals": "residuals",
    "differences": "differences",
}
"""The forms by key, with the words for them."""

_LEAST_SHARED = 0.5
"""Columns agree at all where their ranges share at least so much of the wider one."""
_BULK = (0.05, 0.95)
"""Between these quantiles lies what is taken for the range: a few wrong values do not make two measures of one."""
_ACROSS, _UP = 150, 110
"""Cells of a picture of the density."""


@dataclass(frozen=True)
class Level:
    """A height of its own meaning on the upright axis."""

    height: float
    words: str
    is_limit: bool = False


@dataclass(frozen=True, eq=False)
class Cells:
    """How many rows lie in each cell of a grid over all places: ``counts``, shape ``(up, across)``, lowest first."""

    counts: Ints
    left: float
    bottom: float
    width: float
    height: float


@dataclass(frozen=True, eq=False)
class PairForm:
    """A pair as it stands on its two axes: ``view`` has the places along both, ``titles`` and ``scales`` are theirs.

    ``measures`` are the columns whose values the axes show, None for an axis that shows something else.
    """

    key: str
    view: PairView
    titles: tuple[str, str]
    scales: tuple[AxisScale, AxisScale] = (MEASURED_AXIS, MEASURED_AXIS)
    levels: tuple[Level, ...] = ()
    measures: tuple[str | None, str | None] = (None, None)

    @cached_property
    def _positions(self) -> tuple[Floats, Floats]:
        """Where all rows stand on the two axes."""
        return self.scales[0].positions(self.view.x_values), self.scales[1].positions(self.view.y_values)

    @cached_property
    def extent(self) -> tuple[tuple[float, float], tuple[float, float]] | None:
        """The range of all places along either axis; None where there are none."""
        x, y = (positions[np.isfinite(positions)] for positions in self._positions)
        if not x.size or not y.size:
            return None
        return (float(x.min()), float(x.max())), (float(y.min()), float(y.max()))

    @cached_property
    def cells(self) -> Cells | None:
        """The rows counted over the whole extent; None where all stand at one place of an axis."""
        if self.extent is None or any(not high > low or not isfinite(high - low) for low, high in self.extent):
            return None
        inside = np.isfinite(self._positions[0]) & np.isfinite(self._positions[1])
        at = [
            np.minimum(((positions[inside] - low) / (high - low) * many).astype(np.int64), many - 1)
            for positions, (low, high), many in zip(self._positions, self.extent, (_ACROSS, _UP), strict=True)
        ]
        counts = np.bincount(at[1] * _ACROSS + at[0], minlength=_ACROSS * _UP).reshape(_UP, _ACROSS)
        (left, right), (bottom, top) = self.extent
        return Cells(counts, left, bottom, right - left, top - bottom)


def pair_form(pair: PairAnalysis, key: str, *, confidence: float = 0.95) -> PairForm:
    """``pair`` in the form ``key`` of `PAIR_FORMS`; as measured where it has no such form.

    The limits of agreement hold ``confidence`` of the rows.
    """
    return _MAKERS.get(key, _values)(pair, confidence) or _values(pair, confidence)


def can_agree(pair: PairAnalysis) -> bool:
    """Whether both columns may measure the same: in one unit, and most of their values over much of one range."""
    if pair.x.column.unit != pair.y.column.unit or not pair.view.rows.size:
        return False
    low, high = _bulk(pair.x.sample.sorted)
    least, most = _bulk(pair.y.sample.sorted)
    wider = max(high - low, most - least)
    return wider > 0 and min(high, most) - max(low, least) >= _LEAST_SHARED * wider


def _bulk(ordered: Floats) -> tuple[float, float]:
    """Between which of ascending values most of them lie."""
    first, last = (float(ordered[int(share * (ordered.size - 1))]) for share in _BULK)
    return first, last


def _values(pair: PairAnalysis, _: float) -> PairForm:
    scales = pair.x.axis.scale, pair.y.axis.scale
    return PairForm("values", pair.view, pair.titles, scales, (), (pair.view.x, pair.view.y))


def _of(pair: PairAnalysis, x: Floats, y: Floats) -> PairView:
    """The rows of ``pair`` at other places."""
    return replace(pair.view, x_values=x, y_values=y, line=straight_line(x, y))


def _ranks(pair: PairAnalysis, _: float) -> PairForm:
    x, y = (average_ranks(values) for values in (pair.view.x_values, pair.view.y_values))
    return PairForm("ranks", _of(pair, x, y), (f"rank of {pair.view.x}", f"rank of {pair.view.y}"))


def _residuals(pair: PairAnalysis, _: float) -> PairForm | None:
    line = pair.view.line
    if line is None:
        return None
    fitted = line.at(pair.view.x_values)
    view = replace(_of(pair, fitted, pair.view.y_values - fitted), line=None)
    titles = f"{pair.titles[1]} by the line", f"residual of {pair.titles[1]}"
    return PairForm("residuals", view, titles, levels=(Level(0.0, "the line"),))


def _differences(pair: PairAnalysis, confidence: float) -> PairForm | None:
    found = limits_of_agreement(pair.view.x_values, pair.view.y_values, within=confidence) if can_agree(pair) else None
    if found is None:
        return None
    x, y = pair.view.x_values, pair.view.y_values
    unit = f" ({pair.x.column.unit})" if pair.x.column.unit else ""
    titles = f"mean of {pair.view.x} and {pair.view.y}{unit}", f"{pair.view.y} less {pair.view.x}{unit}"
    return PairForm("differences", _of(pair, x / 2 + y / 2, y - x), titles, levels=_levels(found))


def _levels(found: LimitsOfAgreement) -> tuple[Level, ...]:
    share = f"{100 * found.within:g} % limit"
    low, high = found.limits
    return Level(high, share, True), Level(found.bias, "bias"), Level(low, share, True)


_MAKERS = {"values": _values, "ranks": _ranks, "residuals": _residuals, "differences": _differences}
