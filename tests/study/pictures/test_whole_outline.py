"""The whole behind a sample: what its lanes draw is what the engine counted, on whatever axis."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.study import Study
from culvix.study.pictures.column_pictures import shape_picture
from culvix.study.pictures.whole_outline import whole_outline
from culvix.study.whole.column_figures import ColumnOfWhole
from culvix.study.whole.conditions import column_of_whole
from culvix.study.whole.samples import SampleOf, draw_sample, sample_file
from culvix.study.whole.survey import survey_whole
from culvix.tables import read_table
from culvix.tables.engines import open_engine

DRAW = np.random.default_rng(12)
MASS = np.where(DRAW.random(20_000) < 0.01, -9.0, DRAW.lognormal(3, 0.6, 20_000).round(1))
FRAME = pl.DataFrame({"mass_g": DRAW.lognormal(3, 0.6, 20_000).round(1), "coded": MASS})


@pytest.fixture(scope="module")
def sampled(tmp_path_factory: pytest.TempPathFactory) -> tuple[Study, ColumnOfWhole]:
    folder = tmp_path_factory.mktemp("outline")
    FRAME.write_parquet(folder / "all.parquet")
    engine = open_engine(str(folder / "all.parquet"))
    survey = survey_whole(engine)
    frame, about = draw_sample(engine, SampleOf(500))
    path = Path(folder / "sample.parquet")
    path.write_bytes(sample_file(frame, about, survey))
    study = Study.of_table(read_table(path, missing_codes=["-9.0"]))
    whole = column_of_whole(survey, study.workspace, "mass_g")
    assert whole is not None
    assert column_of_whole(survey, study.workspace, "coded") is None, "−9 is a number there, and none here"
    assert column_of_whole(survey, study.workspace, "gone") is None
    return study, whole


@pytest.mark.parametrize("scale", ["measured", "log"])
def test_the_lanes_draw_what_was_counted(sampled: tuple[Study, ColumnOfWhole], scale: str) -> None:
    study, whole = sampled
    study.change_settings(study.settings.with_column("mass_g", study.settings.of("mass_g").with_axis_scale(scale)))
    analysis = study.workspace.analysis("mass_g")
    picture = shape_picture(analysis, study.working, np.zeros(0, dtype=np.int64), whole=whole)
    outline, x = picture.whole, FRAME["mass_g"].to_numpy()
    assert outline is not None and outline.n == x.size
    edges = picture.axis.values_at(outline.edges)
    counted = np.histogram(x, edges)[0]
    assert outline.shares * x.size == pytest.approx(counted, abs=0.51)
    assert float((outline.density * np.diff(outline.edges)).sum()) == pytest.approx(counted.sum() / x.size, abs=1e-9)
    middle = float(outline.edges[3] + outline.edges[4]) / 2
    assert outline.share_at(middle) == outline.shares[3] and outline.share_at(1e9) is None
    assert outline.box is not None
    quartiles = [picture.axis.value(each) for each in (outline.box.q1, outline.box.median, outline.box.q3)]
    assert quartiles == pytest.approx(np.quantile(x, [0.25, 0.5, 0.75]), rel=1e-9)
    spans = picture.spans[-2:]
    assert [span.label for span in spans] == ["whole, IQR", "whole, z"] and not any(span.movable for span in spans)
    for span in spans:
        assert span.beyond is not None and span.upper is not None
        assert span.beyond[1] == int((x > picture.axis.value(span.upper) * (1 + 1e-12)).sum())


def test_a_column_of_which_nothing_is_known_has_no_outline() -> None:
    assert whole_outline(None) is None
