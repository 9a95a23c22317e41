"""Whatever was done in a study, and whatever became of its table: work is taken over, or told, never a fault."""

from pathlib import Path

import pytest
from hypothesis import given, settings

from culvix.errors import CulvixError
from culvix.study import Study
from culvix.study.carrying.fingerprint import fingerprint_of
from culvix.study.carrying.source_changes import changes_of_source
from culvix.study.carrying.to_changed_source import to_changed_source
from culvix.study.recipes.applying import apply_to_table
from culvix.study.recipes.recipe import recipe_of
from culvix.study.recipes.recipe_format import decode_recipe, encode_recipe
from culvix.tables import Table, read_table
from tests.study.document.random_studies import Step, small_table, steps, taken


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    return small_table(tmp_path_factory.mktemp("any"))


@pytest.fixture(scope="module")
def others(table: Table, tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    """The table by now: rows gone, a column under another name, turned round with a new one, emptied, of texts."""
    head, *body = table.source.path.read_text().splitlines()
    versions = (
        [head, *body[4:20]],
        [head.replace("mass_g", "mass"), *body],
        [f"{head},x", *(f"{line},1" for line in reversed(body))],
        [head, *(f"T9,,{line.split(',')[2]}" for line in body)],
        [head, "T0,x,y"],
    )
    folder = tmp_path_factory.mktemp("others")
    paths = [folder / f"{position}.csv" for position in range(len(versions))]
    for path, lines in zip(paths, versions, strict=True):
        path.write_text("\n".join(lines) + "\n")
    return paths


@settings(max_examples=12)
@given(done=steps())
def test_a_recipe_makes_single_decisions_again_where_they_were_made(table: Table, done: list[Step]) -> None:
    study = taken(Study.of_table(table), done)
    applied = apply_to_table(decode_recipe(encode_recipe(recipe_of(study.workspace, study.history))), table)
    if all(decision.rule is None for decision in study.decisions):
        found, before = (
            [(each.kind, each.column, each.rows.tolist(), each.pass_number) for each in decisions]
            for decisions in (applied.study.decisions, study.decisions)
        )
        assert found == before


@settings(max_examples=12)
@given(done=steps())
def test_a_study_is_taken_over_to_whatever_became_of_its_table(
    table: Table, others: list[Path], done: list[Step]
) -> None:
    study = taken(Study.of_table(table), done)
    fingerprint, decided = fingerprint_of(study.table), [each.rows.size for each in study.decisions]
    for path in others:
        now = read_table(path, dictionary=study.dictionary)
        over = to_changed_source(study.history, now, changes_of_source(fingerprint, now))
        lost = [each for each in over.document.discrepancies if each.kind == "decision"]
        # Every row that was decided on is decided on still, or told of by itself.
        assert sum(each.rows.size for each in over.decisions) + len(lost) == sum(decided)
        for at in range(len(over.history.labels) + 1):
            try:
                over.go_to(at)
            except CulvixError as error:
                assert error.sentence
        for column in over.table.numeric:
            over.workspace.analysis(column.name)
