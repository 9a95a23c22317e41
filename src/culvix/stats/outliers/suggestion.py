"""Which outlier method suits the shape of a column, and why.

Skewness is judged by the outer eighths of the values, which outliers do not move (Hinkley 1975); tails by how far the
outer eighths lie beyond what the quartiles of a normal would let expect (Moors 1988).
"""

from dataclasses import dataclass
from math import sqrt

from culvix.stats.display import count, number
from culvix.stats.quantiles import quantile
from culvix.stats.sample import Sample

__all__ = ["MethodSuggestion", "suggested_method"]

_SKEWED = (0.08, 3.0)
_HEAVY = (0.15, 5.0)
"""The least that counts as skewed or heavy in a long column, and by 1/√n what chance makes of a normal one."""
_NORMAL_MOORS = 1.233
_FEW = 8
_LONG = 10_000


@dataclass(frozen=True)
class MethodSuggestion:
    """A method of the table by its key, and the ``reason`` in words; no method where none can be applied."""

    key: str | None
    reason: str


def suggested_method(sample: Sample) -> MethodSuggestion:
    """The method to read first for ``sample``."""
    if sample.n < 3:
        return MethodSuggestion(None, f"{count(sample.n)} values: too few to say what is far from the others.")
    x = sample.sorted
    if x[0] == x[-1]:
        return MethodSuggestion(None, "All values are equal: nothing is far from anything.")
    if not sample.mad:
        return MethodSuggestion(
            "generalized_esd",
            "More than half of the values are equal, so that MAD and perhaps IQR are 0; a test by mean and SD is left.",
        )
    if sample.n < _FEW:
        return MethodSuggestion("dixon", f"n {count(sample.n)}: the gap at an end is all that can be judged.")
    eighths = [quantile(x, k / 8) for k in range(1, 8)]
    skew = _hinkley(eighths)
    if abs(skew) > _least(_SKEWED, sample.n):
        side = "right" if skew > 0 else "left"
        return MethodSuggestion(
            "adjusted_fences",
            f"Skewed to the {side} (outer eighths {number(abs(skew), 2)} out of balance): fences that stretch on the "
            "long side.",
        )
    heavy = _moors(eighths) - _NORMAL_MOORS
    if heavy > _least(_HEAVY, sample.n):
        return MethodSuggestion(
            "modified_z",
            f"Symmetric, tails heavier than a normal's (Moors {number(heavy, 2)} above): limits by median and MAD.",
        )
    if sample.n <= _LONG:
        return MethodSuggestion(
            "generalized_esd",
            "Symmetric and near to normal in the middle: a test that allows for several at once.",
        )
    return MethodSuggestion(
        "fdr",
        f"Near to normal and long (n {count(sample.n)}): however many are flagged, the share of wrong flags is held.",
    )


def _least(size: tuple[float, float], n: int) -> float:
    return max(size[0], size[1] / sqrt(n))


def _hinkley(eighths: list[float]) -> float:
    """How far the outer eighths are out of balance about the median, −1 to 1; 0 where they coincide."""
    low, middle, high = eighths[0], eighths[3], eighths[6]
    return (high - 2 * middle + low) / (high - low) if high > low else 0.0


def _moors(eighths: list[float]) -> float:
    """Moors' kurtosis; that of a normal where the quartiles coincide."""
    middle = eighths[5] - eighths[1]
    return (eighths[6] - eighths[4] + eighths[2] - eighths[0]) / middle if middle > 0 else _NORMAL_MOORS
