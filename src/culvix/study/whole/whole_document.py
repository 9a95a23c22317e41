"""A survey of a whole table as data, format culvix-whole/1, and read back from it."""

from collections.abc import Sequence
from math import isfinite, nan
from typing import Any

import numpy as np

from culvix.errors import ReadError
from culvix.stats.core.moments import Moments
from culvix.study.whole.column_figures import Beyond, ColumnOfWhole, CountedBins, NumbersOfWhole
from culvix.study.whole.conditions import DecisionOnWhole
from culvix.study.whole.survey import WholeSurvey
from culvix.tables.engines.engine import EngineColumn, Kind
from culvix.tables.engines.requests import DistinctCount, Frequency
from culvix.version import VERSION

__all__ = ["FORMAT", "decisions_document", "survey_of_document", "whole_document"]

FORMAT = "culvix-whole/1"

Json = dict[str, Any]


def decisions_document(decisions: Sequence[DecisionOnWhole]) -> list[Json]:
    """What each decision of a study is on the whole, in their order."""
    return [
        {
            "decision": str(each.decision.kind),
            "column": each.decision.column or None,
            "reason": each.decision.reason,
            "rows_of_sample": each.sampled,
            "condition": each.where and each.where.words,
            "rows_of_whole": each.rows,
            "note": each.why or None,
        }
        for each in decisions
    ]


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
        "g1": moments and moments.g1,
        "g2": moments and moments.g2,
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


def survey_of_document(document: Json) -> WholeSurvey:
    """The survey that was written as ``document``. Raises ReadError for what is none."""
    if document.get("format") != FORMAT:
        raise ReadError(f"This is no survey of a whole table of the format {FORMAT}.")
    try:
        pearson = document["pearson"]
        r = np.array([[nan if value is None else value for value in row] for row in pearson["r"]], dtype=np.float64)
        size = len(pearson["columns"])
        return WholeSurvey(
            document["engine"],
            document["table"],
            document["address"],
            document["rows"],
            tuple(_read_column(name, found) for name, found in document["columns"].items()),
            tuple(pearson["columns"]),
            r.reshape(size, size),
            np.array(pearson["n"], dtype=np.int64).reshape(size, size),
            document["readings"],
            tuple(document["notes"]),
        )
    except (KeyError, TypeError, ValueError) as error:
        raise ReadError(f"This survey of a whole table is damaged ({error}).") from error


def _read_column(name: str, found: Json) -> ColumnOfWhole:
    about = EngineColumn(name, Kind(found["kind"]), found["type"], found["label"] or "", found["note"] or "")
    distinct = found["distinct"]
    return ColumnOfWhole(
        about,
        found["n"],
        found["missing"],
        DistinctCount(distinct["count"], distinct["exact"], distinct["how"] or ""),
        tuple(Frequency(each["value"], each["count"]) for each in found["frequent"]),
        found["frequent_from"] or "",
        _read_numbers(found) if "zeros" in found else None,
    )


def _read_numbers(found: Json) -> NumbersOfWhole:
    moments = None
    n, sd = found["n"], found["sd"]
    if found["mean"] is not None:
        sd_n = None if sd is None else sd * ((n - 1) / n) ** 0.5
        moments = Moments(n, found["sum"], found["mean"], sd, sd_n, found["g1"], found["g2"])
    bins = found["histogram"]
    counted = bins and CountedBins(tuple(bins["edges"]), tuple(bins["counts"]), bins["below"], bins["above"])
    return NumbersOfWhole(
        found["not_a_number"],
        found["infinite"],
        found["zeros"],
        found["negatives"],
        found["min"],
        found["max"],
        moments,
        {int(percentile): value for percentile, value in found["quantiles"].items()},
        tuple(
            Beyond(method, each["low"], each["high"], each["below"], each["above"])
            for method, each in found["beyond"].items()
        ),
        counted,
    )
