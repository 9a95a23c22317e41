"""Findings: sentences the program raises on one column for the analyst to settle, each with what could be done.

A finding asks, it never decides: "entered in another unit?" comes with the correction, the exclusion and the
keeping side by side. It is settled once every row behind it carries a decision.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np

from culvix.stats.arrays import Ints
from culvix.stats.display import NumberStyle, count, per_cent, plural
from culvix.stats.methods import OUTLIER_METHODS
from culvix.stats.quantiles import quantile
from culvix.stats.sample import Sample
from culvix.study.decisions import Cause, DecisionKind, factor_words
from culvix.study.flags import Flags
from culvix.study.working import WorkingSet
from culvix.tables.table import Column

__all__ = ["Finding", "Proposal", "Question", "ask", "settle"]

_FACTORS = (10.0, 100.0, 1000.0, 0.1, 0.01, 0.001)
_LARGEST_GROUP = 0.015
"""More than this share of a column is not a handful of errors."""


@dataclass(frozen=True)
class Proposal:
    """A decision that would settle a finding."""

    label: str
    kind: DecisionKind
    cause: Cause
    reason: str
    factor: float | None = None


@dataclass(frozen=True, eq=False)
class Question:
    """What is asked about ``rows`` (from 0), before anything is decided. ``grave``: probably wrong, not just rare."""

    kind: str
    sentence: str
    rows: Ints
    proposals: tuple[Proposal, ...]
    grave: bool


@dataclass(frozen=True, eq=False)
class Finding:
    """A question about ``column`` as it stands: ``settled`` once every row behind it carries a decision."""

    column: str
    question: Question
    settled: bool

    @property
    def kind(self) -> str:
        return self.question.kind

    @property
    def sentence(self) -> str:
        return self.question.sentence

    @property
    def rows(self) -> Ints:
        return self.question.rows

    @property
    def proposals(self) -> tuple[Proposal, ...]:
        return self.question.proposals

    @property
    def grave(self) -> bool:
        return self.question.grave


@dataclass(frozen=True, eq=False)
class _Case:
    """A column and its flags, as the questions see them."""

    column: Column
    flags: Flags
    style: NumberStyle

    @property
    def sample(self) -> Sample:
        return self.column.sample

    def some(self, rows: Ints) -> str:
        """Up to three of the values, in order."""
        values = np.sort(self.sample.values[rows])
        shown = [self.style.value(float(value)) for value in values[:3]]
        return ", ".join(shown) + (" …" if values.size > 3 else "")


def ask(column: Column, flags: Flags, style: NumberStyle) -> tuple[Question, ...]:
    """All questions about one column, the grave ones first; each row is asked about once."""
    case = _Case(column, flags, style)
    asked = np.zeros(0, dtype=np.int64)
    questions: list[Question] = []
    for raise_ in (_codes, _other_unit, _all_methods, _some_methods):
        for question in raise_(case, asked):
            questions.append(question)
            asked = np.union1d(asked, question.rows)
    return (*questions, *_unread(column))


def settle(column: str, questions: Iterable[Question], working: WorkingSet) -> list[Finding]:
    """The findings on ``column`` as things stand."""
    decided = working.decided(column)
    return [
        Finding(column, q, bool(q.proposals) and bool(np.isin(q.rows, decided, assume_unique=True).all()))
        for q in questions
    ]


def _keep(reason: str = "kept as genuine") -> Proposal:
    return Proposal("Keep", DecisionKind.KEEP, Cause.GENUINE, reason)


def _exclude(cause: Cause, reason: str) -> Proposal:
    return Proposal("Exclude", DecisionKind.EXCLUDE_VALUE, cause, reason)


def _codes(case: _Case, asked: Ints) -> Iterator[Question]:
    """One value repeated far outside all others: probably a code, not a measurement."""
    sample = case.sample
    values, counts = sample.runs
    if values.size < 5 or case.flags.able == 0:
        return
    q1, q3 = quantile(sample.sorted, 0.25), quantile(sample.sorted, 0.75)
    for place, beside in ((0, 1), (-1, -2)):
        value, times = float(values[place]), int(counts[place])
        gap = abs(value - float(values[beside]))
        if times < 3 or q3 <= q1 or gap < 2 * (q3 - q1) or value != np.floor(value):
            continue
        rows = np.sort(sample.rows[:times] if place == 0 else sample.rows[-times:])
        shown = case.style.value(value)
        sentence = (
            f"{plural(times, 'row')} hold exactly {shown}, far outside all other values: a code for missing, "
            f"not a measurement?"
        )
        drop = Proposal(
            "Exclude values", DecisionKind.EXCLUDE_VALUE, Cause.MEASUREMENT, f"{shown} is a code for missing"
        )
        yield Question("suspected_code", sentence, rows, (drop, _keep()), True)


def _other_unit(case: _Case, asked: Ints) -> Iterator[Question]:
    """Flagged values that a power of ten would bring among the others."""
    sample = case.sample
    rows = np.setdiff1d(case.flags.most, asked, assume_unique=True)
    if not rows.size or rows.size > max(3, _LARGEST_GROUP * sample.n):
        return
    rest = sample.without(case.flags.most).sorted
    if rest.size < 10 or rest[0] <= 0:
        return
    low, high = quantile(rest, 0.005), quantile(rest, 0.995)
    for factor in _FACTORS:
        values = sample.values[rows]
        outside = values < rest[0] if factor > 1 else values > rest[-1]
        fits = rows[outside & (low / factor <= values) & (values <= high / factor)]
        if not fits.size:
            continue
        rows = np.setdiff1d(rows, fits, assume_unique=True)
        yield _unit_question(case, fits, factor)


def _unit_question(case: _Case, rows: Ints, factor: float) -> Question:
    size = count(round(max(factor, 1 / factor)))
    side, way = ("below", "small") if factor > 1 else ("above", "large")
    verb = "sits" if rows.size == 1 else "sit"
    sentence = (
        f"{plural(rows.size, 'value')} ({case.some(rows)}) {verb} {size} times {side} the rest: "
        "another unit, or a slipped decimal point?"
    )
    reason = f"entered {size} times too {way}"
    correct = Proposal(factor_words(factor), DecisionKind.CORRECT, Cause.ENTRY, reason, factor)
    return Question("other_unit", sentence, rows, (correct, _exclude(Cause.ENTRY, "entered wrongly"), _keep()), True)


def _all_methods(case: _Case, asked: Ints) -> Iterator[Question]:
    able = case.flags.able
    rows = np.setdiff1d(case.flags.all_agree, asked, assume_unique=True)
    if not rows.size or able < 2:
        return
    exclude, head = _exclude(Cause.UNKNOWN, "flagged by all methods"), f"{plural(rows.size, 'value')} flagged by all"
    if rows.size > max(3, _LARGEST_GROUP * case.sample.n):
        share = per_cent(rows.size / case.sample.n)
        sentence = f"{head} {count(able)} methods, {share} of the column: a long tail rather than errors?"
        yield Question("long_tail", sentence, rows, (_keep("the tail of a skewed column"), exclude), False)
    else:
        yield Question(
            "all_methods", f"{head} {count(able)} methods: error or genuine?", rows, (exclude, _keep()), True
        )


def _some_methods(case: _Case, asked: Ints) -> Iterator[Question]:
    """What is left, by the exact set of methods that flag it."""
    flags, keys = case.flags, list(case.flags.results)
    left = ~np.isin(flags.rows, asked, assume_unique=True)
    if not left.any():
        return
    # One number for each set of methods, so that equal sets are found without comparing row by row.
    pattern = flags.by @ (1 << np.arange(len(keys)))
    for code in np.unique(pattern[left]).tolist():
        rows = flags.rows[left & (pattern == code)]
        names = [OUTLIER_METHODS[key].short for place, key in enumerate(keys) if code >> place & 1]
        only = " and ".join(names)
        proposals = _keep(), _exclude(Cause.UNKNOWN, f"beyond {only}")
        sentence = f"{plural(rows.size, 'value')} flagged by {only} only."
        yield Question(f"flagged_{'_'.join(names)}", sentence, rows, proposals, False)


def _unread(column: Column) -> tuple[Question, ...]:
    if not column.unread:
        return ()
    examples = sorted({column.cell(row) for row in column.unread_rows[:200].tolist()})[:3]
    shown = ", ".join(f"“{text[:20]}”" for text in examples)
    sentence = (
        f"{plural(column.unread, 'cell')} not read as {'a number' if column.unread == 1 else 'numbers'} "
        f"({shown}); left out of every figure here."
    )
    return (Question("unread_cells", sentence, column.unread_rows, (), False),)
