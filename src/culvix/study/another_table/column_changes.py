"""How a column has changed from another table to this one: numbers of both, how far it moved, and sentences."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from culvix.stats.association.contingency_tests import chi_square
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.display import count, number, per_cent, plural, signed, style_for
from culvix.stats.groups.kolmogorov_smirnov import kolmogorov_smirnov, two_sample_distance
from culvix.study.another_table.matching import MatchedColumns
from culvix.study.another_table.units import UnitChange, unit_change
from culvix.tables.checks.column_checks import suspected_codes
from culvix.tables.model.table import Column, Role

__all__ = ["CHANGES", "ColumnChange", "NoteOfChange", "compare_column_of", "with_changed_cells"]

CHANGES = {
    "name": "renamed",
    "role": "another role",
    "unit": "another unit",
    "code": "a code appeared",
    "level": "new levels",
    "lost_level": "lost levels",
    "missing": "more or fewer missing cells",
    "token": "another word for missing",
    "moved": "moved",
    "spread": "another spread",
    "shape": "distributed otherwise",
    "shares": "other shares",
    "cells": "changed cells",
    "uncompared": "not compared",
}
"""Kinds of changes, in the order in which they are told."""

_MOST_LEVELS = 10_000
_NAMED = 6
_MISSING_MORE = 0.002
"""A difference of shares of missing cells from which on it is told, where either has any."""
_FEW = 8
_SLIGHT_SHIFT, _SLIGHT_SPREAD = 0.1, 1.15
"""What is more than chance is told as a shift from so many SD on, and as another spread from such a ratio on."""


@dataclass(frozen=True)
class NoteOfChange:
    """One change, of a kind of `CHANGES`, in a ``sentence``."""

    kind: str
    sentence: str


@dataclass(frozen=True, eq=False)
class ColumnChange:
    """A column of both tables: ``pair`` of names, sizes, how far it ``moved``, ``notes``, and p of a two-sample test.

    ``shift`` is that of the means in standard deviations there, ``median_shift`` that of the medians in IQRs there,
    ``spread`` the ratio of standard deviations; all after a change of ``unit``. ``distance`` is the largest of both
    distribution functions, or the share of rows whose level would have to change. ``adjusted`` p is over all columns.
    """

    pair: MatchedColumns
    kind: str
    n: tuple[int, int]
    missing: tuple[int, int]
    here: Sample | None = None
    there: Sample | None = None
    unit: UnitChange | None = None
    shift: float | None = None
    median_shift: float | None = None
    spread: float | None = None
    distance: float | None = None
    p: float | None = None
    adjusted: float | None = None
    new_levels: tuple[str, ...] = ()
    lost_levels: tuple[str, ...] = ()
    codes: tuple[float, ...] = ()
    notes: tuple[NoteOfChange, ...] = ()

    @property
    def moved(self) -> float:
        """How much it has changed, for an order: what is not of degree comes first."""
        of_kind = sum(note.kind in ("unit", "level", "lost_level", "code", "name", "role") for note in self.notes)
        return of_kind + (self.distance or 0.0)

    def adjusted_to(self, p: float | None, level: float) -> "ColumnChange":
        """The same with p over all columns, and the sentences about what is more than chance."""
        changed = replace(self, adjusted=p)
        if p is None or p > level:
            return changed
        return replace(changed, notes=(*self.notes, *_moves(changed)))


def with_changed_cells(change: ColumnChange, cells: int) -> ColumnChange:
    """``change`` with a note of how many ``cells`` differ in rows that both tables have."""
    if not cells:
        return change
    sentence = f"{plural(cells, 'cell')} changed in rows that both tables have."
    return replace(change, notes=(*change.notes, NoteOfChange("cells", sentence)))


def compare_column_of(here: Column, there: Column, pair: MatchedColumns, values: Floats | None = None) -> ColumnChange:
    """How ``here`` differs from ``there``; ``values`` are those of ``here`` in use, by default as read."""
    notes = list(_plain_notes(here, there, pair))
    change = ColumnChange(
        pair, str(here.role), (here.rows - here.missing, there.rows - there.missing), (here.missing, there.missing)
    )
    if here.is_numeric and there.is_numeric:
        sample = here.sample if values is None else Sample(values)
        if Role.ORDERED in (here.role, there.role):
            notes += _new_codes_of_an_order(sample, there.sample)
        change = _of_numbers(change, sample, there.sample, notes)
    elif here.role in (Role.CATEGORY, Role.YES_NO, Role.ORDERED) or there.role in (Role.CATEGORY, Role.YES_NO):
        change = _of_levels(change, here, there, notes)
    return replace(change, notes=tuple(sorted(notes, key=lambda note: list(CHANGES).index(note.kind))))


def _plain_notes(here: Column, there: Column, pair: MatchedColumns) -> list[NoteOfChange]:
    """What is said of names, roles and missing cells."""
    notes = []
    if pair.is_proposed:
        notes.append(NoteOfChange("name", f"It is called {pair.there} there ({pair.why})."))
    if here.role is not there.role:
        notes.append(NoteOfChange("role", f"It is read as {here.role} here and as {there.role} there."))
    now, before = here.missing / max(here.rows, 1), there.missing / max(there.rows, 1)
    if abs(now - before) > _MISSING_MORE or bool(here.missing) != bool(there.missing):
        sentence = f"{count(here.missing)} cells ({per_cent(now)}) are missing here, {count(there.missing)} there"
        notes.append(NoteOfChange("missing", f"{sentence}."))
    tokens = [sorted(token for token in column.missing_by if token) for column in (here, there)]
    new = [token for token in tokens[0] if token not in tokens[1]]
    if new:
        words = ", ".join(f"“{token}”" for token in new[:_NAMED])
        notes.append(NoteOfChange("token", f"{words} stands for a missing cell here, and not there."))
    return notes


def _of_numbers(change: ColumnChange, here: Sample, there: Sample, notes: list[NoteOfChange]) -> ColumnChange:
    if min(here.n, there.n) < 1:
        return replace(change, here=here, there=there)
    codes = tuple(
        code.value
        for code in suspected_codes(here)
        if np.searchsorted(there.sorted, code.value, side="left")
        == np.searchsorted(there.sorted, code.value, side="right")
    )
    if codes:
        words = ", ".join(f"{number(code, 0)} ({count(int(np.sum(here.sorted == code)))} times)" for code in codes)
        notes.append(
            NoteOfChange("code", f"{words} appeared, outside all other values: it may stand for a missing one.")
        )
        # A code says nothing of where the values lie.
        here = Sample(np.where(np.isin(here.values, codes), np.nan, here.values))
    unit = unit_change(here, there)
    if unit is not None:
        times = f"{unit.factor:g} times" if unit.factor >= 1 else f"1/{1 / unit.factor:g} of"
        more = f" and {signed(unit.offset, 1)}" if unit.offset else ""
        notes.append(
            NoteOfChange("unit", f"Values here are about {times}{more} those there, as between {unit.between}.")
        )
        there = Sample(unit.rescaled(there.values))
    a, b = here.moments, there.moments
    if a is None or b is None:
        return replace(change, here=here, there=there, unit=unit, codes=codes)
    quarters = np.quantile(there.sorted, (0.25, 0.75))
    iqr = float(quarters[1] - quarters[0])
    tested = min(here.n, there.n) >= _FEW
    return replace(
        change,
        here=here,
        there=there,
        unit=unit,
        codes=codes,
        shift=(a.mean - b.mean) / b.sd if b.sd else None,
        median_shift=(here.median - there.median) / iqr if iqr else None,
        spread=a.sd / b.sd if a.sd is not None and b.sd else None,
        distance=two_sample_distance(here.sorted, there.sorted),
        p=kolmogorov_smirnov(here, there).p if tested else None,
    )


def _new_codes_of_an_order(here: Sample, there: Sample) -> list[NoteOfChange]:
    """Ordered codes that are in one of the tables only."""
    found = [set(sample.runs[0].tolist()) for sample in (here, there)]
    pairs = (("level", found[0] - found[1], "new here"), ("lost_level", found[1] - found[0], "only there"))
    return [
        NoteOfChange(kind, f"{plural(len(codes), 'code')} {words}: {_listed([f'{code:g}' for code in sorted(codes)])}.")
        for kind, codes, words in pairs
        if codes
    ]


def _listed(names: Sequence[str]) -> str:
    """The first of ``names``, each in quotes."""
    return ", ".join(f"“{name}”" for name in names[:_NAMED]) + (" …" if len(names) > _NAMED else "")


def _of_levels(change: ColumnChange, here: Column, there: Column, notes: list[NoteOfChange]) -> ColumnChange:
    """Levels that came and went, and the shares of those that both have."""
    if max(here.distinct, there.distinct) > _MOST_LEVELS:
        sentence = f"More than {count(_MOST_LEVELS)} levels are not compared one by one"
        notes.append(
            NoteOfChange("uncompared", f"{sentence}: {count(here.distinct)} here, {count(there.distinct)} there.")
        )
        return change
    found = [dict(column.most_frequent(_MOST_LEVELS)) for column in (here, there)]
    names = sorted(set(found[0]) | set(found[1]))
    new = tuple(name for name in names if name not in found[1])
    lost = tuple(name for name in names if name not in found[0])
    for kind, levels, words in (("level", new, "new here"), ("lost_level", lost, "only there")):
        if levels:
            notes.append(NoteOfChange(kind, f"{plural(len(levels), 'level')} {words}: {_listed(levels)}."))
    common = [name for name in names if name not in (*new, *lost)]
    counts = np.array([[each[name] for name in common] for each in found], dtype=np.int64).reshape(2, -1)
    if len(common) < 2 or not counts.sum(axis=1).all():
        return replace(change, new_levels=new, lost_levels=lost)
    shares = counts / counts.sum(axis=1, keepdims=True)
    distance = float(np.abs(shares[0] - shares[1]).sum() / 2)
    return replace(change, new_levels=new, lost_levels=lost, distance=distance, p=chi_square(counts).p)


def _moves(change: ColumnChange) -> list[NoteOfChange]:
    """Where values lie now that a test says that it is more than chance."""
    if change.here is None or change.there is None:
        return [
            NoteOfChange("shares", f"Rows are shared out otherwise: {per_cent(change.distance)} would have to change.")
        ]
    style = style_for(change.here, change.here.moments.sd if change.here.moments else None)
    notes = []
    if change.shift is not None and abs(change.shift) >= _SLIGHT_SHIFT:
        means = [style.statistic(each.moments.mean) for each in (change.here, change.there) if each.moments]
        sentence = f"mean {means[0]} against {means[1]}"
        iqrs = "" if change.median_shift is None else f", the median by {signed(change.median_shift, 2)} IQR"
        notes.append(NoteOfChange("moved", f"It moved by {signed(change.shift, 2)} SD ({sentence}){iqrs}."))
    if change.spread is not None and not 1 / _SLIGHT_SPREAD <= change.spread <= _SLIGHT_SPREAD:
        notes.append(NoteOfChange("spread", f"Its SD is {number(change.spread, 2)} times that there."))
    if not notes:
        sentence = f"distribution functions {number(change.distance, 2)} apart"
        notes.append(NoteOfChange("shape", f"It is distributed otherwise ({sentence})."))
    return notes
