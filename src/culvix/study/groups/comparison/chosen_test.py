"""Which test fits the groups to be compared, step by step, each with its numbers; and what may be chosen otherwise.

Means are compared by Welch's kinds of test whatever the spreads are: they cost little where these are equal, and a
choice between tests after a look at the spreads would itself be wrong more often than it says (Zimmerman 2004). Only
many small groups, for which Welch's p is too small, are compared by the plain analysis of variance where no difference
of spreads shows.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.display import count, number, p_value, plural
from culvix.stats.groups.spreads import brown_forsythe
from culvix.stats.normality.shapiro_wilk import shapiro_wilk
from culvix.stats.registry import GROUP_TESTS
from culvix.stats.resampling.multiple_testing import holm

__all__ = ["STEPS", "ChosenTest", "PathStep", "choose_test"]

STEPS = {
    "sizes": "How many groups, and how large?",
    "shapes": "Are means fair to their shapes?",
    "spreads": "Are they equally wide?",
}
"""The questions on the way to a test, by key."""

_MEANS_BY_SIZE = 30
"""From so many values on a mean is all but normal, unless they are far from symmetric."""
_FAR_FROM_SYMMETRIC = 1.0
_TOO_FEW_TO_TELL = 8
_ORDERED = "ordered codes are ranks, no amounts"
_SMALL_GROUP = 10


@dataclass(frozen=True)
class PathStep:
    """The ``answer`` to one of `STEPS`: yes or no where it is one, ``words`` with the numbers it rests on.

    ``chosen`` where the analyst answered it otherwise, or said so himself.
    """

    key: str
    words: str
    answer: bool = True
    chosen: bool = False

    @property
    def question(self) -> str:
        return STEPS[self.key]


@dataclass(frozen=True)
class ChosenTest:
    """The key of the test in `GROUP_TESTS`, the ``steps`` that led to it, and the ``reason`` in a sentence."""

    key: str
    steps: tuple[PathStep, ...]
    reason: str


def choose_test(
    groups: Sequence[Sample],
    *,
    alpha: float = 0.05,
    paired: bool = False,
    ordered: bool = False,
    answers: Mapping[str, bool] | None = None,
) -> ChosenTest:
    """The test that fits ``groups``, in one unit; of ``paired`` columns the one group is that of their differences.

    Values that are ``ordered`` codes are ranks, of which means are not fair. ``answers`` to `STEPS` by key stand in
    place of those found. Raises StatisticsError for fewer than two groups with values, or answers to other questions.
    """
    answers = answers or {}
    if not set(answers) <= set(STEPS) - {"sizes"}:
        raise StatisticsError("Only the questions of shapes and spreads can be answered otherwise.")
    used = [group for group in groups if group.n]
    if len(used) < (1 if paired else 2):
        raise StatisticsError("Needs values in at least two groups." if not paired else "There are no pairs.")
    shapes = PathStep("shapes", _ORDERED, answer=False) if ordered else _shapes(used, alpha)
    steps = [_sizes(used, paired=paired), _answered(shapes, answers)]
    if not paired:
        steps.append(_answered(_spreads(used, alpha), answers))
    key = _fitting(used, steps, paired=paired)
    return ChosenTest(key, tuple(steps), _reason(key, steps))


def _answered(step: PathStep, answers: Mapping[str, bool]) -> PathStep:
    if step.key not in answers:
        return step
    return PathStep(step.key, step.words, answers[step.key], chosen=True)


def _fitting(groups: Sequence[Sample], steps: Sequence[PathStep], *, paired: bool) -> str:
    answers = {step.key: step.answer for step in steps}
    if paired:
        return "paired_t" if answers["shapes"] else "signed_rank"
    two = len(groups) == 2
    if not answers["shapes"]:
        return "mann_whitney" if two else "kruskal_wallis"
    if two:
        return "welch_t"
    small = min(group.n for group in groups) < _SMALL_GROUP
    return "one_way" if small and answers["spreads"] else "welch_one_way"


def _sizes(groups: Sequence[Sample], *, paired: bool) -> PathStep:
    sizes = [group.n for group in groups]
    if paired:
        return PathStep("sizes", plural(sizes[0], "pair"))
    ends = count(sizes[0]) if min(sizes) == max(sizes) else f"{count(min(sizes))} to {count(max(sizes))}"
    return PathStep("sizes", f"{len(sizes)} groups of {ends} values")


def _shapes(groups: Sequence[Sample], alpha: float) -> PathStep:
    """Whether means are compared fairly: values pass as normal, or are many and not far from symmetric."""
    small = [group for group in groups if group.n < _MEANS_BY_SIZE]
    skewed = [group for group in groups if group.n >= _MEANS_BY_SIZE and _skewness(group) > _FAR_FROM_SYMMETRIC]
    tested = [found.p for found in map(shapiro_wilk, small) if found.p is not None]
    least = float(holm(np.array(tested)).min()) if tested else None
    words = []
    if least is not None:
        words.append(f"normal by Shapiro–Wilk: {p_value(least)} of the groups below {_MEANS_BY_SIZE}, for all of them")
    if len(small) < len(groups):
        worst = max(_skewness(group) for group in groups if group.n >= _MEANS_BY_SIZE)
        words.append(f"skewness of larger groups up to {worst:.2f}, fair up to {_FAR_FROM_SYMMETRIC:g}")
    if any(group.n < _TOO_FEW_TO_TELL for group in groups):
        words.append(f"fewer than {_TOO_FEW_TO_TELL} values hardly show their shape")
    return PathStep("shapes", "; ".join(words), not skewed and (least is None or least >= alpha))


def _skewness(group: Sample) -> float:
    found = group.moments.skewness if group.moments else None
    return abs(found) if found is not None else 0.0


def _spreads(groups: Sequence[Sample], alpha: float) -> PathStep:
    found = brown_forsythe(groups)
    spreads = [group.moments.sd for group in groups if group.moments and group.moments.sd]
    ratio = f"largest SD {number(max(spreads) / min(spreads), 2)} times the smallest" if spreads else "no spread"
    if found.p is None:
        return PathStep("spreads", f"{ratio}; {found.note or ''}".rstrip("; "))
    return PathStep("spreads", f"{ratio}; Brown–Forsythe {p_value(found.p)}", found.p >= alpha)


def _reason(key: str, steps: Sequence[PathStep]) -> str:
    """Why the test is the one, in a sentence."""
    answers = {step.key: step.answer for step in steps}
    name = GROUP_TESTS[key].name
    if GROUP_TESTS[key].compares == "ranks":
        return f"{name}: means would not be fair to the shapes of the groups, and ranks need none."
    if key == "one_way":
        return f"{name}: means are fair to the shapes, no difference of spreads shows, and groups are small."
    if key == "paired_t":
        return f"{name}: the mean of the differences is fair to their shape."
    spreads = "whether the groups are equally wide or not" if answers.get("spreads") else "and the spreads may differ"
    return f"{name}: means are fair to the shapes of the groups, {spreads}."
