"""The section on groups: what was kept, worked out anew from the values in use."""

import pytest

from culvix.report.compose import compose
from culvix.report.parts import PictureBlock, Report, Sheet, TableBlock, figures_in, plain
from culvix.report.render_process import Drawing
from culvix.study import DecisionKind, Study
from culvix.study.document.choices.report_layout import SectionChoice
from culvix.study.document.kept_comparison import KeptComparison


def section(study: Study, level: str = "short") -> tuple[object, ...]:
    study.change_report(study.document.report.__class__(sections=(SectionChoice("groups", level),)))
    report: Report = compose(study.workspace, written="2026-05-01")
    (found,) = [each for each in report.sections if each.key == "groups"]
    return found.parts


def words(parts: tuple[object, ...]) -> str:
    texts = [part.text for part in parts if hasattr(part, "text")]
    texts += [each.text for part in parts if isinstance(part, Sheet) for each in part.parts if hasattr(each, "text")]
    return " ".join(map(plain, texts))


def test_nothing_stands_there_until_it_is_kept(study: Study) -> None:
    assert "No comparison of groups was kept" in words(section(study))
    kept = KeptComparison("growth_pct_day", "tank")
    study.keep_comparison(kept, True)
    study.keep_comparison(kept, True)
    assert study.document.comparisons == (kept,), "once is enough"
    study.keep_comparison(kept, False)
    assert not study.document.comparisons


def test_chosen_numbers_stand_in_the_report_and_methods_name_its_tests(study: Study, qapp: object) -> None:
    study.keep_comparison(KeptComparison("swim_cm_s", "strain"), True)
    study.change_view(groups_statistics=("cv", "l_scale", "unknown"))
    report = compose(study.workspace)
    by_key = {each.key: each for each in report.sections}
    assert "L-scale" in repr(by_key["groups"]) and "Groups were compared by Welch's t" in repr(by_key["methods"])
    layout = study.document.report.__class__(sections=(SectionChoice("groups", "short", shown=False),))
    study.change_report(layout)
    by_key = {each.key: each for each in compose(study.workspace).sections}
    assert "Groups were compared" not in repr(by_key["methods"])


def test_a_comparison_has_its_effect_test_numbers_and_picture(study: Study, qapp: object) -> None:
    study.keep_comparison(KeptComparison("growth_pct_day", "tank"), True)
    study.keep_comparison(KeptComparison("swim_cm_s", "length_mm", ranges=4, test="kruskal_wallis"), True)
    sheets = section(study)
    assert [sheet.title for sheet in sheets] == ["growth_pct_day by tank", "swim_cm_s by length_mm in 4 ranges"]
    assert "η² 0.799 (0.786 to 0.810)" in words(sheets[:1]) and "Welch's analysis of variance: p < 0.001" in words(
        sheets[:1]
    )
    assert "as chosen" in words(sheets[1:])
    (table,) = [part for part in sheets[0].parts if isinstance(part, TableBlock)]
    assert [plain(row[0]) for row in table.rows] == [*(f"T{k}" for k in range(1, 7)), "all groups"]
    (block,) = [part for part in sheets[0].parts if isinstance(part, PictureBlock)]
    svg = Drawing().draw(block)
    assert svg.startswith("<svg") and "growth" in svg and "T6" in svg


def test_figures_follow_the_decisions_and_a_column_that_is_gone_is_said(study: Study) -> None:
    study.keep_comparison(KeptComparison("swim_cm_s", "strain"), True)
    study.keep_comparison(KeptComparison("swim_cm_s", "nowhere"), True)
    before = {figure.key: figure.value for figure in figures_in(section(study))}
    rows = (study.table["strain"].text == "lake").arg_true().to_numpy()[:60]
    study.decide(DecisionKind.EXCLUDE_VALUE, "swim_cm_s", rows)
    parts = section(study)
    after = {figure.key: figure.value for figure in figures_in(parts)}
    assert before["groups/0/lake/n"] - after["groups/0/lake/n"] == 60
    assert after["groups/0/mean_difference"] == pytest.approx(before["groups/0/mean_difference"], rel=0.05)
    assert "there is no column nowhere any more" in words(parts)
