"""The style of pictures is set beside a preview, kept in the study, and undone like any act."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from culvix.app.shell.window import MainWindow
from culvix.study.document.choices.picture_style import PictureStyle
from tests.app.driving import opened, wait_until_idle


def test_a_style_is_previewed_kept_and_undone(window: MainWindow, demo_path: Path, tmp_path: Path) -> None:
    bench, study = opened(window, demo_path)
    button = bench.shape.stage.picture_button
    seen: list[tuple[int, int]] = []

    def with_the_form_open() -> None:
        popup = QApplication.activePopupWidget()
        fields = button.style_fields
        fields.grid.click()
        fields.palette.setCurrentIndex(2)
        fields.palette.activated.emit(2)
        button.width_field.setValue(200)
        button.height_field.setValue(100)
        button.show_preview()
        shown = button.preview.pixmap().size()
        seen.append((shown.width(), shown.height()))
        popup.close()

    QTimer.singleShot(0, with_the_form_open)
    QTest.keySequence(window, "Ctrl+P")
    wait_until_idle(window)
    assert study.settings.picture_style == PictureStyle(palette="greys", grid=True)
    assert seen[0][0] / seen[0][1] == pytest.approx(2.0, rel=0.02), "at its true proportions"
    assert "the style of pictures" in study.history.acts[-1].label and "greys" in study.history.acts[-1].label
    button.title.setText("Lengths at release")
    button.form.setCurrentText("SVG")
    button.save(tmp_path / "p.svg")
    assert "Lengths at release" in (tmp_path / "p.svg").read_text()
    study.undo()
    wait_until_idle(window)
    assert study.settings.picture_style == PictureStyle() and not button.style_fields.grid.isChecked()


def test_the_probe_stands_in_a_picture_where_that_is_wished(
    window: MainWindow, demo_path: Path, tmp_path: Path
) -> None:
    bench, _ = opened(window, demo_path)
    button = bench.shape.stage.picture_button
    bench.shape.stage.probe.move(200.0)
    sizes = []
    for wished in (False, True):
        if wished:
            button.style_fields.probe.click()
            wait_until_idle(window)
        button.form.setCurrentText("SVG")
        button.save(tmp_path / f"{wished}.svg")
        sizes.append((tmp_path / f"{wished}.svg").read_text().lower().count("#7a4e7e"))
    assert sizes[0] == 0 and sizes[1] > 0
