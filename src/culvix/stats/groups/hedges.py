"""Hedges' g: a difference of two means in units of their common standard deviation."""

from math import exp, sqrt

import numpy as np
from scipy.special import gammaln, nctdtrinc

from culvix.stats.core.sample import Sample
from culvix.stats.groups.result import Effect, no_effect

__all__ = ["hedges_g"]

_LARGEST_T = 37.0
"""Beyond it the noncentral t is taken for normal about its parameter."""


def hedges_g(x: Sample, y: Sample, confidence: float = 0.95) -> Effect:
    """The difference of two means in pooled standard deviations, its bias at few values taken out.

    Parameters
    ----------
    x, y
        The values of either group, in one unit.
    confidence
        How often the interval holds the difference of the populations, where both are normal and as wide as each
        other, as a share.

    Returns
    -------
    Effect
        g, positive where x lies higher, with its interval from the noncentral t; None with a note for fewer than three
        values or without a spread.

    References
    ----------
    Hedges, L. V. 1981: Distribution theory for Glass's estimator of effect size and related estimators. Journal of
    Educational Statistics 6, 107-128.
    Steiger, J. H. & Fouladi, R. T. 1997: Noncentrality interval estimation and the evaluation of statistical models.
    In: What if there were no significance tests? Mahwah, Erlbaum.
    """
    a, b = x.moments, y.moments
    if a is None or b is None:
        return no_effect("hedges_g", confidence, "One of the groups has no values.")
    freedom, unit = a.n + b.n - 2, max(a.sd or 0.0, b.sd or 0.0)
    if freedom < 1:
        return no_effect("hedges_g", confidence, "The groups have too few values.")
    if not 0 < unit < np.inf:
        return no_effect("hedges_g", confidence, "Neither group has a spread.")
    parts = ((each.n - 1) * ((each.sd or 0.0) / unit) ** 2 for each in (a, b))
    pooled = unit * sqrt(sum(parts) / freedom)
    d, size = (a.mean - b.mean) / pooled, sqrt(a.n * b.n / (a.n + b.n))
    # Γ(ν/2) / (√(ν/2) Γ((ν − 1)/2)), for one degree of freedom its limit.
    bias = exp(gammaln(freedom / 2) - gammaln((freedom - 1) / 2)) / sqrt(freedom / 2) if freedom > 1 else 0.0
    if not bias:
        return Effect("hedges_g", None, None, None, confidence, "The groups have too few values.")
    low, high = (_parameter(d * size, freedom, (1 + side * confidence) / 2) / size * bias for side in (1, -1))
    return Effect("hedges_g", d * bias, low, high, confidence)


def _parameter(t: float, freedom: int, below: float) -> float:
    """The noncentrality at which a t no larger than this one has the probability ``below``."""
    if abs(t) > _LARGEST_T:
        # The noncentral t has about this standard deviation far out (Johnson & Welch 1940).
        spread = sqrt(1 + t * t / (2 * freedom))
        from_normal = float(nctdtrinc(1e6, below, 0.0))
        return t + from_normal * spread
    return float(nctdtrinc(float(freedom), below, t))
