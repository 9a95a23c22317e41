"""Recipes in the window: saved from a study, run on the next table, with what a person must look at."""

from pathlib import Path

import pytest
from PyQt6.QtWidgets import QFileDialog, QPushButton

from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.study import DecisionKind
from culvix.study.document.rules import between
from culvix.study.recipes.recipe_format import load_recipe
from tests.app.driving import opened, rest, words_of
from tests.study.recipes.making import decide_by_rule


@pytest.fixture
def recipe_path(window: MainWindow, demo_path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """The recipe of a study with one rule, saved from the menu."""
    path = tmp_path / "spring.recipe.json"
    _, study = opened(window, demo_path)
    decide_by_rule(study, "length_mm", between(None, 50.0), DecisionKind.CORRECT, factor=10.0)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    _triggered(window, "Save the recipe as …")
    assert wait_until(path.exists, 30)
    rest(window)
    return path


def _triggered(window: MainWindow, text: str) -> None:
    (action,) = (each for each in window.actions() if each.text() == text)
    action.trigger()


def _shown(window: MainWindow, name: str) -> None:
    def there() -> bool:
        bench = window.bench
        return bench is not None and bench.hub.study.table.source.name == name and window.jobs.at_rest

    assert wait_until(there, 60), window.text


def test_a_recipe_is_saved_from_the_menu(recipe_path: Path, window: MainWindow) -> None:
    assert [step.rule for step in load_recipe(recipe_path).steps] == [between(None, 50.0)]
    assert "Recipe saved as spring.recipe.json" in window.text


def test_what_is_other_in_the_next_table_stands_among_the_findings(
    recipe_path: Path, window: MainWindow, demo_path: Path
) -> None:
    window.opening.run_recipe(recipe_path, demo_path.with_name("last_cohort.csv"))
    _shown(window, "last_cohort.csv")
    # A header, a new name for it, and lengths in another unit; and the parasites.
    assert "4 things to look at" in window.text
    bench = window.bench
    assert bench is not None and bench.stage == "Survey"
    margin = bench.survey.margin
    assert wait_until(lambda: "parasite_count has 250 flagged values" in words_of(margin), 30)
    assert "“glucose”, which is new, may be the same" in words_of(margin) and "fork_length_mm has moved" in words_of(
        margin
    )
    # The rows of what is other than it was are one click away, and it can be noted.
    show = next(each for each in margin.findChildren(QPushButton) if each.text() == "Show")
    show.click()
    assert bench.hub.study.selection.rows.size == 250
    card = show.parentWidget()
    assert card is not None
    next(each for each in card.findChildren(QPushButton) if each.text() == "Noted").click()
    assert bench.hub.study.document.noted == (("open_flags_3", "parasite_count"),)


def test_a_recipe_on_its_own_table_makes_the_same_decisions_as_acts_of_their_own(
    recipe_path: Path, window: MainWindow, demo_path: Path
) -> None:
    before = window.bench
    assert before is not None
    rows = before.hub.study.decisions[0].rows.tolist()
    window.opening.run_recipe(recipe_path, demo_path)
    assert wait_until(lambda: window.bench is not before and window.jobs.at_rest, 60)
    assert window.bench is not None
    study = window.bench.hub.study
    assert [each.rows.tolist() for each in study.decisions] == [rows]
    study.undo()
    assert not study.decisions


def test_what_is_no_recipe_is_told_and_the_study_stays(window: MainWindow, demo_path: Path, tmp_path: Path) -> None:
    _, study = opened(window, demo_path)
    (tmp_path / "no.json").write_text("{}")
    window.opening.run_recipe(tmp_path / "no.json", demo_path)
    assert wait_until(lambda: "no.json is no recipe" in window.text, 20)
    assert window.bench is not None and window.bench.hub.study is study
