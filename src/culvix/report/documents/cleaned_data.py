"""What is left of a table after the decisions, and the list of what was flagged, as frames that can be written."""

from collections.abc import Sequence

import numpy as np
import polars as pl

from culvix.errors import CulvixError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.outliers.agreement import flagged_values
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.choices.settings import FLAG_SCALES, MEASURED, Settings
from culvix.study.document.decisions import Decision
from culvix.tables.model.table import Column, Role

__all__ = ["cleaned_frame", "flagged_frame"]

_AS_READ, _DECISION = "as read", "decision"
_EXACT = 2.0**53


def cleaned_frame(workspace: Workspace, progress: Progress = silent, *, trace: bool = False) -> pl.DataFrame:
    """The working set, a row a row in use: its number and every column. Rows that were excluded are left out.

    Numbers that were decided on stand as they are now; with a ``trace`` their cells as read and the decision follow in
    columns of their own.
    """
    working = workspace.working
    rows = np.flatnonzero(working.rows_in_use)
    found: dict[str, pl.Series] = {}

    def put(name: str, series: pl.Series) -> None:
        free = (name, *(f"{name} ({number})" for number in range(2, 1000)))
        found[next(candidate for candidate in free if candidate not in found)] = series

    put("row", pl.Series(workspace.table.numbers_of(rows)))
    for position, column in enumerate(workspace.table):
        progress(position / len(workspace.table.columns), f"writing {column.name}")
        put(column.name, _series(column, working, rows))
        if trace and working.decides_on(column.name):
            put(f"{column.name} {_AS_READ}", column.text.gather(rows))
            put(f"{column.name} {_DECISION}", _decided(working, column.name, rows))
    return pl.DataFrame(found)


def _series(column: Column, working: WorkingSet, rows: Ints) -> pl.Series:
    message = column.role in (Role.YES_NO, Role.ORDERED) and not working.decides_on(column.name)
    if column.values is None or message:
        return column.text.gather(rows)
    sample = working.sample(column)
    values: Floats = sample.values[rows]
    there = np.isfinite(values)
    if sample.integers is not None:
        if sample.integers.dtype == object:
            # No type of number holds them; their digits do.
            return pl.Series([str(n) if here else None for n, here in zip(sample.integers[rows], there, strict=True)])
        return pl.Series(sample.integers[rows]).set(pl.Series(~there), None)
    read = column.sample.sorted
    if there.any() and all(_whole(numbers) for numbers in (read, values[there])):
        # A column of whole numbers stays one, corrected or not.
        return pl.Series(np.where(there, values, 0.0).astype(np.int64)).set(pl.Series(~there), None)
    return pl.Series(values).fill_nan(None)


def _whole(numbers: Floats) -> bool:
    """Whether all of ``numbers`` are whole and small enough to be exact."""
    return bool((np.abs(numbers) < _EXACT).all() and (numbers == np.rint(numbers)).all())


def _decided(working: WorkingSet, column: str, rows: Ints) -> pl.Series:
    """The decision on each of ``rows`` in words; empty where there is none."""
    texts: list[str | None] = [None] * rows.size
    for row in working.decided(column).tolist():
        position = int(np.searchsorted(rows, row))
        decision = working.decision_on(column, row)
        if position < rows.size and rows[position] == row and decision is not None:
            texts[position] = _text(decision)
    return pl.Series(texts, dtype=pl.String)


def _text(decision: Decision) -> str:
    parts = (decision.text, f"cause: {decision.cause}", decision.reason, decision.by and f"by {decision.by}")
    return "; ".join(part for part in parts if part)


def _basis_and_limits(settings: Settings, preview: ColumnPreview) -> tuple[str, str]:
    """On which scale the flags of a column were found, and the limit of each method: "z_score 3; iqr_fences 1.5"."""
    name = preview.column.name
    scale = settings.of(name).flag_scale
    limits = []
    for key in preview.flags.results:
        of_method = settings.limits_of(name, key)
        if of_method is not None:
            limits.append(f"{key} {' and '.join(f'{limit:g}' for limit in dict.fromkeys(of_method))}")
    return "as measured" if scale == MEASURED else FLAG_SCALES[scale], "; ".join(limits)


def flagged_frame(
    workspace: Workspace, columns: Sequence[str] | None = None, progress: Progress = silent
) -> pl.DataFrame:
    """Every flagged value of ``columns`` (by default all that can be flagged), with the methods and the decision.

    Raises CulvixError for a column there is none of.
    """
    roles = (Role.MEASURE, Role.COUNT, Role.ORDERED)
    names = [c.name for c in workspace.table.numeric if c.role in roles] if columns is None else list(columns)
    for name in names:
        if name not in workspace.table:
            raise CulvixError(f"There is no column “{name}”.")
    looks = []
    for position, name in enumerate(names):
        progress(position / max(len(names), 1), f"flagging {name}")
        looks.append(workspace.analysis(name))
    found = flagged_values(looks, workspace.working).ordered()
    label = workspace.table.label_column
    of = [workspace.working.decision_on(found.column(line), int(row)) for line, row in enumerate(found.rows.tolist())]
    chosen = np.array(found.methods)
    basis = {preview.column.name: _basis_and_limits(workspace.settings, preview) for preview in looks}
    return pl.DataFrame(
        {
            "row": workspace.table.numbers_of(found.rows),
            "label": [None if label is None else label.cell(row) for row in found.rows.tolist()],
            "column": [found.columns[position] for position in found.positions.tolist()],
            "group": pl.Series(found.groups.tolist(), dtype=pl.String).replace("", None),
            "scale": [basis[found.column(line)][0] for line in range(len(found))],
            "value": found.values,
            "deviation": pl.Series(found.deviations).fill_nan(None),
            "methods": [", ".join(chosen[flags]) for flags in found.by],
            "limits": [basis[found.column(line)][1] for line in range(len(found))],
            "agreement": found.agreement,
            "methods able": found.able,
            "judged in pass": [workspace.document.pass_number] * len(found),
            "decision": [decision and decision.text for decision in of],
            "cause": [decision and str(decision.cause) for decision in of],
            "reason": [decision and decision.reason for decision in of],
            "rule": [decision.rule.text if decision and decision.rule else None for decision in of],
            "by": [decision and decision.by for decision in of],
            "at": [decision and decision.at.isoformat(timespec="seconds") for decision in of],
            "pass": [decision and decision.pass_number for decision in of],
        },
        schema_overrides=dict.fromkeys(
            ("label", "decision", "cause", "reason", "rule", "by", "at", "scale", "limits"), pl.String
        ),
    )
