"""The descriptive numbers of one column, each with a reason where it cannot be given.

Sources: skewness and kurtosis, Joanes & Gill 1998; trimmed and winsorised means, Tukey 1962; the scaled
median absolute deviation, Hampel 1974. The field names are the keys of the profile document.
"""

from dataclasses import dataclass, field
from math import sqrt

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.moments import Moments, standard_error_kurtosis, standard_error_skewness
from culvix.stats.core.quantiles import PERCENTILES, QUANTILE_TYPES, quantile
from culvix.stats.core.sample import Sample
from culvix.stats.describe.intervals import Interval, bonett_interval, mean_interval, median_interval, sd_interval
from culvix.stats.describe.l_moments import l_moments
from culvix.stats.describe.positive_sums import positive_sums
from culvix.stats.describe.trimmed_mean import trimmed_mean

__all__ = ["MAD_TO_SD", "Description", "describe", "trimmed_means"]

MAD_TO_SD = 1.4826022185056018
"""1/Φ⁻¹(¾): makes the MAD estimate the SD of a normal sample."""

Number = float | int | None


@dataclass(frozen=True)
class Description:
    """Descriptive numbers of one column, in the column's own unit.

    A number that cannot be given is None, and ``notes`` says why under the same name. ``modes`` is empty
    where nothing repeats.
    """

    n: int
    missing: int
    non_finite: int
    distinct: int
    zeros: int
    negatives: int
    sum: Number = None
    mean: Number = None
    se_mean: Number = None
    median: Number = None
    modes: tuple[float | int, ...] = ()
    mode_count: int | None = None
    sd: Number = None
    variance: Number = None
    min: Number = None
    max: Number = None
    range: Number = None
    q1: Number = None
    q3: Number = None
    iqr: Number = None
    percentiles: dict[int, float] = field(default_factory=dict)
    mad: Number = None
    mad_scaled: Number = None
    trimmed_mean: Number = None
    winsorized_mean: Number = None
    geometric_mean: Number = None
    harmonic_mean: Number = None
    cv: Number = None
    skewness: Number = None
    excess_kurtosis: Number = None
    skewness_g1: Number = None
    excess_kurtosis_g2: Number = None
    se_skewness: Number = None
    se_kurtosis: Number = None
    l_scale: Number = None
    l_skewness: Number = None
    l_kurtosis: Number = None
    ci_mean: Interval | None = None
    ci_median: Interval | None = None
    ci_sd: Interval | None = None
    ci_sd_bonett: Interval | None = None
    notes: dict[str, str] = field(default_factory=dict)


class _Draft(dict[str, object]):
    """Fields under construction: a value that is None or not finite goes to the notes instead."""

    def __init__(self) -> None:
        super().__init__()
        self.notes: dict[str, str] = {}

    def put(self, name: str, value: object, why_not: str) -> None:
        if value is None or (isinstance(value, float) and not np.isfinite(value)):
            self.notes[name] = why_not
        else:
            self[name] = value


_TOO_LARGE = "The result is larger than a double-precision number can hold."


def describe(sample: Sample, *, quantile_type: int = 7, confidence: float = 0.95, trim: float = 0.1) -> Description:
    """The descriptive numbers of a column.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    quantile_type
        The definition of quantiles, 1 to 9 (Hyndman & Fan); 7 is the inclusive one.
    confidence
        How often, as a share, such an interval holds what it is for.
    trim
        The share taken from each end for the trimmed and winsorised means, from 0 to below 0.5.

    Returns
    -------
    Description
        All numbers, in the column's unit where they have one. One that cannot be given is None, and ``notes`` says why:
        no data raise an error.

    Raises
    ------
    StatisticsError
        For settings outside their range.

    References
    ----------
    Joanes, D. N. & Gill, C. A. 1998: Comparing measures of sample skewness and kurtosis. The Statistician 47, 183-189.
    """
    _check_settings(quantile_type, confidence, trim)
    draft = _Draft()
    centre = sample.moments
    if centre is not None:
        _centre_and_spread(draft, sample, centre)
        _quantiles(draft, sample, quantile_type)
        _robust(draft, sample, trim)
        _positive_only(draft, sample, centre)
        _shape(draft, centre)
        _l_moments(draft, sample, centre)
        _intervals(draft, sample, centre, confidence)
    else:
        _say_empty(draft, sample)
    return Description(
        n=sample.n,
        missing=sample.missing,
        non_finite=sample.non_finite,
        distinct=sample.distinct,
        zeros=sample.n - sample.below(0.0) - sample.above(0.0),
        negatives=sample.below(0.0),
        notes=draft.notes,
        **draft,  # type: ignore[arg-type]
    )


