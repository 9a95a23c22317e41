"""A pair and another scale are worked out from analyses alone: as asked, whatever the study does meanwhile."""

import numpy as np
import pytest

from culvix.errors import StatisticsError
from culvix.stats.correlation.spearman import spearman
from culvix.stats.shape.transform import Scale, fitted_scale
from culvix.study import Study
from culvix.study.analysis.column_analysis import analyse
from culvix.study.analysis.rescaled import rescale
from culvix.study.document.choices.settings import replaced
from culvix.study.document.decisions import DecisionKind
from culvix.study.relations.pair_analysis import analyse_pair
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Role

LENGTH, MASS = "length_mm", "mass_g"


def test_a_pair_leaves_out_what_either_column_flags_and_what_is_excluded(study: Study) -> None:
    flagged = study.workspace.analysis(LENGTH).flags.rows
    study.decide(DecisionKind.EXCLUDE_VALUE, MASS, flagged[:2].tolist())
    pair = analyse_pair(study.workspace.analysis(LENGTH), study.workspace.analysis(MASS))
    x, y = (study.working.sample(study.table[name]).values.copy() for name in (LENGTH, MASS))
    out = np.union1d(flagged, study.workspace.analysis(MASS).flags.rows)
    assert pair.view.with_flagged["spearman"].r == pytest.approx(spearman(x, y).r, abs=1e-12)
    assert not np.isin(flagged[:2], pair.view.flagged).any(), "a value out of use is not flagged once more"
    x[out] = np.nan
    assert pair.view.without_flagged["spearman"].r == pytest.approx(spearman(x, y).r, abs=1e-12)
    by_method = [pair.x.flags.agreement_on(pair.view.flagged), pair.y.flags.agreement_on(pair.view.flagged)]
    assert pair.agreement.tolist() == np.max(by_method, axis=0).tolist() and (pair.agreement > 0).all()
    assert pair.titles == ("length (mm)", "mass (g)")


def test_a_pair_is_worked_out_as_things_stood_when_it_was_asked_for(study: Study) -> None:
    requests = [study.workspace.request(name) for name in (LENGTH, MASS)]
    expected = analyse_pair(*(analyse(request) for request in requests))
    late = [study.workspace.request(name) for name in (LENGTH, MASS)]
    study.decide(DecisionKind.EXCLUDE_ROW, LENGTH, list(range(500)))
    study.change_settings(replaced(study.settings, alpha=0.2))
    found = analyse_pair(*(analyse(request) for request in late))
    assert found.view.with_flagged == expected.view.with_flagged and found.suggestion == expected.suggestion
    assert (
        analyse_pair(study.workspace.analysis(LENGTH), study.workspace.analysis(MASS)).view.with_flagged["pearson"].n
        < 1700
    )


@pytest.mark.parametrize("key", ["ln", "sqrt", "box_cox"])
@pytest.mark.parametrize("passes", [1, 2])
def test_another_scale_shows_what_adopting_it_as_data_gives(study: Study, key: str, passes: int) -> None:
    study.decide(DecisionKind.EXCLUDE_VALUE, MASS, study.workspace.analysis(MASS).flags.rows[:10].tolist())
    if passes == 2:
        study.begin_pass()
    found = rescale(study.workspace.analysis(MASS), key)
    name = study.derive(MASS, found.scale)
    study.edit_column(name, ColumnEntry(role=Role.MEASURE))
    adopted = study.workspace.analysis(name)
    assert found.after.flags.rows.tolist() == adopted.flags.rows.tolist()
    assert found.after.sample.values == pytest.approx(adopted.sample.values, nan_ok=True, rel=1e-15)
    assert found.after.flag_basis.values == pytest.approx(adopted.flag_basis.values, nan_ok=True, rel=1e-15)
    assert found.after.description.mean == adopted.description.mean
    assert found.scale == fitted_scale(study.working.sample(study.table[MASS]), key)[0]


def test_a_scale_that_does_not_take_every_value_is_refused(study: Study) -> None:
    centred = study.derive(MASS, Scale("standard"))
    with pytest.raises(StatisticsError):
        rescale(study.workspace.analysis(centred), "ln")
    assert rescale(study.workspace.analysis(centred), "yeo_johnson").fit is not None
