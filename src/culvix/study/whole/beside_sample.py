"""Figures of the whole beside those of the sample in hand, with the error that a sample of its size has."""

from collections.abc import Iterator
from dataclasses import dataclass
from math import sqrt

from culvix.stats.describe.description import Description
from culvix.stats.display import NumberStyle, count, per_cent, signed, significant
from culvix.study.whole.column_figures import Beyond, ColumnOfWhole, NumbersOfWhole

__all__ = ["BesideSample", "beside_sample"]

_BEYOND = {"iqr": "> 1.5 IQR", "z": "> 3 SD"}


@dataclass(frozen=True)
class BesideSample:
    """One figure of the ``whole`` and of the ``sample`` in words, and by how many standard errors this one is off.

    ``error`` is the standard error of the sample's figure in words, empty where there is none; ``detail`` says more.
    """

    name: str
    whole: str
    sample: str
    error: str = ""
    off: float | None = None
    detail: str = ""


def beside_sample(
    column: ColumnOfWhole, sample: Description, style: NumberStyle, flagged: dict[str, int] | None = None
) -> tuple[BesideSample, ...]:
    """The figures of ``column`` beside those of ``sample``, whose numbers have ``style``.

    ``flagged`` says how many values of the sample lie beyond the limits of the whole, by method.
    """
    numbers = column.numbers
    if numbers is None:
        return ()
    return tuple(_figures(column, numbers, sample, style, flagged or {}))


def _figures(
    column: ColumnOfWhole, numbers: NumbersOfWhole, sample: Description, style: NumberStyle, flagged: dict[str, int]
) -> Iterator[BesideSample]:
    n = sample.n
    yield BesideSample("n", count(column.n), count(n))
    yield BesideSample("missing", count(column.missing), "")
    moments = numbers.moments
    if moments is not None and moments.sd is not None and n > 1:
        error = moments.sd / sqrt(n)
        yield _one("mean", moments.mean, sample.mean, style, error)
        yield _one("SD", moments.sd, sample.sd, style, _error_of_sd(moments.sd, moments.g2, n))
    for percentile, name, value in ((50, "median", sample.median), (25, "Q1", sample.q1), (75, "Q3", sample.q3)):
        whole = numbers.quantiles.get(percentile)
        if whole is not None:
            yield _one(name, whole, value, style, None)
    if numbers.low is not None and numbers.high is not None:
        yield BesideSample("min", style.statistic(numbers.low), style.statistic(sample.min))
        yield BesideSample("max", style.statistic(numbers.high), style.statistic(sample.max))
    if moments is not None:
        # How far these vary from sample to sample hangs on moments that a survey does not have.
        yield BesideSample("skew G1", signed(moments.skewness), signed(sample.skewness))
        yield BesideSample("kurt G2", signed(moments.excess_kurtosis), signed(sample.excess_kurtosis))
    for each in numbers.beyond:
        yield _beyond(each, column.n, flagged.get(each.method), n)


def _one(name: str, whole: float, sample: float | int | None, style: NumberStyle, error: float | None) -> BesideSample:
    words = "" if error is None else f"± {significant(error, 2)}"
    off = None if error is None or not error or sample is None else (sample - whole) / error
    return BesideSample(name, style.statistic(whole), style.statistic(sample), words, off)


def _error_of_sd(sd: float, excess: float | None, n: int) -> float | None:
    """The standard error of a sample's SD, from the fourth moment of the whole."""
    if excess is None:
        return None
    return sd * sqrt(max(excess + 2 * n / (n - 1), 0.0) / (4 * n))


def _beyond(found: Beyond, n: int, flagged: int | None, drawn: int) -> BesideSample:
    share = found.count / n if n else 0.0
    detail = f"{count(found.below)} below and {count(found.above)} above in the whole"
    if flagged is None or not drawn:
        return BesideSample(_BEYOND[found.method], per_cent(share, 2), "", detail=detail)
    error = sqrt(share * (1 - share) / drawn)
    off = (flagged / drawn - share) / error if error else None
    detail += f", {count(flagged)} in the sample beyond the same limits"
    words = per_cent(flagged / drawn, 2)
    return BesideSample(
        _BEYOND[found.method], per_cent(share, 2), words, f"± {significant(100 * error, 2)}", off, detail
    )
