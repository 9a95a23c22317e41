"""The layout of a report: a part of the document, ordered as chosen, refused where it makes no sense."""

from dataclasses import replace
from pathlib import Path

import pytest

from culvix.errors import CulvixError, StatisticsError
from culvix.study import Study
from culvix.study.carrying.fingerprint import fingerprint_of
from culvix.study.document.choices.report_layout import OwnText, ReportLayout, SectionChoice
from culvix.study.document.document_format import decode_document, encode_document, section_of
from culvix.study.storage.reopening import reopen
from culvix.study.storage.study_file import write_study_copy
from culvix.tables import Table

LAYOUT = ReportLayout(
    title="Trout & “salmon”",
    author="mo",
    columns="picked",
    picked=("mass_g",),
    sections=(SectionChoice("open", "full"), SectionChoice("source", shown=False)),
    texts=(OwnText("open", "Ask the keeper."),),
    summary=("One.", "Two."),
)


def test_it_is_written_and_read_with_the_document_and_its_study(demo_table: Table, tmp_path: Path) -> None:
    study = Study.of_table(demo_table)
    study.change_report(LAYOUT)
    assert decode_document(encode_document(study.document)).report == LAYOUT
    path = tmp_path / "trout.culvix"
    write_study_copy(path, study.history, demo_table.source.sha256, fingerprint_of(demo_table))
    again = reopen(path)
    assert again.document.report == LAYOUT and again.history.labels[-1] == "change the report"
    again.undo()
    assert again.document.report == ReportLayout()


def test_chosen_sections_come_first_and_no_other_is_lost() -> None:
    usual = tuple(SectionChoice(key) for key in ("summary", "source", "columns", "open"))
    ordered = LAYOUT.ordered(usual)
    assert [each.key for each in ordered] == ["open", "source", "summary", "columns"]
    assert [each.level for each in ordered] == ["full", "short", "short", "short"]
    unknown = replace(LAYOUT, sections=(SectionChoice("weather"), SectionChoice("open")))
    assert [each.key for each in unknown.ordered(usual)] == ["open", "summary", "source", "columns"]


def test_words_of_ones_own_are_put_changed_and_taken_away() -> None:
    layout = ReportLayout().with_text("source", "First.").with_text("", "Before all.").with_text("source", "Second.")
    assert (layout.text_after("source"), layout.text_after(""), layout.text_after("open")) == (
        "Second.",
        "Before all.",
        "",
    )
    assert layout.with_text("source", " \n").with_text("", "") == ReportLayout()


def test_what_makes_no_sense_is_refused() -> None:
    with pytest.raises(StatisticsError, match="line, short, full"):
        SectionChoice("open", "long")
    with pytest.raises(StatisticsError, match="all, reviewed, decided, picked"):
        ReportLayout(columns="best")
    with pytest.raises(StatisticsError, match="20 000"):
        OwnText("open", "x" * 20_001)
    with pytest.raises(CulvixError):
        section_of("report", {"sections": [{"key": "open", "level": "huge"}]})
