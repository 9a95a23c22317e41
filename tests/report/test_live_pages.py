"""The pages of a report as they are looked at: what stands where, what is made again, and what is remembered."""

from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from culvix.report.compose import compose
from culvix.report.context import Remembered
from culvix.report.formats.pages import HEIGHT, WIDTH
from culvix.report.live_pages import LiveReport, live_report
from culvix.report.parts import Paragraph, PictureBlock, Report, Section, Sheet, TableBlock, plain
from culvix.report.remembered_pictures import RememberedPictures
from culvix.report.render_process import Drawing
from culvix.study import DecisionKind, Study
from culvix.study.document.choices.report_layout import ReportLayout
from culvix.tables import Role, read_table
from culvix.tables.cells.dates import DAY_FIRST, MONTH_FIRST
from culvix.tables.model.dictionary import ColumnEntry
from tests.report.rendering import draw


@pytest.fixture
def live(qtbot: QtBot, study: Study) -> LiveReport:
    study.change_report(ReportLayout(title="Spring").with_text("column/mass_g", "Weighed wet.").with_text("", "Draft."))
    return live_report(compose(study.workspace), draw)


def test_every_part_has_its_place_on_a_page_and_none_lies_over_another(live: LiveReport) -> None:
    assert 8 <= len(live.pages) <= 14
    for page in live.pages:
        rooms = [zone.room for zone in page.zones]
        assert all(0 < room.left() < room.right() < WIDTH for room in rooms)
        assert all(0 < room.top() < room.bottom() < HEIGHT for room in rooms)
        assert all(above.bottom() <= below.top() + 0.01 for above, below in pairwise(rooms))
    parts = [zone.part for page in live.pages for zone in page.zones]
    tables = [part for part in parts if isinstance(part, TableBlock)]
    # A table that goes on has a place on each of its pages.
    assert len({id(table) for table in tables}) >= 3 and len(parts) > 60


def test_sections_sheets_and_own_words_are_found(live: LiveReport) -> None:
    first, columns, sheet = (live.place_of(each) for each in ("summary", "columns", "column/mass_g"))
    assert first is not None and columns is not None and sheet is not None and first < columns < sheet
    assert live.place_of("nothing") is None
    own = [z for page in live.pages for z in page.zones if isinstance(z.part, Paragraph) and z.part.kind == "own"]
    assert [(zone.after, plain(zone.part.text)) for zone in own if isinstance(zone.part, Paragraph)] == [
        ("", "Draft."),
        ("column/mass_g", "Weighed wet."),
    ]


def test_what_did_not_change_is_not_worked_out_again(study: Study) -> None:
    remembered = Remembered()
    asked: list[str] = []

    def of(report_of: Study) -> None:
        compose(report_of.workspace, remembered=remembered, progress=lambda _, doing: asked.append(doing))

    of(study)
    assert any("comparing" in doing or "pairs" in doing for doing in asked) and any(
        "analysing" in each for each in asked
    )
    before = remembered.get("relations", (study.working,), lambda: "made anew")
    asked.clear()
    study.change_report(replace(study.document.report, title="Another"))
    of(study)
    assert remembered.get("relations", (study.working,), lambda: "made anew") is before != "made anew"
    study.decide(DecisionKind.EXCLUDE_VALUE, "length_mm", [3, 4])
    of(study)
    assert remembered.get("relations", (study.working,), lambda: "made anew") is not before


def test_a_picture_is_drawn_once_and_again_when_it_is_another(study: Study) -> None:
    drawn: list[str] = []

    def count_and_draw(block: PictureBlock) -> str:
        drawn.append(block.name)
        return draw(block)

    pictures = RememberedPictures(count_and_draw)

    def pictured() -> None:
        blocks: list[PictureBlock] = []
        compose(study.workspace, pictured=blocks.append)
        for block in blocks:
            assert pictures.draw(block) == draw(block)

    pictured()
    many = len(drawn)
    assert many == len(set(drawn)) >= 15
    pictured()
    assert len(drawn) == many
    study.decide(DecisionKind.EXCLUDE_VALUE, "length_mm", np.array([3, 4]))
    pictured()
    assert drawn[many:] == ["lanes/length_mm"]


def test_bars_and_gaps_are_drawn_as_vectors(qtbot: QtBot, study: Study) -> None:
    blocks: list[PictureBlock] = []
    compose(study.workspace, pictured=blocks.append)
    named = {block.name: block for block in blocks}
    drawing = Drawing()
    bars, gaps = drawing.draw(named["bars/tank"]), drawing.draw(named["missing"])
    assert all(f">{tank}<" in bars.replace("\n", "") for tank in ("T1", "T6")) and "<rect" in bars + gaps
    assert "glucose_mmol_l" in gaps and "82" in gaps


def test_bars_in_a_report_count_missing_cells_among_all_rows(qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    kinds = ["sand"] * 30 + ["silt"] * 15 + [""] * 5
    path.write_text("bed,depth\n" + "".join(f"{kind},{row / 7:.3f}\n" for row, kind in enumerate(kinds)))
    blocks: list[PictureBlock] = []
    compose(Study.of_table(read_table(path)).workspace, pictured=blocks.append)
    drawn = Drawing().draw(next(block for block in blocks if block.name == "bars/bed"))
    assert "5 · 10.0 % of all rows" in drawn and "30 · 66.7 % · so far 66.7 %" in drawn


def test_a_line_that_leads_to_what_follows_does_not_end_a_page(qtbot: QtBot) -> None:
    words = Paragraph(("One line of words.",))
    for before in range(30, 70):
        parts = (*[words] * before, Paragraph(("Between columns and rows:",)), Paragraph(("What follows.",)))
        live = live_report(Report("A report", (), (Section("s", "Section", parts),)), draw)
        for page in live.pages[:-1]:
            last = page.zones[-1].part
            assert isinstance(last, Paragraph) and not plain(last.text).endswith(":")


def test_dates_stand_in_the_order_that_was_declared(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    # All of them can be read both ways.
    path.write_text("seen,depth\n" + "".join(f"0{k % 9 + 1}/0{k // 9 + 2}/2026,{k / 7:.2f}\n" for k in range(63)))
    study = Study.of_table(read_table(path))

    def told() -> str:
        blocks: list[PictureBlock] = []
        report = compose(study.workspace, pictured=blocks.append)
        (section,) = [each for each in report.sections if each.key == "columns"]
        sheet = next(part for part in section.parts if isinstance(part, Sheet) and part.anchor == "seen")
        return next(plain(part.text) for part in sheet.parts if isinstance(part, Paragraph))

    study.edit_column("seen", ColumnEntry(role=Role.DATE, date_order=DAY_FIRST))
    assert "2026-02-01 to 2026-08-09" in told()
    study.edit_column("seen", ColumnEntry(role=Role.DATE, date_order=MONTH_FIRST))
    assert "2026-01-02 to 2026-09-08" in told()
