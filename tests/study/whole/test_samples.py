"""A sample as a file: it holds what it is one of and the survey of the whole, which stands beside it."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.errors import ReadError
from culvix.report.compose import compose
from culvix.study import Study
from culvix.study.whole.beside_sample import beside_sample
from culvix.study.whole.samples import SampleOf, draw_sample, sample_file, whole_of
from culvix.study.whole.survey import WholeSurvey, survey_whole
from culvix.study.whole.whole_document import survey_of_document, whole_document
from culvix.tables import read_table
from culvix.tables.engines import open_engine
from tests.study.whole.test_survey import hostile


@pytest.fixture(scope="module")
def whole(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, WholeSurvey, Path]:
    """The file of a whole, its survey, and the file of a sample."""
    folder = tmp_path_factory.mktemp("whole")
    draw = np.random.default_rng(4)
    frame = pl.DataFrame({"mass_g": draw.gamma(2, 30, 20_000).round(2), "tank": draw.choice(["a", "b"], 20_000)})
    frame.write_parquet(folder / "all.parquet")
    engine = open_engine(str(folder / "all.parquet"))
    survey = survey_whole(engine)
    rows, about = draw_sample(engine, SampleOf(1000, 5))
    (folder / "sample.parquet").write_bytes(sample_file(rows, about, survey))
    return folder / "all.parquet", survey, folder / "sample.parquet"


def test_a_survey_is_read_back_as_it_was_written(tmp_path: Path) -> None:
    hostile().write_parquet(tmp_path / "a.parquet")
    survey = survey_whole(open_engine(str(tmp_path / "a.parquet")))
    document = whole_document(survey)
    again = survey_of_document(document)
    assert whole_document(again) == document
    np.testing.assert_array_equal(again.r, survey.r)
    assert [each.numbers and each.numbers.quantiles for each in again.columns] == [
        each.numbers and dict(each.numbers.quantiles) for each in survey.columns
    ]
    with pytest.raises(ReadError, match="no survey"):
        survey_of_document({**document, "format": "something/1"})
    with pytest.raises(ReadError, match="damaged"):
        survey_of_document({**document, "columns": {"x": {}}})


def test_the_file_of_a_sample_holds_the_whole(whole: tuple[Path, WholeSurvey, Path], tmp_path: Path) -> None:
    every, survey, sample = whole
    found = whole_of(sample)
    assert found is not None and whole_document(found) == whole_document(survey)
    assert whole_of(every) is None and whole_of(tmp_path / "nowhere.parquet") is None
    (tmp_path / "a.csv").write_text("x\n1\n")
    assert whole_of(tmp_path / "a.csv") is None


def test_figures_of_the_whole_stand_beside_those_of_the_sample(whole: tuple[Path, WholeSurvey, Path]) -> None:
    every, survey, sample = whole
    workspace = Study.of_table(read_table(sample)).workspace
    analysis, values = workspace.analysis("mass_g"), pl.read_parquet(every)["mass_g"].to_numpy()
    column = survey.of("mass_g")
    assert column is not None and column.numbers is not None
    limits = {each.method: each for each in column.numbers.beyond}
    x = analysis.sample.values
    flagged = {key: int(((x < each.low) | (x > each.high)).sum()) for key, each in limits.items()}
    found = {each.name: each for each in beside_sample(column, analysis.description, analysis.style, flagged)}
    error = values.std(ddof=1) / np.sqrt(1000)
    assert found["mean"].off == pytest.approx((x.mean() - values.mean()) / error)
    deviations = values - values.mean()
    fourth = (deviations**4).mean()
    of_sd = np.sqrt((fourth - values.var() ** 2) / (4 * values.var() * 1000))
    assert found["SD"].off == pytest.approx((x.std(ddof=1) - values.std(ddof=1)) / of_sd, rel=0.02)
    share = ((values < limits["iqr"].low) | (values > limits["iqr"].high)).mean()
    assert f"{100 * share:.2f}" in found["> 1.5 IQR"].whole
    assert found["median"].error == "" and found["n"].whole.replace("\u202f", "") == "20000"


def test_the_report_of_a_sample_has_the_whole_and_no_other_has(whole: tuple[Path, WholeSurvey, Path]) -> None:
    every, survey, sample = whole
    report = compose(Study.of_table(read_table(sample)).workspace)
    (section,) = [each for each in report.sections if each.key == "whole"]
    (column,) = [each for each in survey.columns if each.numbers is not None]
    assert repr(column.numbers.moments.mean) in repr(section.parts)  # type: ignore[union-attr]
    assert "are a sample of" in repr(section.parts)
    other = compose(Study.of_table(read_table(every)).workspace)
    assert "whole" not in [each.key for each in other.sections]


def test_a_sample_that_cannot_be_drawn_is_refused(whole: tuple[Path, WholeSurvey, Path]) -> None:
    with pytest.raises(ReadError, match="1 to"):
        SampleOf(0)
    with pytest.raises(ReadError, match="no column nowhere"):
        draw_sample(open_engine(str(whole[0])), SampleOf(10, by="nowhere"))
