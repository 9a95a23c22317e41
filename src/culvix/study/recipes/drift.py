"""Where a table departs from the reference of a recipe, column by column, each with a sentence."""

from collections.abc import Iterator, Mapping
from difflib import SequenceMatcher

import numpy as np
import polars as pl

from culvix.stats.core.arrays import Floats
from culvix.stats.display import count, number, p_value, per_cent, plural, style_for
from culvix.stats.groups.kolmogorov_smirnov import distance_from_quantiles, two_sample_p
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.discrepancy import Discrepancy, with_rows
from culvix.study.recipes.recipe import Recipe, Thresholds
from culvix.study.recipes.reference import FLAGGED_ROLES, ColumnReference, open_flags, outside_range
from culvix.tables.cells.cell_rules import rule_in_force
from culvix.tables.model.table import Column, Table

__all__ = ["discrepancies"]

_ALIKE = 0.6
"""How alike two names are, from 0 to 1, that may be those of one column."""
_SAME_SHAPE = 0.1
"""Within so many IQRs the quantiles of two columns lie that may be one under two names."""
_NAMED = 5
_FEWEST = 8
"""With fewer values nothing is said of where they lie."""


def discrepancies(recipe: Recipe, workspace: Workspace) -> Iterator[Discrepancy]:
    """What in the table of ``workspace`` is not as the reference of ``recipe`` has it."""
    table, known = workspace.table.as_read, recipe.reference
    yield from _column_changes(known, table)
    for column in table:
        if column.name in known:
            yield from _of_column(known[column.name], workspace, column, recipe)


def _column_changes(known: Mapping[str, ColumnReference], table: Table) -> Iterator[Discrepancy]:
    """Columns that are gone, with what may be their new names, and columns never met."""
    new = [column for column in table if column.name not in known]
    for name in (name for name in known if name not in table):
        likely = _likely_new_name(name, known[name], new)
        proposal = "" if likely is None else f"; “{likely}”, which is new, may be the same under another name"
        yield Discrepancy("missing_column", f"The column {name} is missing{proposal}.", name)
    for column in new:
        yield Discrepancy("new_column", f"The column {column.name} is new: the recipe says nothing of it.", column.name)


def _likely_new_name(name: str, reference: ColumnReference, new: list[Column]) -> str | None:
    """The one of the ``new`` columns that is most likely the one called ``name`` before, None where none is."""
    scores = {column.name: _likeness(name, reference, column) for column in new}
    best = max(scores, key=lambda each: scores[each], default=None)
    return best if best is not None and scores[best] >= _ALIKE else None


def _likeness(name: str, reference: ColumnReference, column: Column) -> float:
    """How likely a column is the one called ``name``, from 0 to 1: by its name, and by what is in it."""
    alike = SequenceMatcher(None, name.casefold(), column.name.casefold()).ratio()
    if column.role is not reference.role:
        return 0.5 * alike
    if reference.quantiles and column.is_numeric and column.sample.n >= _FEWEST:
        distance = _quantile_distance(column.sample.sorted, np.array(reference.quantiles))
        return max(alike, 0.8) if distance < _SAME_SHAPE else alike
    if reference.levels and set(column.texts_up_to(len(reference.levels) + 1) or ()) == set(reference.levels):
        return max(alike, 0.8)
    return alike


def _of_column(
    reference: ColumnReference, workspace: Workspace, column: Column, recipe: Recipe
) -> Iterator[Discrepancy]:
    if column.role is not reference.role:
        sentence = f"{column.name} is read as {column.role}, and was {reference.role}: {column.reason}."
        yield Discrepancy("role", sentence, column.name)
    yield from _new_kinds(reference, column)
    yield from _new_levels(reference, column)
    yield from _missing(reference, column, recipe.thresholds)
    yield from _outside(reference, workspace, column)
    yield from _flags(reference, workspace, column, recipe.thresholds)
    if column.role is reference.role:
        yield from _moved(reference, column, recipe)


def _new_kinds(reference: ColumnReference, column: Column) -> Iterator[Discrepancy]:
    """Cells that are no plain numbers, of a kind that the recipe neither met nor settles."""
    for key, found in column.kinds.items():
        rule = rule_in_force(key, column.rules)
        if key in reference.unread or (rule and rule != "unread"):
            continue
        examples = ", ".join(f"“{text[:20]}”" for text in found.examples[:3])
        sentence = (
            f"{column.name} has {plural(found.count, 'cell')} of a kind not met before: {found.kind.name} ({examples})."
        )
        yield with_rows("new_kind", sentence, column.name, found.rows)


