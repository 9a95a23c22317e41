"""The verdict on normality: what the suggested test says, how large the departure is, and who causes it.

A p value alone is not a verdict: with many rows a harmless departure is significant, with few rows a large one is
not. The sentence therefore names the size of the departure beside what chance gives at this n, what n can show, and
whether a departure is left without the flagged values, together with what that does not show.
"""

from dataclasses import dataclass

from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.display import count, number
from culvix.stats.normality.departure import Departure, departure_of
from culvix.stats.normality.result import NormalityResult
from culvix.stats.shape.qq import QQ

__all__ = ["SMALL_N", "Verdict", "judge_normality"]

SMALL_N = 20
"""Below this a test rarely rejects anything but the grossest departure."""


@dataclass(frozen=True)
class Verdict:
    """The judgement on one column.

    ``rejects`` is None where no test could be made. ``without_flags`` is the same test without the flagged values, None
    where nothing is flagged; ``flags_alone`` says that it then no longer rejects.
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
    """Put the outcome of a test of normality into words, with the size of the departure and what n can show.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    result
        The outcome of the test.
    without_flags
        The outcome without the flagged values, where there are some.
    points
        The Q-Q points, for their correlation.
    alpha
        The level of the test, between 0 and 1.
    flagged
        How many values are flagged.
    not_a_question
        The sentence for a column of which normality is not asked; it then takes the verdict's place.

    Returns
    -------
    Verdict
        Whether the test rejects, and the sentence.

    Raises
    ------
    StatisticsError
        For an α that does not lie between 0 and 1.

    References
    ----------
    Royston, P. 1993: A toolkit for testing for non-normality in complete and censored samples. The Statistician 42,
    37-43.
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
    if not_a_question:
        sentence = not_a_question
    elif rejects is None:
        sentence = result.note or "Normality could not be tested."
    elif rejects:
        sentence = _rejected(result, departure_of(sample, points), alpha, flagged if alone else 0)
    else:
        sentence = _not_rejected(result, correlation, alpha)
    return Verdict(
        result.method, rejects, alone, result, without_flags, correlation, skewness, kurtosis, alpha, sentence
    )


def _rejected(result: NormalityResult, departure: Departure | None, alpha: float, flagged: int) -> str:
    """The sentence of a column that is not normal, by ``flagged`` values alone where there are any."""
    sentences = [f"Not normal at α {alpha:g} (n {count(result.n)})."]
    if flagged:
        without = "its flagged value" if flagged == 1 else f"its {count(flagged)} flagged values"
        errors = "it is an error" if flagged == 1 else "they are errors"
        sentences.append(f"Without {without} no departure is shown; a long-tailed column does that too,")
        sentences.append(f"so it does not show that {errors}.")
    elif departure is not None:
        sentences.append(f"{departure.text}.")
    if departure is not None and departure.step is not None:
        sentences.append(f"Values stand in steps of {number(departure.step, 2)} SDs, which the test sees as well.")
    return " ".join(sentences)


def _not_rejected(result: NormalityResult, correlation: float | None, alpha: float) -> str:
    head = f"No departure from normal shown at α {alpha:g} (n {count(result.n)}"
    shape = f", Q-Q correlation {number(correlation, 4)}" if correlation is not None else ""
    if result.n < SMALL_N:
        return f"{head}{shape}); so few values could hide a large one."
    return f"{head}{shape})."
