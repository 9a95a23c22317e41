"""Decisions by rule as conditions on the whole, counted by the engine that holds it."""

import json
from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.cli import main
from culvix.study import DecisionKind, Study
from culvix.study.document.rules import Rule, agreed, between, flagged_by
from culvix.study.storage.study_file import StudyFile
from culvix.study.whole.conditions import count_decisions
from culvix.tables import read_table
from culvix.tables.engines import open_engine
from culvix.tables.engines.edits import NumbersWhere, RowCount
from tests.study.recipes.making import decide_by_rule
from tests.tables.engines.servers import Server

DRAW = np.random.default_rng(8)
FRAME = pl.DataFrame(
    {"x": np.r_[DRAW.normal(50, 5, 4000).round(1), DRAW.uniform(100, 200, 60).round(1)], "k": range(4060)}
)


@pytest.fixture(params=["files", "server"])
def address(request: pytest.FixtureRequest, tmp_path: Path) -> dict[str, str]:
    if request.param == "files":
        FRAME.write_parquet(tmp_path / "whole.parquet")
        return {"address": str(tmp_path / "whole.parquet")}
    server: Server = request.getfixturevalue("postgres")
    server.load("judged", FRAME)
    return {"address": server.address(), "table": "judged"}


@pytest.fixture
def study(tmp_path: Path) -> Study:
    path = tmp_path / "sample.parquet"
    pl.concat([FRAME[:500], FRAME[-20:]]).write_parquet(path)
    return Study.of_table(read_table(path))


def test_rules_become_conditions_and_the_engine_counts_them(address: dict[str, str], study: Study) -> None:
    decide_by_rule(study, "x", between(100.0, None), DecisionKind.EXCLUDE_VALUE)
    study.decide(DecisionKind.EXCLUDE_ROW, "k", [7])
    engine = open_engine(**address)
    by_interval, single = count_decisions(engine, study.workspace)
    assert by_interval.rows == int((FRAME["x"] >= 100).sum()) and by_interval.sampled == 20
    assert "exclude value where x from 100: 60 rows of the whole" in by_interval.sentence
    assert single.where is None and "made on rows" in single.why
    engine.close()


def test_the_limits_of_a_method_are_those_of_the_sample(address: dict[str, str], study: Study) -> None:
    decide_by_rule(study, "x", flagged_by("iqr_fences"), DecisionKind.EXCLUDE_VALUE)
    limits = study.workspace.analysis("x").flags.results["iqr_fences"]
    (found,) = count_decisions(open_engine(**address), study.workspace)
    outside = (FRAME["x"] < limits.lower) | (FRAME["x"] > limits.upper)
    assert found.rows == int(outside.sum()) and found.rows >= 60


@pytest.mark.parametrize(("low", "high"), [(None, 50.0), (45.0, 50.0), (50.0, None), (1e9, None)])
@pytest.mark.parametrize("inside", [True, False])
def test_ends_belong_to_what_lies_between(
    address: dict[str, str], low: float | None, high: float | None, inside: bool
) -> None:
    where, x = NumbersWhere("x", low, high, inside, codes=(48.0,)), FRAME["x"].to_numpy()
    between_ends = (x >= (-np.inf if low is None else low)) & (x <= (np.inf if high is None else high))
    engine = open_engine(**address)
    found = engine.answer([RowCount(where)])[RowCount(where)]
    engine.close()
    assert found == int(((between_ends if inside else ~between_ends) & (x != 48.0)).sum())
    assert where.words.startswith("x ")


def test_agreement_is_no_condition(study: Study, tmp_path: Path) -> None:
    rule: Rule = agreed(2)
    decide_by_rule(study, "x", rule, DecisionKind.EXCLUDE_VALUE)
    FRAME.rename({"x": "other"}).write_parquet(tmp_path / "other.parquet")
    (found,) = count_decisions(open_engine(str(tmp_path / "other.parquet")), study.workspace)
    assert found.where is None and "have to agree" in found.why


def test_a_study_is_counted_on_the_whole_from_the_command_line(study: Study, tmp_path: Path) -> None:
    FRAME.rename({"k": "j"}).write_parquet(tmp_path / "whole.parquet")
    decide_by_rule(study, "x", between(100.0, None), DecisionKind.EXCLUDE_VALUE)
    decide_by_rule(study, "k", between(None, 3.0), DecisionKind.MISSING)
    file = StudyFile.create(tmp_path / "s.culvix", study.history)
    file.put_source(study.table.source.sha256)
    file.close()
    out = tmp_path / "out.json"
    assert main(["whole", str(tmp_path / "whole.parquet"), "--study", str(tmp_path / "s.culvix"), "-o", str(out)]) == 0
    first, other = json.loads(out.read_text())["decisions"]
    assert (first["rows_of_whole"], first["rows_of_sample"], first["condition"]) == (60, 20, "x from 100")
    assert other["rows_of_whole"] is None and "no such columns" in other["note"]


def test_a_rule_means_what_it_meant_when_it_was_made(address: dict[str, str], study: Study) -> None:
    decide_by_rule(study, "x", flagged_by("iqr_fences"), DecisionKind.EXCLUDE_VALUE)
    engine = open_engine(**address)
    (before,) = count_decisions(engine, study.workspace)
    study.begin_pass()
    (in_second_pass,) = count_decisions(engine, study.workspace)
    assert in_second_pass.rows == before.rows
    study.change_settings(study.settings.with_limit("iqr_fences", 5.0))
    (changed,) = count_decisions(engine, study.workspace)
    assert changed.where is None and "other rows" in changed.why
    engine.close()


@pytest.mark.parametrize("held", ["files", "server"])
def test_what_is_no_finite_number_is_beyond_no_limit(held: str, tmp_path: Path, request: pytest.FixtureRequest) -> None:
    frame = pl.DataFrame({"x": [1.0, 2.0, np.nan, np.inf, -np.inf, None, 9.0]})
    if held == "files":
        frame.write_parquet(tmp_path / "odd.parquet")
        engine = open_engine(str(tmp_path / "odd.parquet"))
    else:
        server: Server = request.getfixturevalue("postgres")
        server.load("odd", frame)
        engine = open_engine(server.address(), table="odd")
    above, outside, inside = (
        RowCount(NumbersWhere("x", *ends, inside=within))
        for *ends, within in ((2.0, None, True), (1.5, 3.0, False), (None, 3.0, True))
    )
    # Asked of an engine that knows nothing of its cells yet.
    assert engine.rows_beyond({"x": (1.5, 3.0)}, 10)["x"].to_list() == [1.0, 9.0]
    assert list(engine.answer([above, outside, inside]).values()) == [2, 2, 2]
    engine.close()
