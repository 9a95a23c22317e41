"""The decisions of a recipe made again on another table, one after the other."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import polars as pl

from culvix.errors import CulvixError
from culvix.stats.core.arrays import Ints
from culvix.study.analysis.outliers.rule_rows import rows_of
from culvix.study.recipes.recipe import CellReference, Recipe, Step
from culvix.study.study import Study
from culvix.tables.model.table import Table

__all__ = ["Repeated", "replay"]


@dataclass(frozen=True, eq=False)
class Repeated:
    """What became of a ``step``: the ``rows`` (from 0) decided on, and the ``cells`` of it that were not found.

    ``obstacle`` says why nothing at all could be decided, empty where something was or there was nothing to decide.
    """

    step: Step
    rows: Ints
    cells: tuple[CellReference, ...] = ()
    obstacle: str = ""


def replay(recipe: Recipe, study: Study) -> tuple[Repeated, ...]:
    """Make the decisions of ``recipe`` in ``study``, which has its dictionary, settings and derived columns already."""
    same_file = bool(recipe.source.sha256) and study.table.source.sha256 == recipe.source.sha256
    finder = _CellFinder(study.table, recipe.key, same_file=same_file)
    return tuple(_repeated(step, study, finder) for step in recipe.steps)


def _repeated(step: Step, study: Study, finder: "_CellFinder") -> Repeated:
    missing = [name for name in (step.column, step.swapped) if name and name not in study.table]
    if missing:
        return Repeated(step, _no_rows(), step.cells, f"there is no column {missing[0]}.")
    try:
        while study.document.pass_number < step.pass_number:
            study.begin_pass()
        rows, lost = _rows_of_rule(step, study) if step.rule is not None else finder.rows(step)
        if rows.size:
            details = step.details
            study.decide(step.kind, step.column, rows, cause=step.cause, reason=step.reason, **details)
    except CulvixError as error:
        return Repeated(step, _no_rows(), step.cells, error.sentence)
    return Repeated(step, rows, lost)


def _rows_of_rule(step: Step, study: Study) -> tuple[Ints, tuple[CellReference, ...]]:
    """The rows that the rule means here and that are not decided yet, as where it was made first."""
    assert step.rule is not None
    workspace = study.workspace
    if step.settings is not None:
        columns = {**study.settings.columns, **step.settings.columns}
        under = replace(step.settings, columns=columns)
        workspace = workspace.with_document(replace(study.document, settings=under))
    preview = workspace.analysis(step.column)
    rows = rows_of(step.rule, preview.flags, preview.flag_basis)
    return np.setdiff1d(rows, study.working.decided(step.column), assume_unique=True), ()


class _CellFinder:
    """Finds single values again: by the cells that name their row, or in the same file by the row's number."""

    def __init__(self, table: Table, key: Sequence[str], *, same_file: bool) -> None:
        self.table, self.same_file = table, same_file
        self.key = tuple(key) if key and all(name in table for name in key) else ()
        self._rows: dict[tuple[str, ...], int] | None = None

    def _by_key(self) -> dict[tuple[str, ...], int]:
        """The row of each key; keys that stand in several rows name none."""
        if self._rows is None:
            cells = pl.DataFrame({f"{at}": _texts(self.table, name) for at, name in enumerate(self.key)})
            alone = cells.is_unique().to_list()
            self._rows = {key: row for row, (key, once) in enumerate(zip(cells.rows(), alone, strict=True)) if once}
        return self._rows

    def rows(self, step: Step) -> tuple[Ints, tuple[CellReference, ...]]:
        """The rows (from 0, ascending) of the cells of ``step``, and those not there or with something else in them."""
        found: dict[int, CellReference] = {}
        for cell in step.cells:
            row = self._row(cell)
            if row is not None:
                found[row] = cell
        rows = np.array(sorted(found), dtype=np.int64)
        if rows.size and self._is_read(step.column):
            texts = self.table[step.column].raw.texts.at(rows).str.strip_chars().fill_null("").to_list()
            pairs = zip(rows.tolist(), texts, strict=True)
            rows = np.array([row for row, text in pairs if found[row].cell == text], dtype=np.int64)
        there = {found[row] for row in rows.tolist()}
        return rows, tuple(cell for cell in step.cells if cell not in there)

    def _is_read(self, column: str) -> bool:
        return bool(column) and self.table[column].derivation is None

    def _row(self, cell: CellReference) -> int | None:
        if self.same_file:
            return cell.row - 1 if 0 < cell.row <= self.table.rows else None
        return self._by_key().get(cell.key) if self.key and any(cell.key) else None


def _texts(table: Table, name: str) -> pl.Series:
    return table[name].text.str.strip_chars().fill_null("")


def _no_rows() -> Ints:
    return np.zeros(0, dtype=np.int64)
