"""Whether two columns that measure the same thing give the same values."""

from dataclasses import dataclass
from math import atanh, isfinite, sqrt, tanh

import numpy as np
from scipy.special import ndtri

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.moments import moments
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import PairCorrelation, present_pairs

__all__ = ["Concordance", "LimitsOfAgreement", "concordance", "limits_of_agreement"]

_FEWEST = 3


@dataclass(frozen=True)
class LimitsOfAgreement:
    """How far one column lies above the other, in their unit: ``bias`` ± z · ``sd`` hold the share ``within`` of rows.

    ``bias_interval`` and ``limit_error``, the standard error of either limit, are by the normal distribution;
    ``trend`` correlates the differences with the means of both: whether they grow with what is measured.
    """

    bias: float
    sd: float
    limits: tuple[float, float]
    bias_interval: tuple[float, float]
    limit_error: float
    within: float
    trend: PairCorrelation
    n: int


@dataclass(frozen=True)
class Concordance:
    """Lin's coefficient: how near the rows lie to the line of equal values, with its interval.

    It is the product of ``precision``, Pearson's r, and of ``accuracy``, what scale and location cost.
    """

    value: float
    interval: tuple[float, float] | None
    precision: float
    accuracy: float
    n: int


def _pairs(x: Floats, y: Floats) -> tuple[Floats, Floats]:
    both = present_pairs(x, y)
    return x[both], y[both]


def _z(share: float) -> float:
    if not 0 < share < 1:
        raise StatisticsError(f"A share lies between 0 and 1, not at {share}.")
    return float(ndtri((1 + share) / 2))


def limits_of_agreement(x: Floats, y: Floats, *, within: float = 0.95) -> LimitsOfAgreement | None:
    """The limits of agreement of two columns that measure the same in the same unit, y less x.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in one unit; rows where either is missing or infinite are left out.
    within
        The share of rows that the limits are to hold, and the confidence of the interval of the bias.

    Returns
    -------
    LimitsOfAgreement or None
        None below three rows.

    Raises
    ------
    StatisticsError
        For columns of different lengths, and a share that does not lie between 0 and 1.

    References
    ----------
    Bland, J. M. & Altman, D. G. 1986: Statistical methods for assessing agreement between two methods of clinical
    measurement. Lancet 327, 307-310.
    """
    z = _z(within)
    a, b = _pairs(x, y)
    n = int(a.size)
    if n < _FEWEST:
        return None
    differences = b - a
    of_differences = moments(differences)
    sd = of_differences.sd
    if sd is None or not isfinite(sd):
        return None
    bias, error = of_differences.mean, sd / sqrt(n)
    return LimitsOfAgreement(
        bias,
        sd,
        (bias - z * sd, bias + z * sd),
        (bias - z * error, bias + z * error),
        sqrt(3) * error,
        within,
        pearson(a / 2 + b / 2, differences),
        n,
    )


def concordance(x: Floats, y: Floats, *, confidence: float = 0.95) -> Concordance | None:
    """Lin's concordance correlation coefficient of two columns.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in one unit; rows where either is missing or infinite are left out.
    confidence
        How often, as a share, such an interval holds what it is for.

    Returns
    -------
    Concordance or None
        The interval is that of the inverse hyperbolic tangent, None where the coefficient is ±1 or 0. None below three
        rows and where either column has no spread.

    Raises
    ------
    StatisticsError
        For columns of different lengths, and a confidence that does not lie between 0 and 1.

    References
    ----------
    Lin, L. I. 1989: A concordance correlation coefficient to evaluate reproducibility. Biometrics 45, 255-268.
    Lin, L. I. 2000: A note on the concordance correlation coefficient. Biometrics 56, 324-325 (the variance).
    """
    z = _z(confidence)
    a, b = _pairs(x, y)
    n = int(a.size)
    if n < _FEWEST:
        return None
    of_a, of_b, r = moments(a), moments(b), pearson(a, b).r
    if r is None or not of_a.sd_n or not of_b.sd_n:
        return None
    ratio = of_a.sd_n / of_b.sd_n
    shift = (of_a.mean - of_b.mean) / sqrt(of_a.sd_n) / sqrt(of_b.sd_n)
    accuracy = 2 / (ratio + 1 / ratio + shift * shift)
    value = r * accuracy
    return Concordance(value, _concordance_interval(value, r, shift, n, z), r, accuracy, n)


def _concordance_interval(value: float, r: float, shift: float, n: int, z: float) -> tuple[float, float] | None:
    if not 0 < abs(value) < 1 or abs(r) >= 1 or r == 0:
        return None
    squared = value * value
    variance = (
        (1 - r * r) * squared / ((1 - squared) * r * r)
        + 2 * value**3 * (1 - value) * shift**2 / (r * (1 - squared) ** 2)
        - value**4 * shift**4 / (2 * r * r * (1 - squared) ** 2)
    ) / (n - 2)
    if not variance > 0:
        return None
    reach = z * float(np.sqrt(variance))
    return tanh(atanh(value) - reach), tanh(atanh(value) + reach)
