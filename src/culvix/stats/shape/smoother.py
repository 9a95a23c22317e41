"""A density drawn again and again while its bandwidth is dragged: the values are binned once, finely.

Between it and `density` with the same bandwidth lies only the binning, which moves no value by more than a 32 000th of
the range.
"""

from math import ceil, pi

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.fourier import fast_size
from culvix.stats.core.sample import Sample
from culvix.stats.shape.density import CHOSEN, Bounds, Density, reflected

__all__ = ["Smoother"]

_CELLS = 2**14
_REACH = 6.5
_POINTS = 3000


class Smoother:
    """Holds the binned values of ``sample``, which has at least two distinct ones in a range a double can hold."""

    def __init__(self, sample: Sample, bounds: Bounds = (None, None)) -> None:
        self.sample, self.bounds = sample, bounds
        x = sample.sorted
        self.low, self.range = float(x[0]), float(x[-1] - x[0])
        between = self.low + self.range * (np.arange(_CELLS - 1) + 0.5) / (_CELLS - 1)
        self._counts = np.diff(np.searchsorted(x, between), prepend=0, append=x.size).astype(np.float64)

    @property
    def narrowest(self) -> float:
        """The least bandwidth the bins can show, in the column's unit."""
        return 4 * self.range / _CELLS

    def at(self, bandwidth: float) -> Density:
        """The density with ``bandwidth`` (the column's unit), held between the narrowest and ten ranges."""
        width = min(max(bandwidth, self.narrowest), 10 * self.range) / self.range
        # Wide kernels need no fine grid; neighbouring cells are put together.
        group = 1
        while group < 512 and width * _CELLS / group > 64:
            group *= 2
        counts = self._counts.reshape(-1, group).sum(axis=1)
        step = group / (_CELLS - 1)
        pad = ceil(_REACH * width / step)
        size = fast_size(counts.size + 2 * pad)
        frequency = 2 * pi * np.arange(size // 2 + 1) / (size * step)
        padded = np.zeros(size)
        padded[pad : pad + counts.size] = counts
        kernel = np.exp(-0.5 * (frequency * width) ** 2)
        smooth = np.fft.irfft(np.fft.rfft(padded) * kernel, size)[: counts.size + 2 * pad]
        y: Floats = np.maximum(smooth, 0.0) / (self.sample.n * step * self.range)
        positions = np.arange(y.size, dtype=np.float64) - pad + (group - 1) / (2 * group)
        x = self.low + self.range * step * positions
        thin = max(1, y.size // _POINTS)
        at, height = reflected(x[::thin], y[::thin], self.sample, self.bounds)
        return Density(at, height, width * self.range, CHOSEN, self.sample.n)
