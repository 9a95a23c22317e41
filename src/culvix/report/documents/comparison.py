"""The comparison document: one table against another (format ``culvix-comparison/1``)."""

from typing import Any

import numpy as np

from culvix.stats.core.arrays import Ints
from culvix.stats.core.sample import Sample
from culvix.study.another_table.column_changes import ColumnChange
from culvix.study.another_table.comparison import TableComparison
from culvix.study.another_table.row_changes import RowChanges
from culvix.tables.model.table import Table

__all__ = ["FORMAT", "comparison_document"]

FORMAT = "culvix-comparison/1"

Json = dict[str, Any]

_MOST_ROWS = 1000
_QUANTILES = (0.0, 0.05, 0.25, 0.5, 0.75, 0.95, 1.0)


def comparison_document(found: TableComparison, here: Table, there: Table) -> Json:
    """All that was ``found`` of ``here`` against ``there``, ready to be written as JSON; rows are counted from 1."""
    return {
        "format": FORMAT,
        "here": _source(here),
        "there": _source(there),
        "level": found.level,
        "matched": [{"here": p.here, "there": p.there, "why": p.why or None} for p in found.matching.pairs],
        "new_columns": list(found.matching.new),
        "gone_columns": list(found.matching.gone),
        "columns": [_column(change) for change in found.columns],
        "rows": None if found.rows is None else _rows(found.rows, here, there),
    }


def _source(table: Table) -> Json:
    source = table.source
    return {"name": source.name, "sha256": source.sha256, "rows": table.rows, "columns": len(table.columns)}


def _column(change: ColumnChange) -> Json:
    unit = change.unit
    return {
        "here": change.pair.here,
        "there": change.pair.there,
        "role": change.kind,
        "changes": [{"kind": note.kind, "sentence": note.sentence} for note in change.notes],
        "n": dict(zip(("here", "there"), change.n, strict=True)),
        "missing": dict(zip(("here", "there"), change.missing, strict=True)),
        "unit": None
        if unit is None
        else {"factor": unit.factor, "offset": unit.offset, "between": unit.between, "distance": unit.distance},
        "mean_shift_sd": change.shift,
        "median_shift_iqr": change.median_shift,
        "sd_ratio": change.spread,
        "distance": change.distance,
        "p": change.p,
        "p_adjusted": change.adjusted,
        "new_levels": list(change.new_levels),
        "lost_levels": list(change.lost_levels),
        "new_codes": list(change.codes),
        "quantiles": None
        if change.here is None or change.there is None
        else {"share": list(_QUANTILES), "here": _quantiles(change.here), "there": _quantiles(change.there)},
    }


def _quantiles(sample: Sample) -> list[float] | None:
    return [float(value) for value in np.quantile(sample.sorted, _QUANTILES)] if sample.n else None


def _rows(found: RowChanges, here: Table, there: Table) -> Json:
    return {
        "key": list(found.key),
        "in_both": found.both,
        "added": _numbers(found.added, here),
        "gone": _numbers(found.gone, there),
        "repeated_keys": found.repeated,
        "changed_cells": found.changed,
        "cells": [
            {
                "column": cell.column,
                "key": cell.key,
                "row_here": here.number_of(cell.row),
                "row_there": there.number_of(cell.row_there),
                "here": cell.here,
                "there": cell.there,
            }
            for cell in found.cells
        ],
    }


def _numbers(rows: Ints, table: Table) -> Json:
    return {"count": int(rows.size), "rows": [table.number_of(int(row)) for row in rows[:_MOST_ROWS]]}
