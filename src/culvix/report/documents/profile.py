"""The profile document: every number of the core for a file, as data (format ``culvix-profile/2``).

A number that cannot be given is null and its reason stands in ``notes`` under the same key. Rows are counted from 1.
"""

from collections.abc import Callable, Collection, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import combinations
from math import isfinite
from typing import Any

import numpy as np

from culvix.errors import CulvixError
from culvix.progress import Progress, silent
from culvix.report.documents.profile_extras import Asked, check_asked, column_extras, table_extras
from culvix.stats.core.arrays import Floats
from culvix.stats.correlation.result import CorrelationMatrix
from culvix.stats.describe.description import Description
from culvix.stats.display import count
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.registry import CORRELATION_KINDS
from culvix.stats.resampling.multiple_testing import benjamini_hochberg, holm
from culvix.study.analysis.column_analysis import ColumnAnalysis, DeferredPart
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.choices.settings import Settings
from culvix.study.relations.ranking import MOST_COLUMNS, coefficient_name, rank_pairs, suggest_kind
from culvix.tables.model.table import Column, Table

__all__ = ["FORMAT", "profile_document"]

FORMAT = "culvix-profile/2"

Json = dict[str, Any]

_MOST_SUGGESTED = 40

MOST_ROWS = 100_000
"""Up to so many rows all pairs are correlated by the slow kinds, too."""


def profile_document(
    workspace: Workspace,
    *,
    columns: Sequence[str] | None = None,
    missing_codes: Sequence[str] = (),
    with_correlation: bool = True,
    asked: Asked = Asked(),  # noqa: B008
    jobs: int = 1,
    progress: Progress = silent,
) -> Json:
    """Profile the working set of ``workspace`` (the chosen ``columns``, or all) as a JSON-ready document.

    ``asked`` adds what is not given unasked. Raises CulvixError for an unknown column or a name there is no extra of.
    """
    check_asked(workspace, asked)
    table = workspace.table
    chosen = list(table) if columns is None else [table[name] for name in columns]
    done = 0

    def share() -> float:
        return 0.8 * done / max(len(chosen), 1)

    def one(column: Column) -> Json:
        nonlocal done
        progress(share(), f"profiling {column.name}")
        if column.is_numeric:
            excluded = int(workspace.working.excluded(column.name).size)
            document = _numeric(
                workspace.table, workspace.analysis(column.name), workspace.deferred(column.name), excluded
            )
            document |= column_extras(workspace, column, asked, lambda _, doing: progress(share(), doing))
        else:
            document = _textual(column)
        done += 1
        return document

    document: Json = {
        "format": FORMAT,
        "source": _source(table),
        "settings": _settings(workspace.settings, missing_codes),
        "columns": _spread(one, chosen, jobs),
    }
    _adjust_verdicts(document["columns"])
    numeric = [column for column in chosen if column.is_numeric and (columns is not None or column.is_data)]
    if with_correlation:
        document["correlation"] = _correlation(workspace, numeric, columns, asked.names, progress)
        document["pairs"] = _pairs(workspace, numeric)
    document |= table_extras(workspace, numeric, asked, lambda _, doing: progress(0.9, doing))
    progress(1.0, "done")
    return document


def _spread(one: Callable[[Column], Json], columns: list[Column], jobs: int) -> list[Json]:
    if jobs <= 1:
        return [one(column) for column in columns]
    with ThreadPoolExecutor(jobs) as pool:
        return list(pool.map(one, columns))


def _source(table: Table) -> Json:
    return {
        "name": table.source.name,
        "sha256": table.source.sha256,
        "rows": table.rows,
        "columns": len(table.columns),
        "duplicate_rows": int(table.repeated_rows.size),
        "complete_rows": table.complete_rows,
        "encoding": table.source.encoding,
        "delimiter": table.source.delimiter,
        "notes": list(table.source.notes),
    }


def _settings(settings: Settings, missing_codes: Sequence[str]) -> Json:
    return {
        "alpha": settings.alpha,
        "confidence": settings.confidence,
        "quantile_type": settings.quantile_type,
        "decimals": settings.decimals,
        "histogram_closed": settings.closed,
        "trim": settings.trim,
        "qq_line": settings.qq_line,
        "qq_band": settings.qq_band,
        "outlier_methods": list(settings.methods),
        "limits": dict(settings.limits),
        "missing_codes": list(missing_codes),
    }


