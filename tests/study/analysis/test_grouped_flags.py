"""Flags within groups and on another scale: a span a group, distances from the group's own median, in words."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from scipy.stats import median_abs_deviation

from culvix.report.documents.cleaned_data import flagged_frame
from culvix.stats.core.sample import Sample
from culvix.stats.measured_style import MeasuredStyle, inverse_of
from culvix.stats.shape.transform import TRANSFORMS, Scale, fitted_scale, on_that_scale
from culvix.study import Study
from culvix.study.analysis.outliers.agreement import flagged_values
from culvix.study.pictures.column_pictures import shape_picture
from culvix.study.pictures.spans import spans_of
from culvix.tables import read_table

MASS = "mass_g"


@pytest.fixture
def grouped(tmp_path: Path) -> Study:
    """Two ponds with levels of their own, and in each a value that is ordinary in the other."""
    draw = np.random.default_rng(3)
    low, high = draw.normal(10, 1, 60).round(2), draw.normal(100, 3, 60).round(2)
    low[7], high[20] = 100.0, 12.0
    lines = [*(f"north,{x}" for x in low), *(f"south,{x}" for x in high)]
    path = tmp_path / "ponds.csv"
    path.write_text("pond,depth\n" + "\n".join(lines) + "\n")
    study = Study.of_table(read_table(path))
    chosen = study.settings.of("depth")
    study.change_settings(study.settings.with_column("depth", replace(chosen, flag_within="pond")))
    return study


def test_each_group_has_a_span_with_its_counts(grouped: Study) -> None:
    preview, x = grouped.workspace.analysis("depth"), grouped.table["depth"].values
    spans = {(span.key, span.group): span for span in spans_of(preview)}
    assert {group for _, group in spans} == {"north", "south"}
    for group, part in (("north", x[:60]), ("south", x[60:])):
        span = spans["z_score", group]
        mean, sd = part.mean(), part.std(ddof=1)
        assert (span.lower, span.upper) == pytest.approx((mean - 3 * sd, mean + 3 * sd))
        assert span.beyond == (int((part < span.lower).sum()), int((part > span.upper).sum()))
        assert span.label == f"z-score {group}" and not span.movable and "no span" not in span.work
    assert spans["z_score", "north"].beyond == (0, 1) and spans["z_score", "south"].beyond == (1, 0)


def test_distances_are_from_the_median_of_the_group(grouped: Study) -> None:
    preview, x = grouped.workspace.analysis("depth"), grouped.table["depth"].values
    found = flagged_values([preview], grouped.working)
    line = int(np.flatnonzero(found.rows == 7)[0])
    north = x[:60]
    assert found.groups[line] == "pond north"
    wanted = (100.0 - np.median(north)) / median_abs_deviation(north, scale="normal")
    assert found.deviations[line] == pytest.approx(wanted)
    frame = flagged_frame(grouped.workspace, ["depth"])
    assert frame.filter(frame["row"] == 8)["group"].item() == "pond north"


def test_ungrouped_flags_name_no_group(study: Study) -> None:
    found = flagged_values([study.workspace.analysis(MASS)], study.working)
    assert not any(found.groups) and not any(span.group for span in spans_of(study.workspace.analysis(MASS)))


@pytest.mark.parametrize("key", ["grubbs", "generalized_esd", "dixon", "fdr"])
def test_tests_show_their_work(tmp_path: Path, key: str) -> None:
    path = tmp_path / "few.csv"
    values = [*np.random.default_rng(5).normal(50, 2, 22).round(2).tolist(), 90.0, 3.0]
    path.write_text("depth\n" + "\n".join(map(str, values)) + "\n")
    study = Study.of_table(read_table(path))
    study.change_settings(study.settings.with_methods([key]))
    preview = study.workspace.analysis("depth")
    (span,) = spans_of(preview)
    result = preview.flags.results[key]
    x = np.array(values)[result.rows]
    below, above = int((x < 50).sum()), int((x > 50).sum())
    assert "critical" in span.work and span.work.endswith(f": {below} below, {above} above")
    passed = result.settings["statistic"] > result.settings["critical"]
    assert passed == bool(result.rows.size)
    if key in ("grubbs", "fdr"):
        assert "p " in span.work


@pytest.mark.parametrize("key", [key for key, row in TRANSFORMS.items() if row.inverse is not None])
def test_what_is_read_on_another_scale_is_in_the_measured_unit(study: Study, key: str) -> None:
    values = study.table[MASS].values
    there = np.isfinite(values)
    scale = Scale(key)
    back = inverse_of(scale)
    assert back is not None
    assert back(on_that_scale(Sample(values[there]), scale)) == pytest.approx(values[there], rel=1e-9)
    style = MeasuredStyle(1, 2, inverse=back)
    low, high = (float(on_that_scale(Sample.of([x]), scale)[0]) for x in (25.0, 150.0))
    assert style.interval(low, high) == "25.00 – 150.0" and style.value(low) == "25.00"


def test_box_cox_is_taken_back(study: Study) -> None:
    sample = study.table[MASS].sample
    scale, _ = fitted_scale(sample, "box_cox")
    back = inverse_of(scale)
    there = np.isfinite(sample.values)
    assert back is not None and back(on_that_scale(sample, scale)[there]) == pytest.approx(sample.values[there])
    assert inverse_of(Scale("normal_ranks")) is None and inverse_of(Scale("yeo_johnson", 0.5)) is None


def test_spans_on_another_scale_are_in_the_unit_and_not_dragged(study: Study) -> None:
    chosen = study.settings.of(MASS)
    study.change_settings(study.settings.with_column(MASS, replace(chosen, flag_scale="ln")))
    preview = study.workspace.analysis(MASS)
    picture = shape_picture(preview, study.working, np.zeros(0, dtype=np.int64), study.settings)
    span = picture.spans[0]
    logs = np.log(study.table[MASS].values)
    assert span.upper == pytest.approx(np.exp(np.nanmean(logs) + 3 * np.nanstd(logs, ddof=1)))
    assert not span.movable
    assert set(flagged_frame(study.workspace, [MASS])["scale"]) == {"ln x"}
