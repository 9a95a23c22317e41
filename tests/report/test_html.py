"""The report as HTML: what it names, what it says was decided, and by which conventions."""

import re
from collections import Counter
from dataclasses import replace
from html import unescape
from types import MappingProxyType

import numpy as np
import pytest

from culvix.demo import Cohort
from culvix.errors import Cancelled
from culvix.report.compose import compose
from culvix.report.context import ReportContext
from culvix.report.parts import PictureBlock, Sheet
from culvix.report.sections import SECTIONS
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study import Cause, DecisionKind, Settings, Study
from culvix.study.document.choices.report_layout import LEVELS, ReportLayout, SectionChoice
from culvix.study.pictures.bars import BarsPicture
from culvix.tables import Role, Table
from culvix.tables.model.dictionary import ColumnEntry
from tests.report.rendering import html_of

LENGTH, MASS = "length_mm", "mass_g"


@pytest.fixture(scope="module")
def usual(demo_table: Table) -> str:
    return unescape(html_of(Study.of_table(demo_table).workspace))


def words_of(html: str) -> str:
    """What stands between the tags, blanks made one."""
    return " ".join(re.sub(r"<[^>]+>", " ", unescape(html)).split())


def test_every_section_and_every_column_has_its_place(usual: str, demo_table: Table) -> None:
    assert demo_table.source.sha256 in usual and demo_table.source.name in usual
    assert "The whole table" not in usual, "it is no sample of one"
    places = [usual.index(f"<h2>{row.title}</h2>") for key, row in SECTIONS.items() if key != "whole"]
    assert places == sorted(places)
    sheets = re.findall(r"<h3>(\w+) ", usual)
    assert sheets == [column.name for column in demo_table if column.role is not Role.IDENTIFIER]
    pictured = Counter(re.findall(r"<!-- (\w+) -->", usual))
    one_each = {"MissingPicture": 1, "PairPicture": 1, "MatrixPicture": 1}
    assert pictured == {"ShapePicture": 11, "BarsPicture": 5, **one_each}


def test_only_methods_that_were_used_are_named(usual: str) -> None:
    used = usual[usual.index("Methods used") :]
    assert "Shapiro–Wilk" in used and "Tukey 1977" in used and "Spearman" in used
    for key in ("grubbs", "hampel", "adjusted_fences"):
        assert OUTLIER_METHODS[key].name not in used


def test_the_first_page_says_what_matters_with_its_numbers(demo_table: Table, cohort: Cohort) -> None:
    study = Study.of_table(demo_table)
    rows = [row - 1 for row in cohort.planted("unit_cm").rows]
    study.decide(DecisionKind.CORRECT, LENGTH, rows, cause=Cause.ENTRY, reason="in cm", factor=10)
    study.decide(DecisionKind.KEEP, MASS, [3, 4], reason="")
    study.set_reviewed(LENGTH, True)
    (listing,) = compose(study.workspace).sections[0].parts
    text = words_of(html_of(study.workspace))
    assert 5 <= len(listing.items) <= 12
    assert "1 of 13 numeric columns has been reviewed" in text
    assert f"2 decisions stand: 0 values out of use, {len(rows)} corrected, 2 looked at and kept." in text
    assert "1 of these decisions have no reason written down" in text
    before, after = (study.table[LENGTH].sample, study.workspace.working.sample(study.table[LENGTH]))
    assert f"mean goes from {before.moments.mean:.2f} to {after.moments.mean:.2f} mm" in text
    study.change_report(ReportLayout(summary=("All is well <really>.",)))
    text = html_of(study.workspace)
    assert "All is well &lt;really&gt;." in text and "decisions stand" not in text


def test_decisions_stand_with_rows_values_methods_and_reason(demo_table: Table, cohort: Cohort) -> None:
    study = Study.of_table(demo_table)
    rows = [row - 1 for row in cohort.planted("unit_cm").rows]
    study.decide(DecisionKind.CORRECT, LENGTH, rows, cause=Cause.ENTRY, reason="in <cm>, see sheet 4", factor=10)
    study.decide(DecisionKind.KEEP, LENGTH, [5])
    study.decide(DecisionKind.EXCLUDE_ROW, "oxygen_mg_l", [5], reason="probe broken")
    study.undo()
    html = html_of(study.workspace)
    assert "entry: in &lt;cm&gt;, see sheet 4" in html and "correct ×10" in html
    assert "probe broken" not in html, "a decision that was undone is not in force"
    first, cell = rows[0], demo_table[LENGTH].cell(rows[0])
    assert f"{demo_table['tag'].cell(first)} (row {first + 1}): {cell} → {10 * float(cell):.1f}" in html
    assert "What was looked at and kept" in html and "unknown: no reason given" in html.replace("not known", "unknown")
    chance = re.search(r'data-key="column/length_mm/flags/z_score/by_chance">([\d.]+)<', html)
    assert chance and 4 < float(chance[1]) < 8, "0.27 % of 2 174"