def _head(column: Column) -> Json:
    return {
        "name": column.name,
        "role": str(column.role),
        "role_reason": column.reason,
        "unit": column.unit,
        "label": column.label,
    }


def _textual(column: Column) -> Json:
    return {
        **_head(column),
        "n": column.rows - column.missing,
        "missing": column.missing,
        "missing_by": column.missing_by,
        "unread": 0,
        "distinct": column.distinct,
        "most_frequent": [{"value": value, "count": n} for value, n in column.most_frequent()],
        "notes": {},
    }


def _numeric(table: Table, analysis: ColumnAnalysis, deferred: DeferredPart, excluded: int) -> Json:
    figures = deferred.figures
    notes: dict[str, str] = {**analysis.description.notes, **figures.notes}
    column = analysis.column
    return {
        **_head(column),
        "n": analysis.description.n,
        "missing": column.missing,
        "missing_by": column.missing_by,
        "excluded": excluded,
        "unread": column.unread,
        **_description(analysis),
        "sn": figures.sn,
        "qn": figures.qn,
        "medcouple": figures.medcouple,
        "normality": _normality(analysis, notes),
        "outliers": _outliers(table, deferred.outliers, notes),
        "histogram": _histogram(analysis, notes),
        "density": _density(analysis, notes),
        "qq": _qq(analysis, notes),
        "notes": notes,
    }


def _description(analysis: ColumnAnalysis) -> Json:
    description = analysis.description
    skipped = {"n", "missing", "notes", "percentiles", "modes"}
    fields = {name: getattr(description, name) for name in Description.__dataclass_fields__ if name not in skipped}
    fields["modes"] = list(description.modes)
    fields["percentiles"] = {str(p): value for p, value in description.percentiles.items()}
    return fields | {key: figure for key, figure in analysis.figures.items() if key != "n" and key not in fields}


def _normality(analysis: ColumnAnalysis, notes: dict[str, str]) -> Json:
    found: Json = {}
    for key, result in analysis.normality.items():
        found[key] = {"statistic": result.statistic, "p": result.p, "n": result.n}
        if result.parts:
            found[key]["parts"] = {name: {"z": z, "p": p} for name, (z, p) in result.parts.items()}
        if result.note:
            notes[f"normality.{key}"] = result.note
    found["suggested"] = analysis.verdict.method
    found["verdict"] = analysis.verdict.sentence
    return found


def _outliers(table: Table, results: dict[str, OutlierResult], notes: dict[str, str]) -> Json:
    found: Json = {}
    for key, result in results.items():
        order = np.argsort(result.rows)
        found[key] = {
            "lower": result.lower,
            "upper": result.upper,
            "rows": table.numbers_of(result.rows[order]).tolist(),
            "scores": result.scores[order].tolist(),
            "score": result.score_name,
            "n": result.n,
            "settings": dict(result.settings),
        }
        if result.note:
            notes[f"outliers.{key}"] = result.note
    return found


def _histogram(analysis: ColumnAnalysis, notes: dict[str, str]) -> Json | None:
    bars = analysis.histogram
    if bars is None:
        notes["histogram"] = "There are no values to count." if not analysis.sample.n else "The range is too large."
        return None
    if bars.note:
        notes["histogram"] = bars.note
    return {
        "edges": bars.edges.tolist(),
        "counts": bars.counts.tolist(),
        "below": bars.below,
        "above": bars.above,
        "closed": bars.closed,
        "rule": bars.rule,
    }


def _density(analysis: ColumnAnalysis, notes: dict[str, str]) -> Json | None:
    curve = analysis.density
    if curve is None:
        notes["density"] = "Fewer than two distinct values, or a range beyond a number, leave no bandwidth."
        return None
    return {"rule": curve.rule, "bandwidth": curve.bandwidth, "peaks": curve.peaks.tolist()}


def _qq(analysis: ColumnAnalysis, notes: dict[str, str]) -> Json | None:
    points = analysis.qq
    if points is None:
        notes["qq"] = "Fewer than three values, or none that differ, leave no line to compare with."
        return None
    return {
        "correlation": points.correlation,
        "line": points.line,
        "centre": points.centre,
        "slope": points.slope,
        "positions": "(i-3/8)/(n+1/4)",
        "band": points.band,
        "level": points.level,
    }


