"""A workspace never changes: work on another thread sees the state it was given."""

import numpy as np

from culvix.stats.registry import CORRELATION_KINDS
from culvix.study import DecisionKind, Study
from culvix.study.relations.pair_view import view_pair
from culvix.study.relations.ranking import RANKING

LENGTH = "length_mm"


def test_a_snapshot_does_not_hear_of_later_changes(study: Study) -> None:
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [0], reason="before")
    copy = study.workspace
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [1], reason="after")
    study.set_reviewed(LENGTH, True)
    study.change_settings(study.settings.with_limit("z_score", 2.0))
    assert [d.reason for d in copy.document.decisions] == ["before"] and not copy.document.reviewed
    assert copy.analysis(LENGTH).description.n == 2173 and copy.settings.limits["z_score"] == 3.0
    assert study.workspace.analysis(LENGTH).description.n == 2172


def test_a_valid_range_flags_what_lies_outside(study: Study) -> None:
    study.set_valid_range(LENGTH, (80.0, 400.0))
    settings = study.settings.with_methods(["valid_range", "iqr_fences"])
    study.change_settings(settings)
    flags = study.workspace.analysis(LENGTH).flags
    values = study.table[LENGTH].sample.values
    outside = np.flatnonzero((values < 80) | (values > 400))
    assert flags.results["valid_range"].rows.size == outside.size == 6
    assert (flags.agreement_on(outside) == 1).all() and flags.able == 1, "a declared range has no vote"


def test_pairs_count_only_rows_where_both_are_present(study: Study) -> None:
    x, y = (study.table[name].sample.values for name in (LENGTH, "mass_g"))
    view = view_pair(LENGTH, "mass_g", x, y, np.array([0, 1, 2]))
    both = np.isfinite(x) & np.isfinite(y)
    assert view.rows.tolist() == np.flatnonzero(both).tolist()
    for key in CORRELATION_KINDS:
        assert view.with_flagged[key].n == both.sum() == view.without_flagged[key].n + view.flagged.size
    assert set(RANKING) <= set(CORRELATION_KINDS)
