"""The verdict on normality: what the suggested test says, how large the departure is, and who causes it.

A p value alone is not a verdict: with many rows a harmless departure is significant, with few rows a large one is
not. The sentence therefore names the size of the departure (the correlation of the Q-Q points, skewness and
excess kurtosis), what n can show, and whether the flagged values alone make the difference.
"""

from dataclasses import dataclass

from culvix.errors import StatisticsError
from culvix.stats.display import count, number, p_value, plural, signed
from culvix.stats.moments import Moments
from culvix.stats.normality.result import NormalityResult
from culvix.stats.qq import QQ
from culvix.stats.sample import Sample

__all__ = ["SMALL_N", "STRAIGHT", "Verdict", "judge_normality"]

SMALL_N = 20
"""Below this a test rarely rejects anything but the grossest departure."""

STRAIGHT = 0.99
"""Q-Q correlation from which a departure is called slight."""


@dataclass(frozen=True)
class Verdict:
    """The judgement on one column.

    ``rejects`` is None where no test could be made. ``without_flags`` is the same test without the flagged values, None
    where nothing is flagged; ``flags_alone`` says that they alone make it reject.
    """

    method: str
    rejects: bool | None
    flags_alone: bool
    result: NormalityResult
    without_flags: NormalityResult | None
    qq_correlation: float | None
    skewness: float | None
    excess_kurtosis: float | None
    alpha: float
    sentence: str


def judge_normality(
    sample: Sample,
    result: NormalityResult,
    without_flags: NormalityResult | None,
    points: QQ | None,
    *,
    alpha: float = 0.05,
    flagged: int = 0,
    not_a_question: str | None = None,
) -> Verdict:
    """Put the suggested test's ``result`` into words for ``sample``. Raises StatisticsError for α outside 0 to 1.

    ``not_a_question`` is the sentence for a column of which normality is not asked; it then takes the verdict's place.
    """
    if not 0 < alpha < 1:
        raise StatisticsError(f"The level α lies between 0 and 1, not at {alpha}.")
    centre = sample.moments
    correlation = points.correlation if points else None
    skewness = centre.skewness if centre else None
    kurtosis = centre.excess_kurtosis if centre else None
    rejects = None if result.p is None or not_a_question else result.p < alpha
    without = None if without_flags is None or without_flags.p is None else without_flags
    alone = bool(rejects and without is not None and without.p is not None and without.p >= alpha)
    sentence = not_a_question or _sentence(
        result, without if alone else None, correlation, centre, rejects, alpha, flagged
    )
    return Verdict(
        result.method, rejects, alone, result, without_flags, correlation, skewness, kurtosis, alpha, sentence
    )


def _sentence(
    result: NormalityResult,
    without: NormalityResult | None,
    correlation: float | None,
    centre: Moments | None,
    rejects: bool | None,
    alpha: float,
    flagged: int,
) -> str:
    if rejects is None:
        return result.note or "Normality could not be tested."
    if not rejects:
        return _not_rejected(result, correlation, alpha)
    head = f"Not normal at α {alpha:g} (n {count(result.n)})"
    if without is not None:
        values = plural(flagged, "flagged value")
        return (
            f"{head}, but only through {values}: without {'it' if flagged == 1 else 'them'} "
            f"{without.symbol} {number(without.statistic, 4)}, {p_value(without.p)}."
        )
    return f"{head}: {_size(correlation, centre)}."


def _not_rejected(result: NormalityResult, correlation: float | None, alpha: float) -> str:
    head = f"No departure from normal shown at α {alpha:g} (n {count(result.n)}"
    shape = f", Q-Q correlation {number(correlation, 4)}" if correlation is not None else ""
    if result.n < SMALL_N:
        return f"{head}{shape}); so few values could hide a large one."
    return f"{head}{shape})."


def _size(correlation: float | None, centre: Moments | None) -> str:
    parts = []
    if correlation is not None:
        slight = correlation >= STRAIGHT
        parts.append(f"the departure is {'slight' if slight else 'marked'}, Q-Q correlation {number(correlation, 4)}")
    if centre is not None and centre.skewness is not None:
        parts.append(f"skewness {signed(centre.skewness)}")
    if centre is not None and centre.excess_kurtosis is not None:
        parts.append(f"excess kurtosis {signed(centre.excess_kurtosis)}")
    return ", ".join(parts)
