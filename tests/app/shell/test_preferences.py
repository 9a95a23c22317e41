"""Conventions for new studies: seen, taken over and reset in one place; a study that exists stays as it is."""

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from culvix.app.shell.dialogs.preferences_dialog import PreferencesDialog
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.errors import ReadError
from culvix.study import ColumnSettings, Settings
from culvix.study.document.choices.settings import replaced
from culvix.study.storage.drafts import drafts
from culvix.study.storage.preferences import Preferences, load_preferences, reset_preferences, save_preferences
from tests.app.driving import opened

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture(autouse=True)
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A configuration folder and a state folder of its own."""
    for kind in ("CONFIG", "STATE"):
        monkeypatch.setenv(f"XDG_{kind}_HOME", str(tmp_path / kind))
    return tmp_path / "CONFIG/culvix"


def _dialog(window: MainWindow, monkeypatch: pytest.MonkeyPatch, click: str) -> dict[str, tuple[str, str]]:
    """What the dialog shows after a click on one of its buttons, by convention."""
    shown: dict[str, tuple[str, str]] = {}

    def exec_(dialog: PreferencesDialog) -> int:
        QTest.mouseClick(getattr(dialog, click), LEFT)
        table = dialog.table
        for row in range(table.rowCount()):
            name, *values = (table.item(row, column).text() for column in range(3))
            shown[name] = tuple(values)
        return 0

    monkeypatch.setattr(PreferencesDialog, "exec", exec_)
    window.opening.preferring.ask()
    return shown


def test_new_studies_begin_like_the_one_in_hand_once_that_is_asked_for(
    window: MainWindow, demo_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench, study = opened(window, demo_path)
    chosen = replaced(study.settings, quantile_type=6, alpha=0.01, decimals=3)
    study.change_settings(chosen.with_column("mass_g", ColumnSettings(bin_width=5.0)))
    study.sign("mo")
    shown = _dialog(window, monkeypatch, "take")
    assert shown["Level α"] == ("0.01", "0.01") and shown["Initials"] == ("mo", "mo")
    window.opening.open_path(demo_path.with_name("last_cohort.csv"))
    assert wait_until(lambda: window.bench is not bench and window.jobs.at_rest, 30)
    assert window.bench is not None
    after = window.bench.hub.study
    assert (after.settings.quantile_type, after.settings.alpha, after.settings.decimals) == (6, 0.01, 3)
    assert not after.settings.columns and after.document.initials == "mo"
    assert len(drafts()) == 1, "conventions alone are no work that a draft is begun for"


def test_resetting_brings_the_usual_ones_and_leaves_the_study_alone(
    window: MainWindow, demo_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    save_preferences(Preferences(replaced(Settings(), quantile_type=6), "mo"))
    _, study = opened(window, demo_path)
    assert study.settings.quantile_type == 6
    shown = _dialog(window, monkeypatch, "reset")
    assert "type 7" in shown["Quartiles and percentiles"][0] and "type 6" in shown["Quartiles and percentiles"][1]
    assert study.settings.quantile_type == 6 and load_preferences() == Preferences()


@pytest.mark.parametrize("content", ["", "7", "{", '{"settings": {"quantile_type": 44}}', "[" * 100_000])
def test_a_file_that_makes_no_sense_is_told_and_the_usual_conventions_are_used(
    window: MainWindow, demo_path: Path, folder: Path, content: str
) -> None:
    folder.mkdir(parents=True)
    (folder / "preferences.json").write_text(content)
    with pytest.raises(ReadError):
        load_preferences()
    _, study = opened(window, demo_path)
    assert study.settings == Settings()
    reset_preferences()
    assert load_preferences() == Preferences()