def _new_levels(reference: ColumnReference, column: Column) -> Iterator[Discrepancy]:
    if not reference.levels:
        return
    texts = column.text.str.strip_chars()
    there = texts.filter(pl.Series(column.present))
    new = [text for text in there.unique().sort().to_list() if text and text not in reference.levels]
    if not new:
        return
    shown = ", ".join(f"“{text[:40]}”" for text in new[:_NAMED]) + (" …" if len(new) > _NAMED else "")
    rows = np.flatnonzero(texts.is_in(new).fill_null(False).to_numpy() & column.present)
    levels = plural(len(new), "level")
    sentence = f"{column.name} has {levels} never seen before, in {plural(int(rows.size), 'row')}: {shown}."
    yield with_rows("new_level", sentence, column.name, rows)


def _missing(reference: ColumnReference, column: Column, thresholds: Thresholds) -> Iterator[Discrepancy]:
    cells = reference.n + reference.missing + sum(reference.unread.values())
    before, now = reference.missing / max(cells, 1), column.missing / max(column.rows, 1)
    if now - before > thresholds.missing:
        sentence = f"{column.name} lacks {per_cent(now)} of its cells; it was {per_cent(before)}."
        yield with_rows("missing", sentence, column.name, np.flatnonzero(~column.present))


def _outside(reference: ColumnReference, workspace: Workspace, column: Column) -> Iterator[Discrepancy]:
    bounds = workspace.bounds(column.name)
    rows = outside_range(workspace, column, bounds)
    if rows.size > reference.open_outside:
        ends = " to ".join("…" if end is None else f"{end:.12g}" for end in bounds)
        unit = f" {column.unit}" if column.unit else ""
        what = plural(int(rows.size), "value")
        sentence = f"{column.name} has {what} outside its valid range ({ends}{unit}) that no decision covers."
        yield with_rows("outside_range", sentence, column.name, rows)


def _flags(
    reference: ColumnReference, workspace: Workspace, column: Column, thresholds: Thresholds
) -> Iterator[Discrepancy]:
    rows = open_flags(workspace, column)
    now, before = rows.size / max(column.rows, 1), reference.open_flags / max(reference.n, 1)
    if now - before > thresholds.open_flags:
        was = f"; it was {per_cent(before)}" if reference.open_flags else ""
        what = plural(int(rows.size), "flagged value")
        sentence = f"{column.name} has {what} that no rule covers, {per_cent(now)} of its rows{was}."
        yield with_rows("open_flags", sentence, column.name, rows)


def _moved(reference: ColumnReference, column: Column, recipe: Recipe) -> Iterator[Discrepancy]:
    """Whether the values lie elsewhere than those of the reference: by how far, and whether by more than chance."""
    if column.role not in FLAGGED_ROLES or not column.is_numeric or min(column.sample.n, reference.n) < _FEWEST:
        return
    x, before = column.sample.sorted, np.array(reference.quantiles)
    if before.size < 2:
        return
    distance = _quantile_distance(x, before)
    p = two_sample_p(distance_from_quantiles(x, before), int(x.size), reference.n)
    if distance <= recipe.thresholds.distance or p >= recipe.thresholds.alpha:
        return
    style = style_for(column.sample, None)
    medians = [number(float(np.median(values)), style.value_decimals) for values in (x, before)]
    unit = f" {column.unit}" if column.unit else ""
    sentence = (
        f"{column.name} has moved: its quantiles lie {number(distance, 2)} IQR from those of {recipe.source.name} on "
        f"average (median {medians[0]}{unit} against {medians[1]}{unit}; two-sample test {p_value(p)}, "
        f"n {count(int(x.size))} and {count(reference.n)})."
    )
    yield Discrepancy("moved", sentence, column.name)


def _quantile_distance(x: Floats, before: Floats) -> float:
    """The mean distance of the quantiles from 1 to 99 %, in IQRs of those before; where that is 0, in their ranges."""
    now = np.quantile(x, np.linspace(0, 1, before.size), method="inverted_cdf")
    quarter = (before.size - 1) // 4
    spread = before[-1 - quarter] - before[quarter] or before[-1] - before[0]
    with np.errstate(over="ignore", invalid="ignore"):
        distance = float(np.abs(now[1:-1] - before[1:-1]).mean())
    if not spread:
        return 0.0 if not distance else float("inf")
    return distance / float(spread)
