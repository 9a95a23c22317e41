"""Findings: sentences the program raises on one column for the analyst to settle, each with what could be done.

A finding asks, it never decides: "entered in another unit?" comes with the correction, the exclusion and the
keeping side by side. It is settled once every row behind it carries a decision.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from culvix.stats.arrays import Ints
from culvix.stats.display import count, per_cent, plural
from culvix.stats.methods import OUTLIER_METHODS
from culvix.stats.quantiles import quantile
from culvix.study.analysis import ColumnAnalysis
from culvix.study.decisions import Cause, DecisionKind, factor_words
from culvix.study.working import WorkingSet

__all__ = ["Finding", "Proposal", "column_findings"]

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
class Finding:
    """A question about ``rows`` (from 0) of ``column``. ``grave``: the values are probably wrong, not just rare."""

    kind: str
    column: str
    sentence: str
    rows: Ints
    proposals: tuple[Proposal, ...]
    grave: bool
    settled: bool


def column_findings(analysis: ColumnAnalysis, working: WorkingSet) -> list[Finding]:
    """All findings on one column, the grave ones first; each row is asked about once."""
    asked: set[int] = set()
    findings = []
    for raise_ in (_codes, _other_unit, _all_methods, _some_methods):
        for kind, sentence, rows, proposals, grave in raise_(analysis, asked):
            asked.update(rows.tolist())
            settled = all(working.decision_on(analysis.column.name, row) for row in rows.tolist())
            findings.append(Finding(kind, analysis.column.name, sentence, rows, proposals, grave, settled))
    findings += _unread(analysis)
    return findings


_Raised = Iterator[tuple[str, str, Ints, tuple[Proposal, ...], bool]]


def _keep(reason: str = "kept as genuine") -> Proposal:
    return Proposal("Keep", DecisionKind.KEEP, Cause.GENUINE, reason)


def _exclude(cause: Cause, reason: str) -> Proposal:
    return Proposal("Exclude", DecisionKind.EXCLUDE_VALUE, cause, reason)


def _codes(analysis: ColumnAnalysis, asked: set[int]) -> _Raised:
    """One value repeated far outside all others: probably a code, not a measurement."""
    sample, flags = analysis.column.sample, analysis.flags
    values, counts = sample.runs
    if values.size < 5 or flags.able == 0:
        return
    q1, q3 = quantile(sample.sorted, 0.25), quantile(sample.sorted, 0.75)
    for place, beside in ((0, 1), (-1, -2)):
        value, times = float(values[place]), int(counts[place])
        gap = abs(value - float(values[beside]))
        if times < 3 or q3 <= q1 or gap < 2 * (q3 - q1) or value != np.floor(value):
            continue
        rows = np.sort(sample.rows[sample.sorted == value])
        shown = analysis.style.value(value)
        sentence = (
            f"{plural(times, 'row')} hold exactly {shown}, far outside all other values: a code for missing, "
            f"not a measurement?"
        )
        drop = Proposal(
            "Exclude values", DecisionKind.EXCLUDE_VALUE, Cause.MEASUREMENT, f"{shown} is a code for missing"
        )
        yield "suspected_code", sentence, rows, (drop, _keep()), True


def _other_unit(analysis: ColumnAnalysis, asked: set[int]) -> _Raised:
    """Flagged values that a power of ten would bring among the others."""
    sample, flags = analysis.column.sample, analysis.flags
    rows = np.array([row for row in flags.all_agree.tolist() if row not in asked], dtype=np.int64)
    if not rows.size or rows.size > max(3, _LARGEST_GROUP * sample.n):
        return
    rest = sample.without(flags.most).sorted
    if rest.size < 10 or rest[0] <= 0:
        return
    low, high = quantile(rest, 0.005), quantile(rest, 0.995)
    for factor in _FACTORS:
        fits = np.array([row for row in rows.tolist() if low <= sample.values[row] * factor <= high], dtype=np.int64)
        beyond = sample.values[fits] < rest[0] if factor > 1 else sample.values[fits] > rest[-1]
        fits = fits[beyond]
        if not fits.size:
            continue
        size = f"{round(max(factor, 1 / factor)):,}".replace(",", "\u202f")
        side = "below" if factor > 1 else "above"
        verb = "sits" if fits.size == 1 else "sit"
        sentence = (
            f"{plural(fits.size, 'value')} ({_some(analysis, fits)}) {verb} {size} times {side} the rest: "
            "another unit, or a slipped decimal point?"
        )
        correct = Proposal(
            factor_words(factor), DecisionKind.CORRECT, Cause.ENTRY, f"entered {size} times too {_way(factor)}", factor
        )
        yield "other_unit", sentence, fits, (correct, _exclude(Cause.ENTRY, "entered wrongly"), _keep()), True
        rows = np.setdiff1d(rows, fits)


def _way(factor: float) -> str:
    return "small" if factor > 1 else "large"


def _some(analysis: ColumnAnalysis, rows: Ints) -> str:
    """Up to three of the values, in order."""
    values = np.sort(analysis.column.sample.values[rows])
    shown = [analysis.style.value(float(value)) for value in values[:3]]
    return ", ".join(shown) + (" …" if values.size > 3 else "")


def _all_methods(analysis: ColumnAnalysis, asked: set[int]) -> _Raised:
    flags = analysis.flags
    rows = np.array([row for row in flags.all_agree.tolist() if row not in asked], dtype=np.int64)
    if not rows.size or flags.able < 2:
        return
    exclude, head = _exclude(Cause.UNKNOWN, "flagged by all methods"), f"{plural(rows.size, 'value')} flagged by all"
    if rows.size > _LARGEST_GROUP * analysis.column.sample.n:
        share = per_cent(rows.size / analysis.column.sample.n)
        sentence = f"{head} {count(flags.able)} methods, {share} of the column: a long tail rather than errors?"
        yield "long_tail", sentence, rows, (_keep("the tail of a skewed column"), exclude), False
    else:
        yield "all_methods", f"{head} {count(flags.able)} methods: error or genuine?", rows, (exclude, _keep()), True


def _some_methods(analysis: ColumnAnalysis, asked: set[int]) -> _Raised:
    """What is left, by the exact set of methods that flag it."""
    flags = analysis.flags
    left = np.array([row not in asked for row in flags.rows.tolist()], dtype=bool)
    if not left.any():
        return
    keys = list(flags.results)
    for pattern in np.unique(flags.by[left], axis=0):
        rows = flags.rows[left & (flags.by == pattern).all(axis=1)]
        names = [OUTLIER_METHODS[key].short for key, on in zip(keys, pattern, strict=True) if on]
        only = " and ".join(names)
        sentence = f"{plural(rows.size, 'value')} flagged by {only} only."
        yield f"flagged_{'_'.join(names)}", sentence, rows, (_keep(), _exclude(Cause.UNKNOWN, f"beyond {only}")), False


def _unread(analysis: ColumnAnalysis) -> list[Finding]:
    column = analysis.column
    if not column.unread:
        return []
    examples = sorted({column.cell(row) for row in column.unread_rows[:200].tolist()})[:3]
    shown = ", ".join(f"“{text[:20]}”" for text in examples)
    sentence = (
        f"{plural(column.unread, 'cell')} not read as {'a number' if column.unread == 1 else 'numbers'} "
        f"({shown}); left out of every figure here."
    )
    return [Finding("unread_cells", column.name, sentence, column.unread_rows, (), False, False)]
