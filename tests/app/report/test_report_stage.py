"""The Report stage: what is chosen is on the pages, own words are written in place, and parts are copied and saved."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.app.report.outline_pane import OutlinePane
from culvix.app.report.stage import ReportStage
from culvix.app.session.hub import Hub
from culvix.app.shell.start import wait_until
from culvix.report.live_pages import Zone
from culvix.report.parts import Paragraph, PictureBlock, TableBlock, plain
from culvix.report.remembered_pictures import RememberedPictures
from tests.report.rendering import draw

KEY = Qt.Key


@pytest.fixture
def stage(qtbot: QtBot, themed: QApplication, hub: Hub) -> ReportStage:
    made = ReportStage(hub, RememberedPictures(draw))
    made.resize(900, 700)
    qtbot.addWidget(made)
    made.show()
    assert wait_until(lambda: made.pages.live is not None and hub.jobs.at_rest, 60)
    return made


def settle(stage: ReportStage) -> None:
    """Wait until the pages show the study as it stands."""
    assert wait_until(lambda: stage.hub.jobs.at_rest, 60)


def zones(stage: ReportStage) -> list[tuple[int, int, Zone]]:
    assert stage.pages.live is not None
    pages = stage.pages.live.pages
    return [(page, at, zone) for page, each in enumerate(pages) for at, zone in enumerate(each.zones)]


def choose(stage: ReportStage, kind: type, after: str = "") -> Zone:
    """Choose the first part of a kind, in a section or sheet where one is named."""
    page, at, zone = next(
        found for found in zones(stage) if isinstance(found[2].part, kind) and found[2].after.startswith(after)
    )
    stage.pages.choose((page, at))
    return zone


def titles(stage: ReportStage) -> list[str]:
    assert stage.pages.live is not None
    return [section.title for section in stage.pages.live.report.sections]


def test_pages_show_what_is_done_elsewhere(stage: ReportStage) -> None:
    assert stage.position.text().startswith("page 1 of ")
    stage.hub.study.set_reviewed("length_mm", True)
    settle(stage)
    assert stage.pages.live is not None
    words = " ".join(plain(part.text) for _, _, z in zones(stage) if isinstance((part := z.part), Paragraph))
    assert "12 numeric columns not reviewed" in words
    before = stage.pages.live
    stage.request_refresh()
    settle(stage)
    assert stage.pages.live is before, "nothing changed, nothing is made anew"


def test_the_outline_orders_leaves_out_and_sizes_sections(stage: ReportStage, qtbot: QtBot) -> None:
    outline = OutlinePane(stage.hub)
    qtbot.addWidget(outline)
    outline.show()
    outline.sections.tick("relations", False)
    settle(stage)
    assert "Relations" not in titles(stage) and "Columns" in titles(stage)
    names = outline.sections.list
    names.setCurrentRow(outline.sections.order.index("columns"))
    outline.level.setCurrentIndex(0)
    outline.level.activated.emit(0)
    settle(stage)
    assert stage.pages.live is not None and len(stage.pages.live.pages) <= 5
    assert "Columns (in a line)" in [names.item(k).text() for k in range(names.count())]  # type: ignore[union-attr]
    names.setCurrentRow(outline.sections.order.index("methods"))
    for _ in range(4):
        QTest.keyClick(names, KEY.Key_Up, Qt.KeyboardModifier.ControlModifier)
    settle(stage)
    assert titles(stage).index("Methods and conventions") < titles(stage).index("Columns")
    outline.usual.click()
    settle(stage)
    assert titles(stage).index("Methods and conventions") > titles(stage).index("Columns")
    stage.hub.study.undo()
    settle(stage)
    assert titles(stage).index("Methods and conventions") < titles(stage).index("Columns")


def test_title_and_columns_are_taken_over_from_the_outline(stage: ReportStage, qtbot: QtBot) -> None:
    outline = OutlinePane(stage.hub)
    qtbot.addWidget(outline)
    outline.show()
    outline.fields["author"].setText(" A. Nalyst ")
    outline.fields["author"].editingFinished.emit()
    outline.columns.setCurrentIndex(3)
    outline.columns.activated.emit(3)
    settle(stage)
    assert outline.picked.isVisibleTo(outline)
    outline.picked.column_toggled.emit("mass_g", True)
    settle(stage)
    assert stage.pages.live is not None and stage.pages.live.report.about[0].startswith("by A. Nalyst")
    assert {z.after for _, _, z in zones(stage) if z.after.startswith("column/")} == {"column/mass_g"}
    outline.fields["title"].setText("Unfinished")
    outline.finish()
    assert stage.hub.study.document.report.title == "Unfinished"


def test_own_words_are_written_where_they_stand(stage: ReportStage) -> None:
    choose(stage, PictureBlock, "column/length_mm")
    QTest.keyClick(stage.pages, KEY.Key_Return)
    assert not stage.words.isHidden() and stage.words.toPlainText() == ""
    stage.words.setPlainText("Second board.\n\nSee the log.")
    QTest.keyClick(stage.words, KEY.Key_Return, Qt.KeyboardModifier.ControlModifier)
    settle(stage)
    own = [z for _, _, z in zones(stage) if isinstance(z.part, Paragraph) and z.part.kind == "own"]
    assert [plain(z.part.text) for z in own if isinstance(z.part, Paragraph)] == ["Second board.", "See the log."]
    assert {z.after for z in own} == {"column/length_mm"}
    choose(stage, Paragraph, "column/length_mm")
    stage.write()
    stage.words.setPlainText("Never mind")
    QTest.keyClick(stage.words, KEY.Key_Escape)
    assert stage.hub.study.document.report.text_after("column/length_mm").startswith("Second board.")
    stage.hub.study.undo()
    settle(stage)
    assert not stage.hub.study.document.report.texts


def test_sentences_of_the_first_page_are_put_otherwise_and_back(stage: ReportStage, qtbot: QtBot) -> None:
    zone = next(z for z in zones(stage) if z[2].after == "summary" and not z[2].heads)
    stage.pages.choose(zone[:2])
    stage.write()
    lines = stage.words.toPlainText().split("\n")
    assert 5 <= len(lines) <= 10 and lines[0].startswith("The table has 2")
    stage.words.setPlainText("All is well.\n\nTrust it.")
    stage.words.finish()
    assert stage.hub.study.document.report.summary == ("All is well.", "Trust it.")
    outline = OutlinePane(stage.hub)
    qtbot.addWidget(outline)
    outline.show()
    outline.own_summary.click()
    assert stage.hub.study.document.report.summary == ()


def test_a_part_is_copied_as_rich_text_as_plain_text_and_as_a_picture(stage: ReportStage) -> None:
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    choose(stage, TableBlock, "quality")
    stage.copy()
    settle(stage)
    found = clipboard.mimeData()
    assert found is not None and "<table" in found.html() and "glucose_mmol_l\t23\t" in found.text()
    choose(stage, PictureBlock, "column/length_mm")
    stage.copy()
    settle(stage)
    found = clipboard.mimeData()
    assert found is not None and found.hasImage() and "data:image/png;base64," in found.html()


def test_a_table_and_a_picture_are_saved_as_files(stage: ReportStage, tmp_path: Path) -> None:
    choose(stage, TableBlock, "quality")
    assert stage.bar.save.isVisibleTo(stage.bar)
    stage.save_part(tmp_path / "gaps.csv")
    choose(stage, PictureBlock)
    stage.save_part(tmp_path / "p.svg")
    settle(stage)
    assert (tmp_path / "gaps.csv").read_text().startswith("Column,Missing,Share") and (tmp_path / "p.svg").exists()
    choose(stage, Paragraph)
    assert not stage.bar.save.isVisibleTo(stage.bar)


def test_keys_walk_the_parts_and_turn_the_pages(stage: ReportStage) -> None:
    pages = stage.pages
    QTest.keyClick(pages, KEY.Key_Down)
    QTest.keyClick(pages, KEY.Key_Down)
    assert pages.chosen_part == (0, 1) and pages.accessibleDescription()
    for _ in range(len(zones(stage)) - 2):
        QTest.keyClick(pages, KEY.Key_Down)
    assert pages.live is not None and pages.page >= len(pages.live.pages) - 2
    QTest.keyClick(pages, KEY.Key_Home)
    QTest.keyClick(pages, KEY.Key_PageDown)
    assert pages.page == 1
    QTest.keyClick(pages, KEY.Key_Escape)
    assert pages.zone is None and stage.bar.isHidden()


def test_the_column_in_focus_and_the_sheet_in_view_go_together(stage: ReportStage) -> None:
    stage.hub.set_focus("glucose_mmol_l")
    assert stage.pages.live is not None
    place = stage.pages.live.place_of("column/glucose_mmol_l")
    assert place is not None and stage.pages.page in (place[0], place[0] + 1)
    choose(stage, PictureBlock, "column/mass_g")
    assert stage.hub.focus == "mass_g"


def test_pages_are_drawn_at_the_size_they_are_shown(stage: ReportStage, tmp_path: Path) -> None:
    wide = stage.pages.scale
    stage.zoom.setCurrentText("whole page")
    stage.zoom.activated.emit(1)
    settle(stage)
    assert stage.pages.scale < wide
    picture = stage.pages.grab().toImage()
    inside = [picture.pixelColor(x, 120).lightness() for x in range(picture.width() // 2 - 60, picture.width() // 2)]
    assert max(inside) == 255
    settings = QSettings(str(tmp_path / "l.ini"), QSettings.Format.IniFormat)
    stage.remember(settings)
    stage.pages.set_zoom("200 %")
    stage.recall(settings)
    assert stage.pages.zoom == "whole page"


def test_a_report_that_was_stopped_is_begun_anew(stage: ReportStage) -> None:
    study = stage.hub.study
    study.set_reviewed("mass_g", True)
    assert wait_until(lambda: stage.hub.jobs.running("putting the report on pages"), 5, pause=1, still=1)
    stage.hub.jobs.cancel_loud()
    assert stage.position.text().startswith("stopped")
    stage.hide()
    stage.show()
    settle(stage)
    assert stage.position.text().startswith("page 1 of ")


def test_the_part_chosen_stays_the_same_when_others_move(stage: ReportStage) -> None:
    zone = choose(stage, PictureBlock, "column/mass_g")
    study = stage.hub.study
    study.change_report(study.document.report.with_text("column/length_mm", "\n\n".join(["Words."] * 30)))
    settle(stage)
    now = stage.pages.zone
    assert now is not None and now is not zone and isinstance(now.part, PictureBlock) and now.after == "column/mass_g"
    study.change_report(study.document.report.with_text("column/length_mm", ""))
    stage.pages.choose(None)
    settle(stage)
    assert stage.pages.zone is None
