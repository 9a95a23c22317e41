"""Nothing is asked and nothing is lost: a study keeps itself, and is there again as it was left."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from culvix.app.shell.controllers import keeping as keeping_module
from culvix.app.shell.copy_question import CopyQuestion
from culvix.app.shell.pages.start_card import StartCard
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.errors import WriteError
from culvix.stats.shape.transform import Scale
from culvix.study import DecisionKind
from culvix.study.storage.drafts import drafts
from culvix.study.storage.source_record import has_source
from culvix.study.storage.study_reading import opened_study, read_study
from culvix.tables.model.options.extent import Extent
from culvix.tables.model.options.read_options import ReadOptions
from tests.app.driving import opened, press, wait_until_idle, words_of

LENGTH = "length_mm"


@pytest.fixture(autouse=True)
def state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A state folder of its own."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    return tmp_path / "state"


@pytest.fixture
def next_window(tmp_path: Path, themed: object, state: Path) -> Iterator[MainWindow]:
    """Another start of the program, made when it is asked for."""
    made: list[MainWindow] = []

    def start() -> MainWindow:
        made.append(MainWindow(QSettings(str(tmp_path / "next.ini"), QSettings.Format.IniFormat)))
        made[0].resize(1280, 800)
        made[0].show()
        return made[0]

    yield start
    for window in made:
        window.close_anyway()
        window.deleteLater()


def test_a_draft_begins_with_the_first_act(window: MainWindow, demo_path: Path) -> None:
    _, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Outliers"))
    wait_until_idle(window)
    assert not drafts() and not window.strip.status.isVisible(), "looking at a table leaves nothing behind"
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    assert window.strip.status.whole == "kept as a draft"
    assert wait_until(lambda: len(drafts()) == 1, 20)
    (draft,) = drafts()
    assert draft.name == "spring cohort" and read_study(draft.path).labels == ("keep: length_mm, 1 row",)


def test_closing_asks_nothing_and_everything_is_there_again(
    window: MainWindow, demo_path: Path, next_window: object
) -> None:
    bench, study = opened(window, demo_path)
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [3, 4], reason="net torn")
    study.set_valid_range(LENGTH, (80.0, 400.0))
    study.decide(DecisionKind.KEEP, "mass_g", [0])
    bench.hub.set_focus("mass_g")
    window.acting.show_stage(STAGES.index("Outliers"))
    QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    figures = study.workspace.analysis(LENGTH).figures
    study.select([5, 9], "looked at", column="mass_g")
    window.close()
    assert not window.isVisible() and not window.text
    again = next_window()
    (button,) = (card for card in again.opening.start.findChildren(StartCard) if "· draft" in card.accessibleName())
    button.click()
    assert wait_until(lambda: again.bench is not None and again.jobs.at_rest, 30), again.text
    found = again.bench.hub.study
    assert found.selection.cells["mass_g"].tolist() == [5, 9] and found.selection.origin == "looked at"
    assert again.bench.stage == "Outliers" and again.bench.hub.focus == "mass_g"
    assert (found.history.labels, found.history.cursor) == (study.history.labels, 2)
    assert found.workspace.analysis(LENGTH).figures == figures and found.workspace.bounds(LENGTH) == (80.0, 400.0)
    QTest.keySequence(again, "Ctrl+Y")
    wait_until_idle(again)
    assert found.decisions[-1].column == "mass_g" and "kept as a draft" in again.strip.status.whole
    again.close()
    assert read_study(drafts()[0].path).cursor == 3


def test_a_source_that_is_gone_stops_no_writing(window: MainWindow, demo_path: Path, tmp_path: Path) -> None:
    source = tmp_path / "fish.csv"
    source.write_bytes(demo_path.read_bytes())
    _, study = opened(window, source)
    source.unlink()
    for row in range(3):
        study.decide(DecisionKind.KEEP, LENGTH, [row])
    assert window.keeping.stop() and window.keeping.is_safe and not window.text
    assert len(read_study(drafts()[0].path).labels) == 3


def test_another_table_is_opened_without_a_question(window: MainWindow, demo_path: Path, tmp_path: Path) -> None:
    other = tmp_path / "other.csv"
    other.write_text("depth,flow\n" + "".join(f"{k}.5,{k * k}\n" for k in range(30)))
    bench, study = opened(window, demo_path)
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    window.opening.open_requested(other)
    assert wait_until(lambda: window.bench is not bench and window.jobs.at_rest, 30)
    assert not window.strip.status.isVisible() and len(read_study(drafts()[0].path).labels) == 1
    window.opening.open_requested(drafts()[0].path)
    assert wait_until(lambda: window.bench.hub.study.decisions and window.jobs.at_rest, 30)
    assert window.bench.hub.study.table.source.path == demo_path


def test_a_study_gets_a_place_and_keeps_itself_there(
    window: MainWindow, demo_path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    _, study = opened(window, demo_path)
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    path = tmp_path / "my fish.culvix"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", staticmethod(lambda *_, **__: (str(path.with_suffix("")), "")))
    QTest.keySequence(window, "Ctrl+Shift+S")
    assert "my fish.culvix" in window.text and window.strip.status.whole == "kept in my fish.culvix"
    assert not drafts(), "the draft has moved"
    study.decide(DecisionKind.KEEP, LENGTH, [1])
    assert wait_until(lambda: len(read_study(path).labels) == 2, 20)
    window.saving.save_report(demo_path)
    wait_until_idle(window)
    window.keeping.save_as(demo_path)
    assert "place of its source" in window.text and window.keeping.path == path


def test_a_source_that_changed_is_told_and_nothing_is_touched(
    window: MainWindow, tmp_path: Path, demo_path: Path
) -> None:
    source = tmp_path / "fish.csv"
    source.write_bytes(demo_path.read_bytes())
    _, study = opened(window, source)
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    path = tmp_path / "fish.culvix"
    window.keeping.save_as(path)
    window.keeping.stop()
    before = path.read_bytes()
    text = source.read_text()
    source.write_text(text.replace("1", "2", 1))
    bench = window.bench
    window.opening.open_requested(path)
    assert wait_until(lambda: bool(window.text) and window.jobs.at_rest, 30)
    assert "has changed since this study was kept" in window.text and window.bench is bench
    source.unlink()
    window.banner.hide()
    window.opening.open_requested(path)
    assert wait_until(lambda: bool(window.text) and window.jobs.at_rest, 30)
    assert "nor beside the study" in window.text and path.read_bytes() == before
    moved = tmp_path / "moved"
    moved.mkdir()
    (moved / "fish.csv").write_text(text)
    (moved / "fish.culvix").write_bytes(before)
    window.opening.open_requested(moved / "fish.culvix")
    assert wait_until(lambda: window.bench is not bench and window.jobs.at_rest, 30), window.text
    assert window.bench.hub.study.table.source.path == moved / "fish.csv"


def test_a_source_that_moved_is_asked_for_once(
    window: MainWindow, tmp_path: Path, demo_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    source, path = tmp_path / "fish.csv", tmp_path / "study" / "fish.culvix"
    path.parent.mkdir()
    source.write_bytes(demo_path.read_bytes())
    bench, study = opened(window, source)
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    window.keeping.save_as(path)
    assert window.keeping.stop()
    (tmp_path / "elsewhere").mkdir()
    moved = source.rename(tmp_path / "elsewhere" / "catch.csv")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(moved), ""))
    window.opening.open_requested(path)
    assert wait_until(lambda: window.banner.action.isVisible() and window.jobs.at_rest, 30), window.text
    assert window.banner.action.text() == "Choose the file …"
    QTest.mouseClick(window.banner.action, Qt.MouseButton.LeftButton)
    assert wait_until(lambda: window.bench is not bench and window.jobs.at_rest, 30), window.text
    assert window.bench is not None and window.bench.hub.study.decisions
    assert window.keeping.stop()
    again = window.bench
    window.opening.open_requested(path)
    assert wait_until(lambda: window.bench is not again and window.jobs.at_rest, 30), window.text
    assert window.bench.hub.study.table.source.path == moved


def test_a_study_is_taken_over_to_its_changed_source_with_all_that_fits(
    window: MainWindow, tmp_path: Path, demo_path: Path
) -> None:
    source, path = tmp_path / "fish.csv", tmp_path / "fish.culvix"
    source.write_bytes(demo_path.read_bytes())
    bench, study = opened(window, source)
    tags = [study.table["tag"].cell(row) for row in (7, 12)]
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [7, 12])
    window.keeping.save_as(path)
    assert window.keeping.stop()
    lines = source.read_text().splitlines()
    source.write_text("\n".join([lines[0], *(line for line in lines[1:] if not line.startswith(tags[0]))]) + "\n")
    window.opening.open_requested(path)
    assert wait_until(lambda: window.banner.action.isVisible() and window.jobs.at_rest, 30), window.text
    assert "told apart by tag" in window.text and window.banner.action.text() == "Take it over"
    QTest.mouseClick(window.banner.action, Qt.MouseButton.LeftButton)
    assert wait_until(lambda: window.bench is not bench and window.jobs.at_rest, 30), window.text
    assert window.bench is not None
    now = window.bench.hub.study
    assert [now.table["tag"].cell(row) for row in now.decisions[0].rows.tolist()] == tags[1:]
    assert wait_until(lambda: "(row 8) was not taken over: its row is gone" in words_of(window.bench.survey.margin), 30)
    assert window.strip.status.whole == "kept as a draft" and len(read_study(path).current.decisions[0].rows) == 2


@pytest.mark.parametrize("with_history", [True, False])
@pytest.mark.parametrize("with_source", [True, False])
def test_a_copy_holds_what_was_ticked(
    window: MainWindow,
    demo_path: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    with_history: bool,
    with_source: bool,
) -> None:
    _, study = opened(window, demo_path)
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [4])
    copy = tmp_path / "copy.culvix"

    def answered(question: CopyQuestion) -> int:
        question.history.setChecked(with_history)
        question.source.setChecked(with_source)
        return 1

    monkeypatch.setattr(CopyQuestion, "exec", answered)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(copy.with_suffix("")), ""))
    window.keeping.ask_copy()
    assert wait_until(lambda: "A copy of the study" in window.text and window.jobs.at_rest, 30), window.text
    found = read_study(copy)
    assert len(found.labels) == (2 if with_history else 0) and len(found.current.decisions) == 2
    with opened_study(copy) as (connection, _):
        assert has_source(connection) is with_source
    assert window.strip.status.whole == "kept as a draft", "the study goes on living where it lives"


def test_a_copy_never_takes_the_place_of_study_or_source(window: MainWindow, demo_path: Path, tmp_path: Path) -> None:
    _, study = opened(window, demo_path)
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    own, before = tmp_path / "own.culvix", demo_path.read_bytes()
    window.keeping.save_as(own)
    for path in (own, demo_path):
        window.keeping.save_copy(path)
        assert "is in use by this study" in window.text
    wait_until_idle(window)
    assert demo_path.read_bytes() == before


def test_a_study_that_is_open_already_is_left_to_the_other_window(
    window: MainWindow, next_window: object, demo_path: Path, tmp_path: Path
) -> None:
    _, study = opened(window, demo_path)
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    path = tmp_path / "own.culvix"
    window.keeping.save_as(path)
    wait_until_idle(window)
    other = next_window()
    other.opening.open_path(path)
    assert wait_until(lambda: other.bench is not None and other.jobs.at_rest, 30), other.text
    assert "own.culvix is open in another window" in other.text and not other.strip.status.isVisible()
    other.bench.hub.study.decide(DecisionKind.KEEP, LENGTH, [5])
    assert other.strip.status.whole == "kept as a draft"
    assert other.keeping.stop() and window.keeping.stop()
    assert len(read_study(path).labels) == 1, "each window writes to its own file"
    (draft,) = drafts()
    assert len(read_study(draft.path).labels) == 2, "with the whole history"


def test_a_study_in_a_place_that_cannot_be_written_goes_on_as_a_draft(
    window: MainWindow, demo_path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench, study = opened(window, demo_path)
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    path = tmp_path / "own.culvix"
    window.keeping.save_as(path)
    window.keeping.stop()
    before = path.read_bytes()
    monkeypatch.setattr(keeping_module.os, "access", lambda *_: False)
    window.opening.open_path(path)
    assert wait_until(lambda: window.bench is not bench and window.jobs.at_rest, 30), window.text
    assert "own.culvix stands where nothing can be written" in window.text
    window.bench.hub.study.undo()
    assert window.strip.status.whole == "kept as a draft"
    assert window.keeping.stop() and path.read_bytes() == before
    assert len(read_study(drafts()[0].path).labels) == 1


def test_where_nothing_can_be_kept_it_is_told_and_asked_about(
    window: MainWindow, demo_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    _, study = opened(window, demo_path)

    def refused(name: str) -> Path:
        raise WriteError("The folder of drafts cannot be made.")

    monkeypatch.setattr(keeping_module, "new_draft", refused)
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    assert "cannot be made. What is done from now on is not kept" in window.text
    assert window.strip.status.whole == "not kept"
    QTest.keySequence(window, "Ctrl+Q")
    assert window.isVisible() and "1 decision would be lost" in window.text
    press(window, "Stay here")
    assert window.isVisible()
    window.close()
    press(window, "Quit all the same")
    assert not window.isVisible()


def test_what_was_taken_over_to_another_reading_is_kept_at_once(window: MainWindow, demo_path: Path) -> None:
    _, study = opened(window, demo_path)
    study.derive(LENGTH, Scale("sqrt"))
    study.set_reviewed(LENGTH, True)
    assert wait_until(lambda: len(drafts()) == 1, 20)
    window.opening.read_again(ReadOptions(extent=Extent(last=500)))
    assert wait_until(lambda: window.bench.hub.study is not study and window.jobs.at_rest, 30)
    assert wait_until(lambda: len(drafts()) == 2, 20), "the one before stays what it was"
    document = read_study(drafts()[0].path).current
    assert document.reviewed == (LENGTH,) and list(document.derivations) == ["sqrt_length_mm"]
    assert document.origin.options.extent.last == 500
