"""What the picture of a pair of columns shows over its points, and which rows are told to move it."""

from dataclasses import replace

import numpy as np
import pytest
from scipy import stats as oracle

from culvix.stats.correlation.pearson import pearson
from culvix.stats.regression.lowess import lowess
from culvix.study import Study
from culvix.study.document.choices.settings import ColumnSettings
from culvix.study.document.decisions import DecisionKind
from culvix.study.pictures.pair_pictures import PARTS, pair_picture
from culvix.study.relations.pair_analysis import PairAnalysis, analyse_pair
from culvix.study.relations.pair_forms import pair_form
from culvix.study.relations.pair_view import view_pair

NOTHING = np.zeros(0, dtype=np.int64)
LENGTH, MASS = "length_mm", "mass_g"


def pair_in(study: Study) -> PairAnalysis:
    return analyse_pair(study.workspace.analysis(LENGTH), study.workspace.analysis(MASS))


def test_each_part_is_drawn_where_it_is_asked_for(study: Study) -> None:
    pair = pair_in(study)
    bare = pair_picture(pair, NOTHING, parts=())
    assert bare.line is bare.line_without is bare.band is bare.smooth is None
    whole = pair_picture(pair, NOTHING, parts=PARTS)
    view = pair.view
    left = ~np.isin(view.rows, view.flagged)
    assert whole.line.slope == pytest.approx(oracle.linregress(view.x_values, view.y_values).slope)
    assert whole.line_without.slope == pytest.approx(oracle.linregress(view.x_values[left], view.y_values[left]).slope)
    x, low, high = whole.band
    middle = view.line.at(x)
    assert np.allclose((low + high) / 2, middle) and (high > low).all()
    curve = lowess(view.x_values, view.y_values)
    assert whole.smooth[0].tolist() == curve.x.tolist() and whole.smooth[1].tolist() == curve.y.tolist()


def test_the_band_is_as_wide_as_the_confidence_asks(study: Study) -> None:
    pair = pair_in(study)
    narrow, wide = (pair_picture(pair, NOTHING, parts=("band",), confidence=level).band for level in (0.8, 0.99))
    assert (wide[2] - wide[1] > narrow[2] - narrow[1]).all()


def test_parts_follow_the_scales_of_the_axes(study: Study) -> None:
    measured = pair_picture(pair_in(study), NOTHING, parts=PARTS)
    study.change_settings(study.settings.with_column(MASS, ColumnSettings(axis_scale="log")))
    logged = pair_picture(pair_in(study), NOTHING, parts=PARTS)
    # What lies at or below zero has no place on this scale.
    placed = measured.smooth[1] > 0
    assert not placed.all() and logged.smooth[0].tolist() == measured.smooth[0][placed].tolist()
    assert logged.smooth[1] == pytest.approx(np.log10(measured.smooth[1][placed]))
    assert 10 ** logged.band[2][-1] == pytest.approx(measured.band[2][-1])


def test_without_flagged_rows_there_is_one_line() -> None:
    draw = np.random.default_rng(1)
    x = draw.normal(size=50)
    view = view_pair("x", "y", x, x + draw.normal(size=50), NOTHING)
    assert view.line is view.line_without and view.with_flagged is view.without_flagged


def test_the_row_that_makes_a_correlation_is_named_first() -> None:
    draw = np.random.default_rng(6)
    x, y = draw.normal(size=40), draw.normal(size=40)
    x[17], y[17], x[3] = 12.0, 11.0, np.nan
    found = view_pair("x", "y", x, y, NOTHING).influential
    left = np.delete(np.arange(40), [3, 17])
    assert found[0].row == 17 and found[0].r_without == pytest.approx(pearson(x[left], y[left]).r)
    assert [each.distance for each in found] == sorted((each.distance for each in found), reverse=True)
    assert found[0].distance > 1 and 0 < found[0].leverage < 1


def test_rows_of_an_even_relation_are_not_told_to_move_it() -> None:
    x = np.arange(200.0)
    view = view_pair("x", "y", x, x + np.where(np.arange(200) % 2, 1.0, -1.0), NOTHING)
    assert all(each.distance < 0.05 for each in view.influential)
    assert view_pair("x", "y", x, 2 * x, NOTHING).influential == ()


def test_working_out_beforehand_leaves_nothing_for_later() -> None:
    draw = np.random.default_rng(2)
    x = draw.normal(size=60)
    view = view_pair("x", "y", x, -x + draw.normal(size=60), np.array([4, 9]))
    told: list[float] = []
    view.work_out(lambda share, _: told.append(share))
    assert told == sorted(told) and {"with_flagged", "without_flagged", "smooth", "influential"} <= set(vars(view))
    assert replace(view, x="other").with_flagged == view.with_flagged


def test_rows_that_were_corrected_stand_where_they_are_and_come_from_where_they_were(study: Study) -> None:
    x, y = (study.table[name].values for name in (LENGTH, "mass_g"))
    both = np.flatnonzero(np.isfinite(x) & np.isfinite(y))
    study.decide(DecisionKind.CORRECT, LENGTH, [int(both[3])], value=212.5)
    rows = study.working.corrected(LENGTH).rows
    picture = pair_picture(pair_in(study), NOTHING, corrected=rows)
    assert picture.corrected.rows.tolist() == [both[3]] and picture.corrected.values.tolist() == [212.5]
    before = [float(places[0]) for places in picture.corrected_from]
    assert before == [x[both[3]], y[both[3]]] and picture.corrected_y.tolist() == [y[both[3]]]
    in_ranks = pair_picture(pair_in(study), NOTHING, corrected=rows, form=pair_form(pair_in(study), "ranks"))
    assert not in_ranks.corrected.rows.size


def test_rows_that_were_excluded_stand_where_they_were(study: Study) -> None:
    x, y = study.table[LENGTH].values, study.table[MASS].values
    both = np.flatnonzero(np.isfinite(x) & np.isfinite(y))
    one = int(np.flatnonzero(np.isfinite(x) & ~np.isfinite(y))[0])
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, sorted((int(both[4]), int(both[9]), one)))
    rows = study.working.excluded(LENGTH)
    picture = pair_picture(pair_in(study), NOTHING, excluded=rows)
    assert picture.excluded.rows.tolist() == [both[4], both[9]], "one without a partner has no place"
    assert picture.excluded.values.tolist() == x[both[[4, 9]]].tolist()
    assert picture.excluded_y.tolist() == y[both[[4, 9]]].tolist()
    assert not set(picture.excluded.rows) & {*picture.points.rows, *picture.flagged.rows}
