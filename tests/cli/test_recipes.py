"""Recipes, cleaned tables and studies from the command line."""

import json
from pathlib import Path

import polars as pl
import pytest

from culvix.cli import main
from culvix.study import DecisionKind, Study
from culvix.study.document.rules import between
from culvix.study.storage.reopening import reopen
from culvix.study.storage.study_file import StudyFile
from culvix.tables import read_table
from tests.study.recipes.making import cells, decide_by_rule, fish


@pytest.fixture
def study_path(tmp_path: Path) -> Path:
    """The study of a small catch with a rule and a single decision, in a file."""
    table = fish(tmp_path)
    lengths = cells(table, "length_mm")
    study = Study.of_table(fish(tmp_path, length_mm=["19.0", "18.5", *lengths[2:]]))
    decide_by_rule(study, "length_mm", between(None, 50.0), DecisionKind.CORRECT, factor=10.0)
    study.decide(DecisionKind.EXCLUDE_ROW, "weight_g", [7])
    path = tmp_path / "june.culvix"
    file = StudyFile.create(path, study.history)
    file.put_source(study.table.source.sha256)
    file.close()
    return path


@pytest.fixture
def recipe_path(study_path: Path) -> Path:
    path = study_path.with_name("june.recipe.json")
    assert main(["recipe", str(study_path), "-o", str(path)]) == 0
    return path


def test_applying_to_the_same_table_gives_every_kind_of_file(recipe_path: Path, tmp_path: Path) -> None:
    names = ("out.culvix", "out.json", "out.csv", "out.parquet", "out.xlsx", "log.json")
    out = {name: tmp_path / name for name in names}
    wanted = [part for name in names[:-1] for part in ("-o", str(out[name]))]
    assert main(["apply", str(recipe_path), str(tmp_path / "fish.csv"), *wanted, "--log", str(out["log.json"])]) == 0
    assert [decision.rows.tolist() for decision in reopen(out["out.culvix"]).decisions] == [[0, 1], [7]]
    assert main(["profile", str(tmp_path / "june.culvix"), "-o", str(tmp_path / "before.json")]) == 0
    assert out["out.json"].read_bytes() == (tmp_path / "before.json").read_bytes()
    for frame in (pl.read_csv(out["out.csv"]), pl.read_parquet(out["out.parquet"]), pl.read_excel(out["out.xlsx"])):
        assert frame.height == 199 and frame["length_mm"][:2].to_list() == [190.0, 185.0]
    log = json.loads(out["log.json"].read_bytes())
    assert log["format"] == "culvix-apply-log/1" and not log["needs_a_look"]
    assert [step["rows"] for step in log["decisions"]] == [[1, 2], [8]]


def test_a_study_stands_for_its_recipe_and_for_its_table(recipe_path: Path, study_path: Path, tmp_path: Path) -> None:
    found = []
    for recipe in (recipe_path, study_path):
        for table in (tmp_path / "fish.csv", study_path):
            out = tmp_path / f"{len(found)}.csv"
            assert main(["apply", str(recipe), str(table), "-o", str(out)]) == 0
            found.append(out.read_bytes())
    assert len(set(found)) == 1


def test_the_same_command_again_writes_the_same_again(recipe_path: Path, tmp_path: Path) -> None:
    command = ["apply", str(recipe_path), str(tmp_path / "fish.csv"), "-o", str(tmp_path / "out.csv")]
    assert main(command) == 0
    first = (tmp_path / "out.csv").read_bytes()
    assert main(command) == 0
    assert (tmp_path / "out.csv").read_bytes() == first


def test_a_table_that_is_other_is_done_and_a_person_must_look(
    recipe_path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    july = fish(tmp_path, "july.csv", net=["harbour"] * 3 + ["north"] * 197).source.path
    log, out = tmp_path / "log.json", tmp_path / "july.out.csv"
    assert main(["apply", str(recipe_path), str(july), "-o", str(out), "--log", str(log)]) == 3
    said = capsys.readouterr().err.splitlines()
    assert "culvix: net has 1 level never seen before, in 3 rows: “harbour”." in said
    (found,) = (each for each in json.loads(log.read_bytes())["discrepancies"] if each["kind"] == "new_level")
    assert found["rows"] == [1, 2, 3] and f"culvix: {found['sentence']}" in said
    assert pl.read_csv(out).height == 199


@pytest.mark.parametrize(
    "arguments",
    [
        ["RECIPE", "nowhere.csv"],
        ["FISH", "FISH"],
        ["RECIPE", "FISH", "-o", "out.docx9"],
        ["RECIPE", "FISH", "-o", "FISH"],
        ["RECIPE", "FISH", "-o", "nowhere/out.csv"],
        ["RECIPE", "FISH", "--log", "RECIPE"],
    ],
)
def test_what_cannot_be_done_ends_with_one_line(
    recipe_path: Path, tmp_path: Path, arguments: list[str], capsys: pytest.CaptureFixture[str]
) -> None:
    before = (tmp_path / "fish.csv").read_bytes(), recipe_path.read_bytes()
    named = {"RECIPE": str(recipe_path), "FISH": str(tmp_path / "fish.csv")}
    assert main(["apply", *(named.get(each, each) for each in arguments)]) == 2
    printed = capsys.readouterr()
    assert printed.err.startswith("culvix: ") and printed.err.count("\n") == 1
    assert ((tmp_path / "fish.csv").read_bytes(), recipe_path.read_bytes()) == before


def test_a_study_is_cleaned_by_its_decisions(study_path: Path, tmp_path: Path) -> None:
    out = tmp_path / "clean.csv"
    assert main(["clean", str(study_path), "-o", str(out)]) == 0
    frame = pl.read_csv(out)
    assert frame.height == 199 and frame["row"].to_list()[:9] == [1, 2, 3, 4, 5, 6, 7, 9, 10]
    assert frame["length_mm"][0] == 190.0


def test_a_table_is_cleaned_of_nothing(study_path: Path, tmp_path: Path) -> None:
    out = tmp_path / "clean.parquet"
    assert main(["clean", str(tmp_path / "fish.csv"), "-o", str(out)]) == 0
    assert pl.read_parquet(out)["weight_g"].to_list() == read_table(tmp_path / "fish.csv")["weight_g"].values.tolist()


def test_a_cleaned_table_is_not_written_as_a_report(study_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["clean", str(study_path), "-o", "clean.html"]) == 2
    assert "clean.html" in capsys.readouterr().err