def _check_settings(quantile_type: int, confidence: float, trim: float) -> None:
    if quantile_type not in QUANTILE_TYPES:
        raise StatisticsError(f"There is no quantile type {quantile_type}; the types are 1 to 9.")
    if not 0 < confidence < 1:
        raise StatisticsError(f"A confidence level lies between 0 and 1, not at {confidence}.")
    if not 0 <= trim < 0.5:
        raise StatisticsError(f"The share trimmed from each end lies between 0 and 0.5, not at {trim}.")


def _say_empty(draft: _Draft, sample: Sample) -> None:
    why = "The column has no rows."
    if sample.values.size:
        why = "Every value is missing or not finite." if sample.non_finite else "Every value is missing."
    skipped = {"n", "missing", "non_finite", "distinct", "zeros", "negatives", "notes"}
    for name in Description.__dataclass_fields__:
        if name not in skipped:
            draft.notes[name] = why


def _centre_and_spread(draft: _Draft, sample: Sample, centre: Moments) -> None:
    one = "A spread needs at least two values; there is one."
    _extremes(draft, sample, centre)
    draft.put("mean", centre.mean, _TOO_LARGE)
    draft.put("sd", centre.sd, one if sample.n < 2 else _TOO_LARGE)
    draft.put("variance", _squared(centre.sd), one if sample.n < 2 else _TOO_LARGE)
    draft.put("se_mean", _ratio(centre.sd, sqrt(sample.n)), one if sample.n < 2 else _TOO_LARGE)
    if sample.distinct < sample.n:
        values, counts = sample.runs
        most = int(counts.max())
        draft["modes"] = tuple(values[counts == most].tolist())
        draft["mode_count"] = most
    else:
        draft.notes["modes"] = draft.notes["mode_count"] = "No value occurs more than once."


def _extremes(draft: _Draft, sample: Sample, centre: Moments) -> None:
    whole = sample.exact
    if whole is None:
        low, high = float(sample.sorted[0]), float(sample.sorted[-1])
        draft.put("sum", centre.sum, _TOO_LARGE)
        draft.update(min=low, max=high)
        draft.put("range", high - low, _TOO_LARGE)
        return
    first, last = int(whole[0]), int(whole[-1])
    draft.update(sum=sample.whole_sum, min=first, max=last, range=last - first)


def _squared(value: float | None) -> float | None:
    return None if value is None else value * value


def _ratio(value: float | None, by: float) -> float | None:
    return None if value is None else value / by


def _quantiles(draft: _Draft, sample: Sample, kind: int) -> None:
    x = sample.sorted
    q1, q3 = quantile(x, 0.25, kind), quantile(x, 0.75, kind)
    draft.update(median=sample.median, q1=q1, q3=q3)
    draft.put("iqr", q3 - q1, _TOO_LARGE)
    draft["percentiles"] = {p: quantile(x, p / 100, kind) for p in PERCENTILES}


def _robust(draft: _Draft, sample: Sample, trim: float) -> None:
    draft.put("mad", sample.mad, _TOO_LARGE)
    draft.put("mad_scaled", sample.mad * MAD_TO_SD, _TOO_LARGE)
    draft["trimmed_mean"], draft["winsorized_mean"] = trimmed_means(sample, trim)