def test_a_swap_shows_both_cells(demo_table: Table) -> None:
    study = Study.of_table(demo_table)
    study.decide(DecisionKind.CORRECT, LENGTH, [7], swapped=MASS, reason="changed places")
    length, mass = (demo_table[name].cell(7) for name in (LENGTH, MASS))
    html = unescape(html_of(study.workspace))
    assert f"{LENGTH} {length} → {mass}" in html.replace(".00", "") and f"{MASS} {mass} → {length}" in html


def test_sections_are_ordered_left_out_and_as_full_as_was_chosen(demo_table: Table) -> None:
    study = Study.of_table(demo_table)
    chosen = (SectionChoice("relations", "line"), SectionChoice("quality", shown=False))
    layout = ReportLayout(title="Trout", author="A. Nalyst", addressee="the board", date="2026-05-01", sections=chosen)
    layout = replace(layout.with_text("relations", "One.\n\nTwo & three."), columns="picked", picked=(MASS,))
    study.change_report(layout)
    html = html_of(study.workspace)
    heads = re.findall(r"<h2>([^<]+)</h2>", html)
    assert heads[0] == "Relations" and "Quality of the table" not in heads and heads[1] == "In short"
    assert "<h1>Trout</h1>" in html and "by A. Nalyst, for the board, 2026-05-01" in html
    assert html.count("PairPicture") == 0 and re.findall(r"<h3>(\w+) ", html) == [MASS]
    assert html.index("Two &amp; three.") < html.index("In short</h2>")
    study.undo()
    assert study.document.report == ReportLayout()


@pytest.mark.parametrize("level", LEVELS)
def test_each_level_says_more_than_the_one_before(level: str, demo_table: Table) -> None:
    study = Study.of_table(demo_table)
    study.change_report(ReportLayout(sections=tuple(SectionChoice(key, level) for key in SECTIONS)))
    figures = len(compose(study.workspace).figures)
    least = {"line": 100, "short": 250, "full": 900}[level]
    assert least <= figures <= 4 * least


def test_a_report_can_be_cancelled(demo_table: Table) -> None:
    def stop(share: float, doing: str) -> None:
        if share > 0.3:
            raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        compose(Study.of_table(demo_table).workspace, progress=stop)


def test_conventions_in_the_report_are_those_in_force(demo_table: Table) -> None:
    settings = Settings(alpha=0.01, quantile_type=6, closed="right").with_limit("iqr_fences", 3.0)
    text = words_of(html_of(Study.of_table(demo_table, settings).workspace))
    for message in ("a level of 0.01", "exclusive, (n+1)p (type 6)", "limit 3 IQRs beyond the quartiles; Tukey 1977"):
        assert message in text


def test_ordered_codes_are_told_by_their_words_and_shares(demo_table: Table) -> None:
    study = Study.of_table(demo_table)
    words = MappingProxyType({"0": "whole", "4": "worn away"})
    study.edit_column("fin_score", ColumnEntry(role=Role.ORDERED, words=words))
    (section,) = [each for each in compose(study.workspace).sections if each.key == "columns"]
    (sheet,) = [part for part in section.parts if isinstance(part, Sheet) and part.anchor == "fin_score"]
    bars = next(part.picture for part in sheet.parts if isinstance(part, PictureBlock))
    values = demo_table["fin_score"].sample.values
    assert isinstance(bars, BarsPicture) and [bar.rows for bar in bars.bars] == np.bincount(values.astype(int)).tolist()
    assert [bars.bars[0].name, bars.bars[-1].name] == ["0 whole", "4 worn away"]
    assert "median 1 " in words_of(html_of(study.workspace))


def test_questions_are_counted_though_what_was_worked_out_is_no_longer_kept(demo_table: Table) -> None:
    workspace = Study.of_table(demo_table).workspace
    context = ReportContext(workspace, ReportLayout())
    for column in demo_table.numeric:
        context.analysis(column.name)
    workspace.cache.follow(())
    assert all(workspace.known_analysis(column.name) is None for column in demo_table.numeric)
    asked = Counter(each.finding.column for each in context.questions)
    assert asked == {name: len(context.open_of(name)) for name in asked} and asked.total() > 15
