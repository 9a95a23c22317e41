"""Which outlier method suits the shape of a column, and why.

Skewness is judged by the outer eighths of the values, which outliers do not move (Hinkley 1975); tails by how far the
outer eighths (Moors 1988), and the outer fiftieths, lie beyond what the quartiles of a normal would let expect.
"""

from dataclasses import dataclass
from math import sqrt

from culvix.stats.core.arrays import Floats
from culvix.stats.core.quantiles import quantile
from culvix.stats.core.recorded_steps import recorded_step
from culvix.stats.core.sample import Sample
from culvix.stats.display import count, number

__all__ = ["MethodSuggestion", "suggested_method"]

_SKEWED = (0.08, 3.0)
_HEAVY = (0.15, 5.0)
_LIGHT = (0.1, 4.0)
"""The least that counts as skewed, heavy or light in a long column, and by 1/√n what chance makes of a normal one."""
_NORMAL_MOORS = 1.233
_NORMAL_REACH = 2.0537 / 0.6745
"""From the median to the 98 % point, in halves of the IQR."""
_COARSE = 0.5
"""Steps of so many SDs (by the IQR) make tests for a normal see the steps."""
_FEW, _TELLING = 8, 30
_LONG = 10_000


@dataclass(frozen=True)
class MethodSuggestion:
    """A method of the table by its key, and the ``reason`` in words; no method where none can be applied."""

    key: str | None
    reason: str


def suggested_method(sample: Sample, *, codes: bool = False) -> MethodSuggestion:
    """The outlier method to read first, by the shape of the column.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    codes
        Whether the numbers are names of categories, for which there is no method.

    Returns
    -------
    MethodSuggestion
        The method's key, None where none applies, and the reason in words.

    References
    ----------
    Hinkley, D. V. 1975: On power transformations to symmetry. Biometrika 62, 101-111. Moors, J. J. A. 1988: A quantile
    alternative for kurtosis. The Statistician 37, 25-32.
    """
    none = _why_none(sample, codes)
    if none is not None:
        return MethodSuggestion(None, none)
    if sample.n < _FEW:
        return MethodSuggestion("dixon", f"n {count(sample.n)}: the gap at an end is all that can be judged.")
    if sample.n < _TELLING:
        why = "too few to tell the shape. If it can be taken for normal otherwise, this test holds its level."
        return MethodSuggestion("generalized_esd", f"n {count(sample.n)}: {why}")
    return _by_steps(sample) or _by_shape(sample) or _for_a_normal(sample)


def _why_none(sample: Sample, codes: bool) -> str | None:
    """Why no method is suggested, where none is."""
    if codes:
        return "The numbers are codes: none of them is far from the others."
    if sample.n < 3:
        return f"{count(sample.n)} values: too few to say what is far from the others."
    if sample.distinct == 1:
        return "All values are equal: nothing is far from anything."
    if sample.distinct == 2:
        return "Two different values only: neither is far from the other."
    if not sample.mad:
        return "More than half of the values are equal, which no normal lies behind: look at the others by themselves."
    return None


def _by_steps(sample: Sample) -> MethodSuggestion | None:
    """For values in steps so coarse that they are no normal's."""
    x, step = sample.sorted, recorded_step(sample)
    middle = quantile(x, 0.75) - quantile(x, 0.25)
    steps = step * 1.349 / middle if step is not None and middle > 0 else 0.0
    if steps < _COARSE:
        return None
    return MethodSuggestion(
        "iqr_fences",
        f"Values stand in steps of {number(steps, 2)} SDs, which tests for a normal take for a departure; fences by "
        "the quartiles do not.",
    )


def _by_shape(sample: Sample) -> MethodSuggestion | None:
    """For a shape that is plainly not that of a normal."""
    x, n = sample.sorted, sample.n
    eighths = [quantile(x, k / 8) for k in range(1, 8)]
    skew = _hinkley(eighths)
    if abs(skew) > _least(_SKEWED, n):
        side = "right" if skew > 0 else "left"
        return MethodSuggestion(
            "adjusted_fences",
            f"Skewed to the {side} (outer eighths {number(abs(skew), 2)} out of balance): fences that stretch on the "
            "long side.",
        )
    moors, reach = _moors(eighths) - _NORMAL_MOORS, _reach(x, eighths)
    if moors > _least(_HEAVY, n) or reach > _least(_HEAVY, n):
        return MethodSuggestion(
            "modified_z",
            f"Symmetric, tails heavier than a normal's (outer fiftieths {number(1 + reach, 2)} times as far out): "
            "limits by median and MAD.",
        )
    if moors < -_least(_LIGHT, n) or reach < -_least(_LIGHT, n):
        return MethodSuggestion(
            "iqr_fences",
            f"Flat or with two peaks (outer fiftieths {number(1 + reach, 2)} times as far out as a normal's): fences "
            "flag only what lies outside it all.",
        )
    return None


def _for_a_normal(sample: Sample) -> MethodSuggestion:
    if sample.n <= _LONG:
        why = "Symmetric and near to normal but for the farthest values: a test that allows for several at once."
        return MethodSuggestion("generalized_esd", why)
    return MethodSuggestion(
        "fdr",
        f"Near to normal and long (n {count(sample.n)}): however many are flagged, the share of wrong flags is held.",
    )


def _least(size: tuple[float, float], n: int) -> float:
    return max(size[0], size[1] / sqrt(n))


def _reach(x: Floats, eighths: list[float]) -> float:
    """How much farther apart the outer fiftieths stand than a normal's with the same quartiles, as a share."""
    middle = eighths[5] - eighths[1]
    return (quantile(x, 0.98) - quantile(x, 0.02)) / (middle * _NORMAL_REACH) - 1 if middle > 0 else 0.0


def _hinkley(eighths: list[float]) -> float:
    """How far the outer eighths are out of balance about the median, −1 to 1; 0 where they coincide."""
    low, middle, high = eighths[0], eighths[3], eighths[6]
    return (high - 2 * middle + low) / (high - low) if high > low else 0.0


def _moors(eighths: list[float]) -> float:
    """Moors' kurtosis; that of a normal where the quartiles coincide."""
    middle = eighths[5] - eighths[1]
    return (eighths[6] - eighths[4] + eighths[2] - eighths[0]) / middle if middle > 0 else _NORMAL_MOORS
