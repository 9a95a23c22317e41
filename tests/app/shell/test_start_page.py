"""The start page: what was worked on before, with pictures, and the example."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from culvix.app.shell.pages.start_card import StartCard
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.charts.items.sparkline import sparkline_from_json, sparkline_json, sparkline_of
from culvix.study import DecisionKind, Study
from culvix.study.storage.drafts import drafts
from culvix.study.storage.recents import recents
from tests.app.driving import opened, wait_until_idle

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture(autouse=True)
def state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A state folder of its own."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    return tmp_path / "state/culvix"


@pytest.fixture
def after_work(window: MainWindow, demo_path: Path, tmp_path: Path, themed: object) -> Iterator[MainWindow]:
    """The next start of the program after one draft was begun and one study saved."""
    last = demo_path.with_name("last_cohort.csv")
    for path in (last, demo_path):
        before = window.bench
        window.opening.open_path(path)
        assert wait_until(lambda before=before: window.bench is not before and window.jobs.at_rest, 30)
        window.bench.hub.study.decide(DecisionKind.KEEP, "length_mm", [3])
        wait_until_idle(window)
        if path is last:
            window.keeping.save_as(tmp_path / "last.culvix")
            wait_until_idle(window)
    assert wait_until(lambda: len(recents()) >= 2, 20)
    assert window.keeping.stop()
    made = MainWindow(QSettings(str(tmp_path / "next.ini"), QSettings.Format.IniFormat))
    made.resize(1280, 800)
    made.show()
    yield made
    made.close_anyway()
    made.deleteLater()


def _cards(window: MainWindow) -> dict[str, StartCard]:
    return {card.accessibleName(): card for card in window.opening.start.findChildren(StartCard)}


def test_the_page_offers_drafts_studies_and_tables(after_work: MainWindow) -> None:
    names = list(_cards(after_work))
    assert sum(", draft" in name or "· draft" in name for name in names) == 1
    assert sum("last.culvix" in name for name in names) == 1
    assert sum(name.startswith("spring_cohort.csv") for name in names) == 1
    assert sum(name.startswith("The example") for name in names) == 1


def test_a_card_opens_what_it_shows(after_work: MainWindow) -> None:
    card = next(card for name, card in _cards(after_work).items() if "last.culvix" in name)
    QTest.mouseClick(card, LEFT)
    assert wait_until(lambda: after_work.bench is not None and after_work.jobs.at_rest, 30), after_work.text
    assert len(after_work.bench.hub.study.decisions) == 1


def test_a_draft_is_taken_away_once_that_is_confirmed(after_work: MainWindow) -> None:
    buttons = after_work.opening.start.findChildren(QPushButton)
    remove = next(button for button in buttons if button.accessibleName() == "Take this draft away")
    QTest.mouseClick(remove, LEFT)
    assert len(drafts()) == 1 and "1 act would be gone for good" in after_work.text
    QTest.mouseClick(after_work.banner.action, LEFT)
    assert not drafts()
    assert wait_until(lambda: not any("· draft" in name for name in _cards(after_work)), 10)


def test_the_example_is_opened_as_a_study(window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    QTest.mouseClick(window.opening.start.example, LEFT)
    assert wait_until(lambda: window.bench is not None and window.jobs.at_rest, 60), window.text
    assert len(window.bench.hub.study.decisions) == 3
    assert window.strip.status.whole == "kept in spring_cohort.culvix"


def test_a_picture_is_the_same_after_it_was_written_and_read(study: Study) -> None:
    drawn = sparkline_of(study.workspace.analysis("mass_g"))
    assert drawn is not None
    column, again = sparkline_from_json(sparkline_json("mass_g", drawn))
    assert column == "mass_g" and again.heights == pytest.approx(drawn.heights, abs=1e-3)
    assert again.box == pytest.approx(drawn.box, abs=1e-4)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "7",
        "{}",
        '{"column": "a", "heights": [], "far": [], "box": null}',
        '{"column": "a", "heights": [1e300], "far": [], "box": null}',
        '{"column": "a", "heights": [NaN], "far": [], "box": null}',
        '{"column": "a", "heights": [1], "far": [], "box": [1, 2]}',
        "[" * 100_000,
    ],
)
def test_what_is_no_picture_is_left_out(text: str) -> None:
    assert sparkline_from_json(text) is None


def test_a_window_on_its_own_begins_with_the_example(window: MainWindow, demo_path: Path) -> None:
    (name,) = _cards(window)
    assert name.startswith("The example: a hatchery's spring cohort, 2 180 fish")
    opened(window, demo_path)
    assert not window.opening.start.isVisible()
