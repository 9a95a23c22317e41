"""What every test of normality returns, and the steps several of them share."""

from dataclasses import dataclass

import numpy as np
from scipy.special import log_ndtr

from culvix.stats.arrays import Floats
from culvix.stats.sample import Sample

__all__ = ["NormalityResult", "log_tails", "standardised", "too_few"]


@dataclass(frozen=True)
class NormalityResult:
    """Outcome of one test on n values.

    ``statistic`` and ``p`` are None where the test cannot be made, and ``note`` says why; a note beside
    numbers is a caution.
    """

    method: str
    symbol: str
    statistic: float | None
    p: float | None
    n: int
    note: str | None = None


def too_few(sample: Sample, method: str, symbol: str, smallest: int) -> NormalityResult | None:
    """The result that says why ``sample`` cannot be tested, or None where it can."""
    n = sample.n
    if n < smallest:
        why = f"Needs at least {smallest} values; there {'is' if n == 1 else 'are'} {n}."
        return NormalityResult(method, symbol, None, None, n, why)
    if sample.sorted[0] == sample.sorted[-1]:
        return NormalityResult(method, symbol, None, None, n, "All values are equal, so there is no shape to test.")
    return None


def standardised(sample: Sample) -> Floats:
    """The ordered values less their mean, over their SD (n−1); shape ``(n,)``. Safe at any scale."""
    x = sample.sorted
    exponent = int(np.frexp(max(abs(float(x[0])), abs(float(x[-1]))))[1])
    scaled = Sample(np.ldexp(x, -exponent))
    centre = scaled.moments
    assert centre is not None and centre.sd
    return (scaled.sorted - centre.mean) / centre.sd


def log_tails(y: Floats) -> tuple[Floats, Floats]:
    """ln Φ(y) and ln(1−Φ(y)), both without cancellation."""
    return np.asarray(log_ndtr(y)), np.asarray(log_ndtr(-y))
