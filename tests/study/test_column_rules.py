"""Columns made from others by a rule in words: their values, what they follow, and how they come back."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.errors import CulvixError
from culvix.study import DecisionKind, Study
from culvix.study.carrying.fingerprint import fingerprint_of
from culvix.study.recipes.applying import apply_recipe
from culvix.study.recipes.recipe import recipe_of
from culvix.study.storage.reopening import reopen
from culvix.study.storage.study_file import write_study_copy
from culvix.tables import read_table
from culvix.tables.model.derived.column_rule import Clause, ColumnRule
from culvix.tables.model.table import Role


@pytest.fixture
def small(tmp_path: Path) -> Study:
    path = tmp_path / "small.csv"
    frame = pl.DataFrame(
        {
            "x": [1.5, 4.0, None, 10.0, 2.5, 7.0] * 5,
            "y": [2.0, 0.0, 5.0, 4.0, None, 3.5] * 5,
            "site": ["north", "south", "east", None, "north-east", "south"] * 5,
            "dead": ["yes", "no", "no", "yes", "no", "no"] * 5,
            "day": ["2026-01-05", "2026-02-28", "2026-03-01", None, "2025-12-31", "2026-01-11"] * 5,
        }
    )
    frame.write_csv(path)
    return Study.of_table(read_table(path))


def values(study: Study, name: str) -> list[float | None]:
    return [None if np.isnan(v) else float(v) for v in study.working.sample(study.table[name]).values[:6]]


def yes_no(*clauses: Clause, join: str = "all") -> ColumnRule:
    return ColumnRule("condition", clauses=clauses, join=join)


@pytest.mark.parametrize(
    ("rule", "expected"),
    [
        (yes_no(Clause("x", "above", "2.5")), [0, 1, None, 1, 0, 1]),
        (yes_no(Clause("x", "at_least", "2.5")), [0, 1, None, 1, 1, 1]),
        (yes_no(Clause("x", "between", "2.5", "7")), [0, 1, None, 0, 1, 1]),
        (yes_no(Clause("x", "missing")), [0, 0, 1, 0, 0, 0]),
        (yes_no(Clause("x", "is", "4")), [0, 1, None, 0, 0, 0]),
        (yes_no(Clause("dead", "is", "yes")), [1, 0, 0, 1, 0, 0]),
        (yes_no(Clause("dead", "is", "0")), [0, 1, 1, 0, 1, 1]),
        (yes_no(Clause("site", "is", "south")), [0, 1, 0, None, 0, 1]),
        (yes_no(Clause("site", "is_not", "south")), [1, 0, 1, None, 1, 0]),
        (yes_no(Clause("site", "contains", "north")), [1, 0, 0, None, 1, 0]),
        # What is not known does not matter where the other clause settles it.
        (yes_no(Clause("x", "above", "3"), Clause("y", "above", "3")), [0, 0, None, 1, 0, 1]),
        (yes_no(Clause("x", "above", "3"), Clause("y", "above", "3"), join="any"), [0, 1, 1, 1, None, 1]),
        (yes_no(Clause("x", "above", "3"), Clause("y", "above", "3"), join="none"), [1, 0, 0, 0, None, 0]),
        (ColumnRule("two", operation="sum", other="y"), [3.5, 4, None, 14, None, 10.5]),
        (ColumnRule("two", operation="ratio", other="y"), [0.75, None, None, 2.5, None, 2]),
        (ColumnRule("two", operation="percent_change", other="y"), [-25, None, None, 150, None, 100]),
        (ColumnRule("classes", cuts=(2.5, 7.0)), [1, 2, None, 3, 2, 3]),
        (ColumnRule("several", columns=("x", "y")), [1.75, 2, None, 7, None, 5.25]),
        (ColumnRule("several", columns=("x", "y"), statistic="max", complete=False), [2, 4, 5, 10, 2.5, 7]),
    ],
)
def test_a_rule_makes_what_it_says(small: Study, rule: ColumnRule, expected: list[float | None]) -> None:
    assert small.add_column("made", "x", rule) == "made"
    assert values(small, "made") == pytest.approx(expected, nan_ok=True)
    assert rule.sentence("x") in small.table["made"].reason


def test_parts_of_dates_and_joined_levels_have_words(small: Study) -> None:
    small.add_column("month", "day", ColumnRule("date", part="month"))
    small.add_column("weekday", "day", ColumnRule("date", part="weekday"))
    small.add_column("year", "day", ColumnRule("date", part="year"))
    assert values(small, "month") == [1, 2, 3, None, 12, 1] and values(small, "year") == [2026] * 3 + [None, 2025, 2026]
    assert small.table["weekday"].words_of_numbers[1] == "Monday" and values(small, "weekday")[0] == 1
    small.add_column("region", "site", ColumnRule("levels", levels=(("north-east", "east"), ("north", "cold"))))
    column = small.table["region"]
    named = [None if v is None else column.words_of_numbers[v] for v in values(small, "region")]
    assert named == ["cold", "south", "east", None, "east", "south"] and column.role is Role.ORDERED


def test_a_made_column_follows_its_sources_and_the_decisions(small: Study) -> None:
    small.add_column("ratio", "x", ColumnRule("two", operation="ratio", other="y"))
    small.add_column("high", "ratio", yes_no(Clause("ratio", "above", "1")))
    assert values(small, "high") == [0, None, None, 1, None, 1]
    small.decide(DecisionKind.EXCLUDE_VALUE, "y", [3])
    assert values(small, "ratio")[3] is None and values(small, "high")[3] is None
    small.decide(DecisionKind.CORRECT, "x", [0], value=20.0)
    assert values(small, "ratio")[0] == 10 and values(small, "high")[0] == 1
    small.undo()
    small.undo()
    assert values(small, "high") == [0, None, None, 1, None, 1]
    small.decide(DecisionKind.EXCLUDE_ROW, "x", [5])
    assert values(small, "ratio")[5] is None


def test_a_made_column_is_changed_taken_away_and_comes_back(small: Study) -> None:
    small.add_column("high", "x", yes_no(Clause("x", "above", "3")))
    small.change_column("high", "x", yes_no(Clause("x", "above", "9")))
    assert values(small, "high") == [0, 0, None, 1, 0, 0]
    small.add_column("class", "high", ColumnRule("classes", cuts=(0.5,), names=("low", "top")))
    with pytest.raises(CulvixError, match="class follows high"):
        small.drop_column("high")
    with pytest.raises(CulvixError, match="comes after it"):
        small.change_column("high", "class", yes_no(Clause("class", "is", "2")))
    small.drop_column("class")
    small.drop_column("high")
    assert "high" not in small.table
    small.undo()
    assert small.table["high"].derivation.rule.clauses[0].value == "9"


@pytest.mark.parametrize(
    ("source", "rule", "why"),
    [
        ("site", ColumnRule("classes", cuts=(1.0,)), "site has no numbers"),
        ("x", ColumnRule("two", other="nowhere"), "no column called nowhere"),
        ("x", ColumnRule("classes", cuts=(3.0, 2.0)), "in order"),
        ("x", ColumnRule("classes", cuts=(3.0,), names=("a", "b", "c")), "make 2 classes"),
        ("x", yes_no(), "at least one thing"),
        ("x", ColumnRule("several", columns=("x",)), "at least two columns"),
        ("x", yes_no(Clause("site", "above", "3")), "site has no numbers"),
        ("x", yes_no(Clause("x", "above", "three")), "three is no number"),
        ("x", yes_no(Clause("x", "between", "5", "2")), "wrong way round"),
        ("x", yes_no(Clause("site", "is", " ")), "Say what site is"),
        ("site", ColumnRule("date", part="month"), "cannot be read as dates"),
        ("site", ColumnRule("levels"), "at least one level"),
    ],
)
def test_what_cannot_be_made_is_refused_in_a_sentence(small: Study, source: str, rule: ColumnRule, why: str) -> None:
    with pytest.raises(CulvixError, match=why):
        small.add_column("made", source, rule)
    assert "made" not in small.table
    with pytest.raises(CulvixError, match="called x already"):
        small.add_column("x", "x", ColumnRule("classes", cuts=(2.0,)))


def test_made_columns_are_in_the_recipe_and_in_the_kept_study(small: Study, tmp_path: Path) -> None:
    small.add_column("ratio", "x", ColumnRule("two", operation="ratio", other="y"))
    small.add_column("region", "site", ColumnRule("levels", levels=(("north-east", "east"),)))
    applied = apply_recipe(recipe_of(small.workspace, small.history), small.table.source.path).study
    for name in ("ratio", "region"):
        assert np.array_equal(applied.table[name].values, small.table[name].values, equal_nan=True)
    assert applied.document.derivations == small.document.derivations


def test_made_columns_come_back_with_the_study(small: Study, tmp_path: Path) -> None:
    small.add_column("late", "day", ColumnRule("date", part="weekday"))
    small.add_column("odd", "x", yes_no(Clause("x", "between", "2", "5"), Clause("site", "contains", "th"), join="any"))
    path = tmp_path / "kept.culvix"
    write_study_copy(path, small.history, small.table.source.sha256, fingerprint_of(small.table))
    again = reopen(path)
    assert again.document.derivations == small.document.derivations
    for name in ("late", "odd"):
        assert np.array_equal(again.table[name].values, small.table[name].values, equal_nan=True)
    assert again.table["late"].words_of_numbers[1] == "Monday"
