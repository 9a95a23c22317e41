"""The list of files opened lately, and what is told of a study before it is opened."""

import json
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from culvix.errors import WriteError
from culvix.study import DecisionKind, Study
from culvix.study.storage.autosave import Autosave
from culvix.study.storage.drafts import drafts, is_draft, new_draft, remove_draft, remove_empty_drafts
from culvix.study.storage.listing import study_summaries
from culvix.study.storage.recents import forget, recents, remember
from culvix.study.storage.study_file import StudyFile
from tests.study.document.random_studies import small_table


@pytest.fixture(autouse=True)
def state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A state folder of its own."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    return tmp_path / "state/culvix"


def _files(folder: Path, *names: str) -> list[Path]:
    paths = [folder / name for name in names]
    for path in paths:
        path.write_text("a\n1\n")
    return paths


def test_the_latest_comes_first_and_each_once(tmp_path: Path) -> None:
    june, july = _files(tmp_path, "june.csv", "july.csv")
    for path in (june, july, june):
        remember(path, ["picture of " + path.name])
    assert [each.path for each in recents()] == [june, july]
    assert recents()[0].sparklines == ("picture of june.csv",)
    assert datetime.now(UTC) - recents()[0].opened < timedelta(minutes=1)


def test_what_is_gone_or_forgotten_is_not_listed(tmp_path: Path) -> None:
    june, july = _files(tmp_path, "june.csv", "july.csv")
    remember(june)
    remember(july)
    june.unlink()
    assert [each.path for each in recents()] == [july]
    forget(july)
    assert not recents()


def test_a_list_has_an_end(tmp_path: Path) -> None:
    paths = _files(tmp_path, *(f"{number}.csv" for number in range(20)))
    for path in paths:
        remember(path)
    assert [each.path for each in recents()] == paths[:-13:-1]


@pytest.mark.parametrize("damage", ["", "{", "7", "[7]", '[{"path": "x"}]', '[{"path": 4, "opened": "now"}]'])
def test_a_damaged_list_is_an_empty_one(state: Path, damage: str) -> None:
    state.mkdir(parents=True)
    (state / "recent.json").write_text(damage)
    assert recents() == []


def test_a_state_folder_that_cannot_be_written_is_no_trouble(state: Path, tmp_path: Path) -> None:
    state.parent.mkdir()
    state.write_text("a file stands where the folder should")
    (june,) = _files(tmp_path, "june.csv")
    remember(june)
    assert recents() == []


def _draft(folder: Path, decided: bool) -> Path:
    study, path = Study.of_table(small_table(folder)), new_draft("fish")
    if decided:
        study.decide(DecisionKind.EXCLUDE_VALUE, "mass_g", [1, 2])
    file = StudyFile.create(path, study.history)
    file.put_sparklines([json.dumps({"column": "mass_g"})])
    file.close()
    return path


def test_a_summary_tells_what_is_in_a_study(tmp_path: Path) -> None:
    (found,) = study_summaries([_draft(tmp_path, True), tmp_path / "none.culvix"])
    assert (found.name, found.acts, found.decisions) == ("fish", 1, 1)
    assert found.source.endswith("fish.csv") and found.sparklines == ('{"column": "mass_g"}',)


def test_old_drafts_without_an_act_go_and_others_stay(tmp_path: Path) -> None:
    empty, decided = _draft(tmp_path, False), _draft(tmp_path, True)
    now = datetime.now(UTC)
    assert remove_empty_drafts(now + timedelta(days=13)) == 0
    assert remove_empty_drafts(now + timedelta(days=15)) == 1
    assert [each.path for each in drafts()] == [decided] and not empty.exists()


def test_only_drafts_are_taken_away(tmp_path: Path) -> None:
    draft = _draft(tmp_path, True)
    elsewhere = draft.rename(tmp_path / "mine.culvix")
    assert not is_draft(elsewhere)
    with pytest.raises(WriteError):
        remove_draft(elsewhere)
    assert elsewhere.exists()


def test_what_is_done_besides_comes_after_the_acts(tmp_path: Path) -> None:
    study, path = Study.of_table(small_table(tmp_path)), tmp_path / "fish.culvix"
    autosave = Autosave(lambda history: StudyFile.create(path, history), study.history, lambda _: None)
    study.decide(DecisionKind.KEEP, "mass_g", [4])
    autosave.record(study.history)
    autosave.also(lambda file: file.put_sparklines(["late"]))
    assert autosave.close()
    (found,) = study_summaries([path])
    assert found.acts == 1 and found.sparklines == ("late",)
