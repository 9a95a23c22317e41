"""Findings: sentences the program raises on one column for the analyst to settle, each with what could be done.

A finding asks, it never decides: "entered in another unit?" comes with the correction, the exclusion and the
keeping side by side. It is settled once every row behind it carries a decision.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from math import inf

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.quantiles import quantile
from culvix.stats.core.sample import Sample
from culvix.stats.display import NumberStyle, count, per_cent, plural
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.outliers.chance_messages import chance_at_most
from culvix.study.analysis.outliers.flags import Flags
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.document.choices.settings import Settings
from culvix.study.document.decisions import Cause, DecisionKind, factor_text
from culvix.study.document.row_sets import union
from culvix.tables.cells.cell_kinds import FoundKind
from culvix.tables.cells.cell_rules import RULES, rule_in_force
from culvix.tables.checks.column_checks import suspected_codes
from culvix.tables.model.dictionary import Bounds
from culvix.tables.model.options.column_questions import QUESTIONS_OF_COLUMNS, Answer
from culvix.tables.model.table import Column

__all__ = ["FINDING_NAMES", "Finding", "Proposal", "Question", "detect_findings", "finding_name", "resolve"]

FINDING_NAMES = {
    "out_of_range": "values outside the declared range",
    "suspected_code": "a code for missing",
    "other_unit": "another unit",
    "long_tail": "a long tail",
    "all_methods": "values all methods flag",
    "flagged": "values some methods flag",
    "codes_or_amounts": "codes or amounts",
    "cells": "cells that are no numbers",
    "unread_cells": "cells left out",
    "squeezed": "a picture squeezed by far values",
}
"""What a finding is about, by its kind; kinds that name methods are all of one."""


def finding_name(kind: str) -> str:
    """What a finding of ``kind`` is about."""
    return FINDING_NAMES["flagged" if kind.startswith("flagged_") else kind]


NO_ROWS: Ints = np.zeros(0, dtype=np.int64)
_FACTORS = (10.0, 100.0, 1000.0, 0.1, 0.01, 0.001)
_UNITS = (
    (2.54, "inches among centimetres"),
    (25.4, "inches among millimetres"),
    (0.45359237, "pounds among kilograms"),
    (0.3048, "feet among metres"),
    (1.609344, "miles among kilometres"),
    (28.349523125, "ounces among grams"),
)
_MIDDLE = (0.1, 0.9)
"""Between these quantiles lies the middle of a group."""

_LARGEST_GROUP = 0.015
"""More than this share of a column is not a handful of errors."""
_LEAST_GAP = 1.5
"""A value this many times its inner neighbour stands apart; the tail of a skewed column comes nearer step by step."""


@dataclass(frozen=True)
class Proposal:
    """A decision that would settle a finding."""

    label: str
    kind: DecisionKind
    cause: Cause
    reason: str
    factor: float | None = None
    shift: float = 0.0


@dataclass(frozen=True, eq=False)
class Question:
    """What is asked about ``rows`` (from 0), before anything is decided. ``grave``: probably wrong, not just rare."""

    kind: str
    sentence: str
    rows: Ints
    proposals: tuple[Proposal, ...]
    grave: bool
    rules: tuple[tuple[str, str, str], ...] = ()
    """Ways to settle cells that are no numbers: label, kind of cell, rule."""

    ruled: bool = False
    """Whether such cells have been settled by a rule."""

    answers: tuple[Answer, ...] = ()
    """Answers to what is asked about the role."""

    axis_scales: tuple[str, ...] = ()
    """Scales that the axis of the pictures could have instead."""


@dataclass(frozen=True, eq=False)
class Finding:
    """A question about ``column`` as it stands: ``settled`` once every row behind it carries a decision."""

    column: str
    question: Question
    resolved: bool

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
    sample: Sample
    flags: Flags
    style: NumberStyle
    bounds: Bounds
    settings: Settings

    def by_chance(self, keys: Sequence[str]) -> str:
        """What chance gives of values that just the methods ``keys`` flag, in brackets; empty where that takes long."""
        found = chance_at_most(self.flags, keys, self.settings, self.column.name)
        at_most = "" if len(self.flags.results) == 1 else "at most "
        return f" (chance gives {at_most}{found} in a normal column of {count(self.sample.n)} rows)" if found else ""

    def some(self, rows: Ints) -> str:
        """Up to three of the values, in order."""
        values = np.sort(self.sample.values[rows])
        shown = [self.style.value(float(value)) for value in values[:3]]
        return ", ".join(shown) + (" …" if values.size > 3 else "")


def detect_findings(
    column: Column,
    flag_basis: Sample,
    flags: Flags,
    style: NumberStyle,
    settings: Settings,
    bounds: Bounds = (None, None),
) -> tuple[Question, ...]:
    """All questions about a column, the grave ones first; each row is asked about once.

    ``flags`` are of ``flag_basis``, by the methods and limits of ``settings``; ``bounds`` are declared for the column.
    """
    asked_first = _about_role(column)
    case = _Case(column, flag_basis, flags, style, bounds, settings)
    if not column.is_data:
        # What there is to ask was asked about the column it follows.
        return tuple(_out_of_range(case, NO_ROWS))
    asked = np.zeros(0, dtype=np.int64)
    questions: list[Question] = []
    for raise_ in (_out_of_range, _codes, _other_unit, _temperatures, _all_methods, _some_methods):
        for question in raise_(case, asked):
            questions.append(question)
            asked = union(asked, question.rows)
    return (*asked_first, *questions, *_unread(column))


def _about_role(column: Column) -> tuple[Question, ...]:
    """What is asked about a role that rests on a guess."""
    asked = QUESTIONS_OF_COLUMNS.get(column.asks)
    if asked is None:
        return ()
    sentence = f"{column.reason.capitalize()}. {asked.sentence}"
    return (Question(column.asks, sentence, np.flatnonzero(column.present), (), False, answers=asked.answers),)


def resolve(column: str, questions: Iterable[Question], working: WorkingSet) -> list[Finding]:
    """The findings on ``column`` as things stand."""
    decided = working.decided(column)
    return [
        Finding(column, q, q.ruled or (bool(q.proposals) and bool(np.isin(q.rows, decided, assume_unique=True).all())))
        for q in questions
    ]


def _keep(reason: str = "kept as genuine") -> Proposal:
    return Proposal("Keep", DecisionKind.KEEP, Cause.GENUINE, reason)


def _exclude(cause: Cause, reason: str) -> Proposal:
    return Proposal("Exclude", DecisionKind.EXCLUDE_VALUE, cause, reason)


def _out_of_range(case: _Case, asked: Ints) -> Iterator[Question]:
    """Values that the analyst declared to be impossible."""
    found = case.flags.results.get("valid_range")
    if found is None or not found.rows.size:
        return
    rows = np.sort(found.rows)
    low, high = case.bounds
    ends = f"below {case.style.value(low)}" if low is not None else ""
    ends += " or " if low is not None and high is not None else ""
    ends += f"above {case.style.value(high)}" if high is not None else ""
    lie = "lies" if rows.size == 1 else "lie"
    sentence = f"{plural(rows.size, 'value')} ({case.some(rows)}) {lie} {ends}, outside the declared range."
    drop = Proposal("Treat as missing", DecisionKind.MISSING, Cause.ENTRY, "outside the declared range")
    proposals = (_exclude(Cause.ENTRY, "outside the declared range"), drop, _keep("kept, though outside the range"))
    yield Question("out_of_range", sentence, rows, proposals, True)


def _codes(case: _Case, asked: Ints) -> Iterator[Question]:
    """Values that probably stand for missing ones."""
    if case.flags.able == 0:
        return
    for code in suspected_codes(case.sample):
        shown = case.style.value(code.value)
        sentence = f"{plural(code.count, 'row')} hold exactly {shown}: {code.reason}. A code for missing?"
        drop = Proposal(
            "Exclude values", DecisionKind.EXCLUDE_VALUE, Cause.MEASUREMENT, f"{shown} is a code for missing"
        )
        yield Question("suspected_code", sentence, code.rows, (drop, _keep()), True)


def _other_unit(case: _Case, asked: Ints) -> Iterator[Question]:
    """Flagged values that a power of ten would bring among the others."""
    sample = case.sample
    rows = np.setdiff1d(case.flags.most, asked, assume_unique=True)
    if not rows.size or rows.size > max(3, _LARGEST_GROUP * sample.n):
        return
    rest = sample.without(case.flags.most).sorted
    if rest.size < 10 or rest[0] <= 0:
        return
    ends, middle = (quantile(rest, 0.005), quantile(rest, 0.995)), tuple(quantile(rest, p) for p in _MIDDLE)
    below, above = _gap_bounds(sample.sorted, float(rest[0]), float(rest[-1]))
    of_units = [(factor, message) for factor, message in _UNITS]
    of_units += [(1 / factor, " among ".join(reversed(message.split(" among ")))) for factor, message in _UNITS]
    # A slipped point may bring a value anywhere among the others; another factor is asked about where it fits well.
    for factor, (low, high), message in (*((f, ends, "") for f in _FACTORS), *((f, middle, w) for f, w in of_units)):
        values = sample.values[rows]
        outside = values <= below if factor > 1 else values >= above
        fits = rows[outside & (low / factor <= values) & (values <= high / factor)]
        if not fits.size:
            continue
        rows = np.setdiff1d(rows, fits, assume_unique=True)
        yield _unit_question(case, fits, factor, message)


def _temperatures(case: _Case, asked: Ints) -> Iterator[Question]:
    """Flagged values that would be in the middle of the others were they in °F among °C, or the other way round."""
    sample, unit = case.sample, case.column.unit or ""
    named = unit in ("°C", "°F", "C", "F") or "temp" in case.column.name.lower()
    rows = np.setdiff1d(case.flags.most, asked, assume_unique=True)
    if not named or not rows.size or rows.size > max(3, _LARGEST_GROUP * sample.n):
        return
    rest = sample.without(case.flags.most).sorted
    if rest.size < 10:
        return
    low, high = (quantile(rest, p) for p in _MIDDLE)
    for factor, shift, message in ((5 / 9, -160 / 9, "°F among °C"), (1.8, 32.0, "°C among °F")):
        values = sample.values[rows]
        corrected = values * factor + shift
        outside = (values > rest[-1]) | (values < rest[0])
        fits = rows[outside & (low <= corrected) & (corrected <= high)]
        if fits.size:
            rows = np.setdiff1d(rows, fits, assume_unique=True)
            yield _unit_question(case, fits, factor, message, shift)


def _gap_bounds(x: Floats, first: float, last: float) -> tuple[float, float]:
    """Up to and from which value the ascending ``x`` stands apart from what lies between ``first`` and ``last``."""
    lower = x[: int(np.searchsorted(x, first)) + 1]
    upper = x[int(np.searchsorted(x, last)) :]
    gaps = np.flatnonzero(lower[1:] >= _LEAST_GAP * np.maximum(lower[:-1], 0.0))
    steps = np.flatnonzero(upper[1:] >= _LEAST_GAP * upper[:-1])
    return float(lower[gaps[-1]]) if gaps.size else -inf, float(upper[steps[0] + 1]) if steps.size else inf


def _unit_question(case: _Case, rows: Ints, factor: float, message: str = "", shift: float = 0.0) -> Question:
    if message:
        sentence = f"{plural(rows.size, 'value')} ({case.some(rows)}) would be ordinary as {message}: another unit?"
        convert = Proposal(
            factor_text(factor, shift), DecisionKind.CORRECT, Cause.ENTRY, f"entered as {message}", factor, shift
        )
        proposals = (convert, _exclude(Cause.ENTRY, "entered wrongly"), _keep())
        return Question("other_unit", sentence, rows, proposals, True)
    size = count(round(max(factor, 1 / factor)))
    side, way = ("below", "small") if factor > 1 else ("above", "large")
    verb = "sits" if rows.size == 1 else "sit"
    sentence = (
        f"{plural(rows.size, 'value')} ({case.some(rows)}) {verb} {size} times {side} the rest: "
        "another unit, or a slipped decimal point?"
    )
    reason = f"entered {size} times too {way}"
    correct = Proposal(factor_text(factor), DecisionKind.CORRECT, Cause.ENTRY, reason, factor)
    return Question("other_unit", sentence, rows, (correct, _exclude(Cause.ENTRY, "entered wrongly"), _keep()), True)


def _all_methods(case: _Case, asked: Ints) -> Iterator[Question]:
    able = case.flags.able
    rows = np.setdiff1d(case.flags.all_agree, asked, assume_unique=True)
    if not rows.size or able < 2:
        return
    exclude, head = _exclude(Cause.UNKNOWN, "flagged by all methods"), f"{plural(rows.size, 'value')} flagged by all"
    by_chance = case.by_chance(case.flags.voting)
    if rows.size > max(3, _LARGEST_GROUP * case.sample.n):
        share = per_cent(rows.size / case.sample.n)
        sentence = f"{head} {count(able)} methods, {share} of the column{by_chance}: a long tail rather than errors?"
        yield Question("long_tail", sentence, rows, (_keep("the tail of a skewed column"), exclude), False)
    else:
        sentence = f"{head} {count(able)} methods{by_chance}: error or genuine?"
        yield Question("all_methods", sentence, rows, (exclude, _keep()), True)


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
        those = [key for position, key in enumerate(keys) if code >> position & 1]
        names = [OUTLIER_METHODS[key].short for key in those]
        only = " and ".join(names)
        proposals = _keep(), _exclude(Cause.UNKNOWN, f"beyond {only}")
        sentence = f"{plural(rows.size, 'value')} flagged by {only} only{case.by_chance(those)}."
        yield Question(f"flagged_{'_'.join(names)}", sentence, rows, proposals, False)


_RULE_LABELS = {
    "number": "Read as number",
    "missing": "Missing",
    "limit": "Take the limit",
    "half": "Half the limit",
    "unread": "Leave unread",
    "convert": "Convert to one unit",
}


def _unread(column: Column) -> tuple[Question, ...]:
    """A question for each kind of cell that is no plain number, settled or not."""
    questions = [_kind_question(column, found) for found in column.kinds.values()]
    explained = np.concatenate([found.rows for found in column.kinds.values()]) if column.kinds else NO_ROWS
    left = np.setdiff1d(column.unread_rows, explained, assume_unique=True)
    if left.size:
        questions.append(Question("unread_cells", _left_out(column, left), left, (), False))
    return tuple(questions)


def _kind_question(column: Column, found: FoundKind) -> Question:
    rule = column.rules.get(found.kind.key, "") or rule_in_force(found.kind.key, {})
    chosen = found.kind.key in column.rules
    shown = ", ".join(f"“{text[:20]}”" for text in found.examples[:3])
    cells = f"{plural(found.count, 'cell')}: {found.kind.name} ({shown})"
    labels = tuple((_RULE_LABELS[each], found.kind.key, each) for each in found.kind.rules if each != rule)
    if rule and rule != "unread":
        return Question("cells", f"{cells}; settled: {RULES[rule]}.", found.rows, (), False, labels, ruled=True)
    resolved = chosen and rule == "unread"
    sentence = f"{cells}; not read, so left out of every figure here."
    return Question("cells", sentence, found.rows, (), False, labels, ruled=resolved)


def _left_out(column: Column, rows: Ints) -> str:
    examples = sorted({column.cell(row) for row in rows[:200].tolist()})[:3]
    shown = ", ".join(f"“{text[:20]}”" for text in examples)
    what = "a number" if rows.size == 1 else "numbers"
    return f"{plural(int(rows.size), 'cell')} not read as {what} ({shown}); left out of every figure here."