def trimmed_means(sample: Sample, trim: float) -> tuple[float, float]:
    """Trimmed and winsorised mean of ``sample`` (n ≥ 1), with the share ``trim`` taken from each end."""
    x = sample.sorted
    cut = int(trim * sample.n)
    trimmed = trimmed_mean(sample, cut)
    # The values pulled in at each end stand where the outermost kept ones do.
    inner, outer = (sample.n - 2 * cut) / sample.n, cut / sample.n
    return trimmed, _clipped_to_range(inner * trimmed + outer * float(x[cut]) + outer * float(x[sample.n - 1 - cut]), x)


def _positive_only(draft: _Draft, sample: Sample, centre: Moments) -> None:
    x: Floats = sample.sorted
    if x[0] <= 0:
        count = sample.n - sample.above(0.0)
        why = f"Only for values above zero; {count} of {sample.n} are zero or negative."
        draft.notes["geometric_mean"] = draft.notes["harmonic_mean"] = why
    else:
        logarithms, reciprocals = positive_sums(x, sample.row_sums)
        draft["geometric_mean"] = _clipped_to_range(float(np.exp(logarithms / sample.n)), x)
        # Scaled by the smallest value, no reciprocal can pass 1.
        draft["harmonic_mean"] = _clipped_to_range(float(x[0]) / (reciprocals / sample.n), x)
    if x[0] < 0 or centre.mean <= 0:
        draft.notes["cv"] = "Only where zero means none: the values are negative, or all zero."
    elif centre.sd is None:
        draft.notes["cv"] = draft.notes["sd"]
    else:
        draft["cv"] = centre.sd / centre.mean


def _clipped_to_range(value: float, x: Floats) -> float:
    """A mean lies between the extremes; rounding may not push it out."""
    return min(max(value, float(x[0])), float(x[-1]))


def _shape(draft: _Draft, centre: Moments) -> None:
    n = centre.n
    same = "All values are equal, so there is no shape to measure."
    draft.put("skewness_g1", centre.g1, same)
    draft.put("excess_kurtosis_g2", centre.g2, same)
    draft.put("skewness", centre.skewness, same if centre.g1 is None else f"Needs n ≥ 3; n is {n}.")
    draft.put("excess_kurtosis", centre.excess_kurtosis, same if centre.g2 is None else f"Needs n ≥ 4; n is {n}.")
    draft.put("se_skewness", standard_error_skewness(n), f"Needs n ≥ 3; n is {n}.")
    draft.put("se_kurtosis", standard_error_kurtosis(n), f"Needs n ≥ 4; n is {n}.")


def _l_moments(draft: _Draft, sample: Sample, centre: Moments) -> None:
    n, found = sample.n, l_moments(sample.sorted, centre.mean, sample.row_sums)
    draft.put("l_scale", found and found.scale, _TOO_LARGE if n > 1 else f"Needs n ≥ 2; n is {n}.")
    same = "All values are equal, so there is no shape to measure."
    for name, value, least in (
        ("l_skewness", found and found.skewness, 3),
        ("l_kurtosis", found and found.kurtosis, 4),
    ):
        draft.put(name, value, f"Needs n ≥ {least}; n is {n}." if n < least else same)


def _intervals(draft: _Draft, sample: Sample, centre: Moments, confidence: float) -> None:
    n = sample.n
    why = f"An interval needs n ≥ 2; n is {n}." if n < 2 else _TOO_LARGE
    sd = centre.sd
    draft.put("ci_mean", None if sd is None else mean_interval(centre.mean, sd, n, confidence), why)
    draft.put("ci_sd", None if sd is None else sd_interval(sd, n, confidence), why)
    draft.put("ci_sd_bonett", bonett_interval(sample, confidence), "Needs n ≥ 5 and values that are not all equal.")
    draft.put(
        "ci_median",
        median_interval(sample, confidence),
        f"With n = {n} no pair of values brackets the median with {confidence:.0%} confidence.",
    )
