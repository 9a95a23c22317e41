"""A survey of a whole table as data, format culvix-whole/1."""

from math import isfinite
from typing import Any

from culvix.study.whole.column_figures import ColumnOfWhole, NumbersOfWhole
from culvix.study.whole.survey import WholeSurvey
from culvix.version import VERSION

__all__ = ["FORMAT", "whole_document"]

FORMAT = "culvix-whole/1"

Json = dict[str, Any]


def whole_document(survey: WholeSurvey) -> Json:
    """Every figure of ``survey``; what cannot be given is None."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "engine": survey.engine,
        "address": survey.address,
        "table": survey.title,
        "rows": survey.rows,
        "readings": survey.readings,
        "notes": list(survey.notes),
        "columns": {each.column.name: _column(each) for each in survey.columns},
        "pearson": {
            "columns": list(survey.correlated),
            "r": [[value if isfinite(value) else None for value in row] for row in survey.r.tolist()],
            "n": survey.pairs.tolist(),
        },
    }


def _column(found: ColumnOfWhole) -> Json:
    about, distinct = found.column, found.distinct
    return {
        "kind": str(about.kind),
        "type": about.type,
        "label": about.label or None,
        "note": about.note or None,
        "n": found.n,
        "missing": found.missing,
        "distinct": {"count": distinct.count, "exact": distinct.exact, "how": distinct.how or None},
        "frequent": [{"value": each.text, "count": each.count} for each in found.frequent],
        "frequent_from": found.frequent_from or None,
        **(_numbers(found.numbers) if found.numbers is not None else {}),
    }


def _numbers(found: NumbersOfWhole) -> Json:
    moments = found.moments
    return {
        "not_a_number": found.not_a_number,
        "infinite": found.infinite,
        "zeros": found.zeros,
        "negatives": found.negatives,
        "min": found.low,
        "max": found.high,
        "sum": moments and moments.sum,
        "mean": moments and moments.mean,
        "sd": moments and moments.sd,
        "skewness": moments and moments.skewness,
        "excess_kurtosis": moments and moments.excess_kurtosis,
        "quantiles": {str(percentile): value for percentile, value in found.quantiles.items()},
        "beyond": {
            each.method: {"low": each.low, "high": each.high, "below": each.below, "above": each.above}
            for each in found.beyond
        },
        "histogram": None
        if found.bins is None
        else {
            "edges": list(found.bins.edges),
            "counts": list(found.bins.counts),
            "below": found.bins.below,
            "above": found.bins.above,
        },
    }