def _correlation(
    workspace: Workspace,
    columns: list[Column],
    chosen: Sequence[str] | None,
    by_name: Collection[str],
    progress: Progress,
) -> Json | None:
    if len(columns) > MOST_COLUMNS:
        if chosen is not None:
            raise CulvixError(
                f"At most {MOST_COLUMNS} numeric columns are correlated at once; {len(columns)} are chosen."
            )
        return {"notes": {"matrices": f"{len(columns)} numeric columns; choose at most {MOST_COLUMNS} of them."}}
    names = [column.name for column in columns]
    values = [workspace.working.sample(column).values for column in columns]
    documented = [key for key, kind in CORRELATION_KINDS.items() if kind.documented]
    long = workspace.table.rows > MOST_ROWS
    kinds = [key for key in documented if not (long and CORRELATION_KINDS[key].slow and key not in by_name)]
    relations = rank_pairs(names, values, lambda share, doing: progress(0.8 + 0.2 * share, doing), kinds=kinds)
    confidence = workspace.settings.confidence
    found: Json = {key: _matrix(names, matrix, confidence) for key, matrix in relations.matrices.items()}
    left_out = [key for key in documented if key not in kinds]
    if left_out:
        found |= dict.fromkeys(left_out)
        found["notes"] = {key: f"Above {count(MOST_ROWS)} rows only when asked for by name." for key in left_out}
    return found


def _pairs(workspace: Workspace, columns: list[Column]) -> list[Json] | Json:
    """What each pair's product-moment coefficient is called, and the kind to read first with its reason."""
    if len(columns) > _MOST_SUGGESTED:
        return {"notes": f"{len(columns)} numeric columns; the kind is suggested for at most {_MOST_SUGGESTED}."}
    verdicts = {column.name: workspace.analysis(column.name).verdict for column in columns}
    found = []
    for first, second in combinations(columns, 2):
        x, y = workspace.working.sample(first).values, workspace.working.sample(second).values
        kind = suggest_kind(first.name, second.name, x, y, verdicts, workspace.settings.alpha)
        name = coefficient_name("pearson", (first.role, second.role))
        found.append(
            {"x": first.name, "y": second.name, "pearson": name, "suggested": kind.kind, "reason": kind.reason}
        )
    return found


def _intervals(matrix: CorrelationMatrix, confidence: float) -> list[list[list[float] | None]] | None:
    interval = CORRELATION_KINDS[matrix.kind].interval
    if interval is None:
        return None
    pairs = zip(matrix.r.tolist(), matrix.n.tolist(), strict=True)
    return [
        [
            list(ends) if isfinite(r) and (ends := interval(r, n, confidence)) else None
            for r, n in zip(row, counts, strict=True)
        ]
        for row, counts in pairs
    ]


def _matrix(names: list[str], matrix: CorrelationMatrix, confidence: float) -> Json:
    return {
        "columns": names,
        "r": _rows(matrix.r),
        "interval": _intervals(matrix, confidence),
        "p": _rows(matrix.p),
        "p_holm": _rows(_adjusted(matrix.p, holm)),
        "p_benjamini_hochberg": _rows(_adjusted(matrix.p, benjamini_hochberg)),
        "n": matrix.n.tolist(),
        "notes": {f"{names[i]} × {names[j]}": why for (i, j), why in matrix.notes.items()},
    }


def _adjusted(p: Floats, adjust: Callable[[Floats], Floats]) -> Floats:
    """``p`` of a matrix adjusted over its pairs, each counted once and the diagonal not at all."""
    position = np.triu_indices_from(p, 1)
    given = ~np.isnan(p[position])
    adjusted = np.full(p.shape, np.nan)
    values = p[position]
    values[given] = adjust(values[given])
    adjusted[position] = values
    return np.where(np.isnan(adjusted), adjusted.T, adjusted)


def _adjust_verdicts(columns: list[Json]) -> None:
    """Beside each column's suggested test its p adjusted over all columns of the document."""
    asked = [c["normality"] for c in columns if "normality" in c]
    known = [n for n in asked if n[n["suggested"]]["p"] is not None]
    p = np.array([n[n["suggested"]]["p"] for n in known], dtype=np.float64)
    for name, values in (("p_holm", holm(p)), ("p_benjamini_hochberg", benjamini_hochberg(p))):
        for found, value in zip(known, values.tolist(), strict=True):
            found[name] = value


def _rows(matrix: np.ndarray) -> list[list[float | None]]:
    return [[x if isfinite(x) else None for x in row] for row in matrix.tolist()]
