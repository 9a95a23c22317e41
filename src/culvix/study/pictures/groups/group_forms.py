"""In which forms groups are compared: the height of each over one grid of values, or its values as points."""

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.shape.axis_scale import AxisScale
from culvix.stats.shape.density import Bounds, density, usual_rule
from culvix.stats.shape.histogram import Histogram
from culvix.stats.shape.qq import qq
from culvix.study.document.choices.settings import ColumnSettings

__all__ = ["FORMS", "MOST_DOTS", "GroupForm"]

FORMS: dict[str, str] = {
    "bars": "histograms",
    "density": "densities",
    "dots": "dots",
    "cumulative": "cumulative",
    "qq": "Q-Q",
}
"""The forms, with what each is called."""

MOST_DOTS = 300
_GRID = 512
_BEYOND = 0.04


@dataclass(frozen=True, eq=False)
class GroupForm:
    """One of `FORMS` on a ``grid``: the edges of bins, or even steps over the range of all groups.

    Samples, grid and ``bounds``, the declared range, are places on ``scale``. ``chosen`` says how densities are
    estimated.
    """

    key: str
    bars: Histogram
    chosen: ColumnSettings
    scale: AxisScale
    bounds: Bounds = (None, None)

    @property
    def grid(self) -> Floats:
        edges = self.bars.edges
        if self.key == "bars":
            return edges
        more = _BEYOND * float(edges[-1] - edges[0])
        return np.linspace(float(edges[0]) - more, float(edges[-1]) + more, _GRID)

    def heights(self, sample: Sample) -> Floats:
        """What a group has over the grid: the mean of several, each by its n, is that of all of them together.

        It is the share in each bin, or at each point the density, or the share at or below it. Dots have none.
        """
        if self.key == "bars":
            side = "left" if self.bars.closed == "left" else "right"
            counts = np.diff(np.searchsorted(sample.sorted, self.grid, side=side))  # type: ignore[call-overload]
            return np.asarray(counts / max(sample.n, 1))
        if self.key == "density":
            rule, width = self.chosen.bandwidth_rule or usual_rule(sample), self.chosen.bandwidth
            curve = density(sample, rule, bandwidth=width, bounds=self.bounds)
            flat = np.zeros(self.grid.size)
            return flat if curve is None else np.interp(self.grid, curve.x, curve.y, left=0.0, right=0.0)
        if self.key == "dots":
            return np.zeros(0)
        return np.asarray(np.searchsorted(sample.sorted, self.grid, side="right") / max(sample.n, 1))

    def points(self, sample: Sample) -> tuple[Floats, Floats]:
        """Values and heights of a group's points: normal quantiles, or for dots places between −1 and 1."""
        if self.key == "qq":
            found = qq(sample, points=MOST_DOTS)
            return (np.zeros(0), np.zeros(0)) if found is None else (found.value, found.z)
        if self.key == "dots":
            # The outermost and an even choice between them.
            at = np.linspace(0, max(sample.n - 1, 0), min(MOST_DOTS, sample.n)).astype(np.int64)
            # Without any order, for one would be seen as a pattern; the same each time.
            return sample.sorted[at], np.random.default_rng(at.size).uniform(-1.0, 1.0, at.size)
        return np.zeros(0), np.zeros(0)

    def outline(self, heights: Floats) -> tuple[Floats, Floats]:
        """The line through ``heights``: places on the scale and y as they are, up and down at the edges of bins."""
        if self.key == "bars":
            return np.repeat(self.grid, 2), np.concatenate(([0.0], np.repeat(heights, 2), [0.0]))
        if self.key == "qq":
            within = (heights > 0) & (heights < 1)
            return self.grid[within], ndtri(heights[within])
        return (self.grid, heights) if heights.size else (np.zeros(0), np.zeros(0))
