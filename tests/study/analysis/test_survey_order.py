"""In which order the lines of a survey stand."""

from pathlib import Path

import numpy as np
import pytest

from culvix.study import Study
from culvix.study.analysis.survey.order import BY_NAME, BY_WORST, SurveyOrder, ordered, signed_fields
from culvix.study.analysis.survey.sets import statistic_sets
from culvix.study.analysis.survey.survey import SurveyRow, survey_fields, survey_rows
from culvix.tables import read_table


@pytest.fixture
def rows(tmp_path: Path) -> list[SurveyRow]:
    draw = np.random.default_rng(5)
    right, even = np.exp(draw.normal(0, 1, 200)), draw.normal(0, 1, 200)
    codes = np.where(draw.random(200) < 0.1, -999.0, draw.normal(50, 5, 200))
    path = tmp_path / "t.csv"
    lines = [f"{a:.3f},{b:.3f},{-2 * a:.3f},{c:.1f},x" for a, b, c in zip(right, even, codes, strict=True)]
    path.write_text("right,even,Left,coded,word\n" + "\n".join(lines) + "\n")
    study = Study.of_table(read_table(path))
    for column in study.table.numeric:
        study.workspace.analysis(column.name)
    return survey_rows(study.workspace)


def names(rows: list[SurveyRow]) -> list[str]:
    return [row.column.name for row in rows]


def test_lines_stand_as_in_the_table_until_an_order_is_chosen(rows: list[SurveyRow]) -> None:
    assert ordered(rows, SurveyOrder()) == rows
    assert names(ordered(rows, SurveyOrder(BY_NAME))) == ["coded", "even", "Left", "right", "word"]


def test_by_size_the_sign_does_not_count_and_what_has_no_number_comes_last(rows: list[SurveyRow]) -> None:
    skewness = survey_fields()["skewness"].raw
    plain = ordered(rows, SurveyOrder("skewness", descending=True))
    assert names(plain)[0] == "right" and names(plain)[-1] == "word"
    sized = ordered(rows, SurveyOrder("skewness", descending=True, by_size=True))
    sizes = [abs(float(skewness(row))) for row in sized[:-1]]
    assert sizes == sorted(sizes, reverse=True) and names(sized).index("Left") < names(sized).index("even")
    assert names(sized)[-1] == "word"


def test_the_worst_are_those_with_probable_errors_then_those_with_most_open(rows: list[SurveyRow]) -> None:
    worst = ordered(rows, SurveyOrder(BY_WORST, descending=True))
    assert names(worst)[0] == "coded"
    badness = [(row.grave, len(row.findings)) for row in worst]
    assert badness == sorted(badness, reverse=True)


def test_statistics_about_zero_are_those_offered_by_size(rows: list[SurveyRow]) -> None:
    assert {"skewness", "excess_kurtosis", "l_skewness"} <= set(signed_fields())
    assert not {"sd", "n", "mean"} & set(signed_fields())


def test_every_set_names_statistics_that_there_are() -> None:
    sets = statistic_sets()
    assert all(fields and set(fields) <= set(survey_fields()) for fields in sets.values())
    assert set(sets["every statistic"]) == set(survey_fields())
