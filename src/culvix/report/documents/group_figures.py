"""The groups of a column in the profile document: numbers of each, the test with its path, and sizes of differences."""

from typing import Any

from culvix.errors import CulvixError
from culvix.stats.groups.result import Effect, GroupTest
from culvix.study.analysis.grouping import Grouping
from culvix.study.analysis.workspace import Workspace
from culvix.study.groups.comparison.compared_column import Comparing, compare_grouped
from culvix.study.groups.comparison.comparison import GroupComparison
from culvix.study.groups.value_groups import ValueGroup
from culvix.tables.model.table import Column

__all__ = ["group_figures"]

Json = dict[str, Any]

_NUMBERS = ("mean", "sd", "se_mean", "median", "q1", "q3", "iqr", "min", "max", "skewness", "ci_mean")


def group_figures(workspace: Workspace, column: Column, groups: Grouping) -> Json:
    """``column`` by ``groups``: every group with its numbers, the test that fits and why, and all other tests.

    A column that makes the groups itself has a note instead.
    """
    if column.name == groups.by:
        return {"by": groups.by, "groups": None, "note": "A column cannot be compared within its own groups."}
    settings = workspace.settings
    how = Comparing(settings.alpha, settings.confidence, settings.quantile_type)
    try:
        found = compare_grouped(workspace.analysis(column.name), groups, groups.by, how)
    except CulvixError as problem:
        return {"by": groups.by, "groups": None, "note": str(problem)}
    compared = found.comparison
    return {
        "by": groups.by,
        "groups": {group.name: _group(group) for group in found.groups},
        "outside": found.outside,
        "note": found.note or None,
        **({} if compared is None else _compared(compared)),
    }


def _group(group: ValueGroup) -> Json:
    numbers: Json = {key: getattr(group.description, key) for key in _NUMBERS}
    ends = numbers["ci_mean"]
    return {
        "n": group.sample.n,
        "missing": group.missing,
        "flagged": group.flagged,
        **numbers,
        "ci_mean": None if ends is None else list(ends),
    }


def _compared(found: GroupComparison) -> Json:
    chosen = found.chosen
    return {
        "test": {
            "chosen": chosen.key,
            "reason": chosen.reason,
            "steps": [
                {"question": step.question, "answer": step.answer, "rests_on": step.words} for step in chosen.steps
            ],
        },
        "effects": [_effect(effect) for effect in found.effects],
        "tests": {key: _test(test) for key, test in ((chosen.key, found.result), *found.others.items())},
        "follow_ups": [
            {
                "first": found.names[pair.first],
                "second": found.names[pair.second],
                "difference": pair.difference,
                "interval": None if pair.low is None else [pair.low, pair.high],
                "p_adjusted": pair.p,
                "note": pair.note,
            }
            for pair in found.follow_ups
        ],
        "detectable": found.detectable,
    }


def _effect(effect: Effect) -> Json:
    return {
        "kind": effect.key,
        "value": effect.value,
        "interval": None if effect.low is None else [effect.low, effect.high],
        "confidence": effect.confidence,
        "note": effect.note,
    }


def _test(test: GroupTest) -> Json:
    return {
        "statistic": test.statistic,
        "freedom": list(test.freedom),
        "p": test.p,
        "p_by": test.p_by,
        "note": test.note,
    }
