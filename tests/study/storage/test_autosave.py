"""A study keeps itself: every act is in its file soon after, and nothing of it is lost at the end."""

import threading
from pathlib import Path

import pytest

from culvix.errors import WriteError
from culvix.study import DecisionKind, Study
from culvix.study.document.history.history import History
from culvix.study.document.history.shared_sequence import SharedSequence
from culvix.study.storage.autosave import Autosave
from culvix.study.storage.drafts import drafts, new_draft
from culvix.study.storage.study_file import StudyFile
from culvix.study.storage.study_reading import read_study
from tests.study.document.random_studies import small_table

MASS = "mass_g"


@pytest.fixture
def study(tmp_path: Path) -> Study:
    return Study.of_table(small_table(tmp_path))


def test_acts_are_in_the_file_when_they_were_waited_for(study: Study, tmp_path: Path) -> None:
    path, heard = tmp_path / "fish.culvix", []
    autosave = Autosave(lambda history: StudyFile.create(path, history), study.history, heard.append)
    study.listen(lambda change: autosave.record(study.history))
    for row in range(25):
        study.decide(DecisionKind.KEEP, MASS, [row])
        if row % 10 == 0:
            assert autosave.wait(10)
            assert len(read_study(path).labels) == row + 1
    study.undo()
    assert autosave.close() and not heard
    found = read_study(path)
    assert (len(found.labels), found.cursor) == (25, 24)


def test_what_comes_while_it_writes_is_written_in_one_go(study: Study, tmp_path: Path) -> None:
    gate, written = threading.Event(), []

    class Slow(StudyFile):
        def record(self, history: History) -> None:
            written.append(len(history.labels))
            super().record(history)

    def opened(history: History) -> StudyFile:
        gate.wait(10)
        return Slow.create(tmp_path / "fish.culvix", history)

    autosave = Autosave(opened, study.history, written.append)
    for row in range(9):
        study.decide(DecisionKind.KEEP, MASS, [row])
        autosave.record(study.history)
    gate.set()
    assert autosave.close()
    assert written == [0, 9], "the first state, and the latest"


def test_a_place_that_cannot_be_written_is_told(study: Study) -> None:
    heard: list[str] = []

    def refused(history: History) -> StudyFile:
        raise WriteError("The disk is full.")

    autosave = Autosave(refused, study.history, heard.append)
    assert autosave.close() and heard == ["The disk is full."]


def test_a_fault_is_told_and_does_not_end_the_writing(study: Study, tmp_path: Path) -> None:
    heard: list[str] = []
    path, faults = tmp_path / "fish.culvix", [ZeroDivisionError("odd")]

    def opened(history: History) -> StudyFile:
        if faults:
            raise faults.pop()
        return StudyFile.create(path, history)

    autosave = Autosave(opened, study.history, heard.append)
    assert autosave.wait(10) and "ZeroDivisionError" in heard[0]
    study.decide(DecisionKind.KEEP, MASS, [0])
    autosave.record(study.history)
    assert autosave.close() and len(heard) == 1
    assert len(read_study(path).labels) == 1


def test_drafts_are_told_of_the_latest_first(study: Study, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    assert drafts() == []
    paths = []
    for acts in (1, 3):
        for row in range(acts):
            study.decide(DecisionKind.KEEP, MASS, [row])
        paths.append(new_draft("my/fish: 2"))
        StudyFile.create(paths[-1], study.history).close()
    (tmp_path / "state/culvix/drafts/odd.culvix").write_bytes(b"SQLite format 3\0 and no more")
    found = drafts()
    assert [draft.path for draft in found] == paths[::-1] and [draft.acts for draft in found] == [4, 1]
    assert found[0].name == "fish" and found[0].source.endswith("fish.csv")
    assert all(draft.path.parent == tmp_path / "state/culvix/drafts" for draft in found)


def test_a_sequence_that_went_on_leaves_the_shorter_ones_as_they_were() -> None:
    empty: SharedSequence[int] = SharedSequence()
    one = empty.with_more([1])
    two, other = one.with_more([2]), one.with_more([3, 4])
    assert (list(empty), list(one), list(two), list(other)) == ([], [1], [1, 2], [1, 3, 4])
    assert two.starts_with(one) and other.starts_with(one) and not other.starts_with(two) and not one.starts_with(two)
    assert (
        two == SharedSequence([1, 2]) and two != other and one[-1] == 1 and other[1:] == (3, 4) and other[::-1][0] == 4
    )
    with pytest.raises(IndexError):
        one[1]
    with pytest.raises(TypeError):
        hash(one)
