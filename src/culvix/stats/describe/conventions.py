"""The same statistic under the conventions in use elsewhere: why another program says another number."""

from collections.abc import Callable, Mapping
from math import sqrt
from types import MappingProxyType

from culvix.stats.core.quantiles import QUANTILE_TYPES, hinges, quantile
from culvix.stats.core.sample import Sample
from culvix.stats.describe.description import MAD_TO_SD

__all__ = ["OTHER_CONVENTIONS", "other_conventions"]

Figures = list[tuple[str, float]]


def _quartile(p: float, side: int) -> Callable[[Sample], Figures]:
    def figures(sample: Sample) -> Figures:
        values = [(text, quantile(sample.sorted, p, kind)) for kind, text in QUANTILE_TYPES.items()]
        return [*values, ("hinge: median of the half", hinges(sample.sorted)[side])]

    return figures


def _iqr(sample: Sample) -> Figures:
    x = sample.sorted
    values = [(text, quantile(x, 0.75, kind) - quantile(x, 0.25, kind)) for kind, text in QUANTILE_TYPES.items()]
    low, high = hinges(x)
    return [*values, ("between the hinges", high - low)]


def _spread(squared: bool) -> Callable[[Sample], Figures]:
    def figures(sample: Sample) -> Figures:
        centre, n = sample.moments, sample.n
        if centre is None or centre.sd is None:
            return []
        power = 2 if squared else 1
        return [
            ("n−1 in the denominator (of a sample)", centre.sd**power),
            ("n in the denominator (of a whole population)", (centre.sd * sqrt((n - 1) / n)) ** power),
        ]

    return figures


def _skewness(sample: Sample) -> Figures:
    centre, n = sample.moments, sample.n
    if centre is None or centre.g1 is None:
        return []
    figures = [("g1, third moment over the population SD cubed", centre.g1)]
    if centre.skewness is not None:
        figures.insert(0, ("G1, adjusted for n", centre.skewness))
    return [*figures, ("b1, over the SD with n−1 cubed", centre.g1 * ((n - 1) / n) ** 1.5)]


def _kurtosis(sample: Sample) -> Figures:
    centre, n = sample.moments, sample.n
    if centre is None or centre.g2 is None:
        return []
    figures = [("g2, a normal has 0", centre.g2)]
    if centre.excess_kurtosis is not None:
        figures.insert(0, ("G2, adjusted for n, a normal has 0", centre.excess_kurtosis))
    figures.append(("b2 − 3, over the SD with n−1", (centre.g2 + 3) * ((n - 1) / n) ** 2 - 3))
    return [*figures, ("g2 + 3, a normal has 3", centre.g2 + 3)]


def _mad(sample: Sample) -> Figures:
    figures = [("as it is, unscaled", sample.mad), ("times 1.4826, the SD of a normal", sample.mad * MAD_TO_SD)]
    return [*figures, ("divided by 0.6745", sample.mad / 0.6745)]


OTHER_CONVENTIONS: Mapping[str, Callable[[Sample], Figures]] = MappingProxyType(
    {
        "q1": _quartile(0.25, 0),
        "q3": _quartile(0.75, 1),
        "iqr": _iqr,
        "sd": _spread(squared=False),
        "variance": _spread(squared=True),
        "skewness": _skewness,
        "excess_kurtosis": _kurtosis,
        "mad": _mad,
        "mad_scaled": _mad,
    }
)
"""By statistic: its names and values (the column's unit, or none) under every convention in use."""


def other_conventions(key: str, sample: Sample) -> Figures:
    """A statistic under every convention in use: why another program says another number.

    Parameters
    ----------
    key
        The statistic, by its name in `OTHER_CONVENTIONS`.
    sample
        The values, in any unit; missing and infinite ones are left out.

    Returns
    -------
    list of (str, float)
        What each convention is called and gives; empty where there is one only, or no value.

    References
    ----------
    Hyndman, R. J. & Fan, Y. 1996: Sample quantiles in statistical packages. The American Statistician 50, 361-365.
    Joanes, D. N. & Gill, C. A. 1998: Comparing measures of sample skewness and kurtosis. The Statistician 47, 183-189.
    """
    return OTHER_CONVENTIONS[key](sample) if key in OTHER_CONVENTIONS and sample.n else []
