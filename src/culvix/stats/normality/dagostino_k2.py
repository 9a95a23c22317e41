"""D'Agostino–Pearson K²: skewness and kurtosis, each brought to a normal scale, squared and added.

Skewness by D'Agostino 1970, kurtosis by Anscombe & Glynn 1983, their sum against χ² with 2 degrees of freedom as in
D'Agostino, Belanger & D'Agostino 1990. The two are not independent in samples: below n = 1000 p is rough in its far
tail (at n = 20 what is given as 0.0028 is about 0.01), and below n = 20 the kurtosis part is; the result says so.
"""

from math import asinh, cbrt, copysign, erfc, exp, log, sqrt

from culvix.stats.core.sample import Sample
from culvix.stats.normality.result import NormalityResult, too_few

__all__ = ["dagostino_k2", "kurtosis_z", "skewness_z"]


_ENOUGH = 1000
_FAR = 0.02
"""p below which that of a short sample is rough."""


def dagostino_k2(sample: Sample) -> NormalityResult:
    """Test ``sample`` for normality by its third and fourth moments; a large K² speaks against it.

    For n from 8. ``parts`` of the result has the normal scores of skewness and kurtosis with their p.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.

    Returns
    -------
    NormalityResult
        Statistic, p and n; None with a note where there are too few values or they are all equal.

    References
    ----------
    D'Agostino, R. B., Belanger, A. & D'Agostino, R. B. Jr. 1990: A suggestion for using powerful and informative tests
    of normality. The American Statistician 44, 316-321.
    """
    refused = too_few(sample, "dagostino_k2", "K²", 8)
    if refused:
        return refused
    centre, n = sample.moments, sample.n
    assert centre is not None and centre.g1 is not None and centre.g2 is not None
    scores = {"skewness": skewness_z(centre.g1, n), "kurtosis": kurtosis_z(centre.g2, n)}
    statistic = sum(score**2 for score in scores.values())
    p, note = exp(-statistic / 2), None
    if n < 20:
        note = f"The kurtosis part is rough below n = 20; n is {n}."
    elif n < _ENOUGH and p < _FAR:
        note = f"So small a p is rough below n = {_ENOUGH}, rather too small."
    parts = {name: (score, erfc(abs(score) / sqrt(2))) for name, score in scores.items()}
    return NormalityResult("dagostino_k2", "K²", statistic, p, n, note, parts)


def skewness_z(g1: float, n: int) -> float:
    """Normal score of the skewness g1 of n ≥ 8 values."""
    y = g1 * sqrt((n + 1) * (n + 3) / (6 * (n - 2)))
    beta = 3 * (n * n + 27 * n - 70) * (n + 1) * (n + 3) / ((n - 2) * (n + 5) * (n + 7) * (n + 9))
    w = sqrt(2 * (beta - 1)) - 1
    return asinh(y / sqrt(2 / (w - 1))) / sqrt(0.5 * log(w))


def kurtosis_z(g2: float, n: int) -> float:
    """Normal score of the excess kurtosis g2 of n ≥ 8 values."""
    variance = 24 * n * (n - 2) * (n - 3) / ((n + 1) ** 2 * (n + 3) * (n + 5))
    x = (g2 + 3 - 3 * (n - 1) / (n + 1)) / sqrt(variance)
    skew = 6 * (n * n - 5 * n + 2) / ((n + 7) * (n + 9)) * sqrt(6 * (n + 3) * (n + 5) / (n * (n - 2) * (n - 3)))
    a = 6 + 8 / skew * (2 / skew + sqrt(1 + 4 / skew**2))
    lower = 1 + x * sqrt(2 / (a - 4))
    cube = copysign(cbrt((1 - 2 / a) / abs(lower)), lower) if lower else 0.0
    return (1 - 2 / (9 * a) - cube) / sqrt(2 / (9 * a))
