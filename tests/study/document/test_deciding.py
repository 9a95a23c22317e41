"""Decisions: what they do to the values in use, how they are taken back, and which are refused."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.errors import CulvixError, DecisionError
from culvix.study import Cause, Change, DecisionKind, Study
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.document.decisions import factor_text
from culvix.tables import Table

LENGTH = "length_mm"


_acts = st.lists(
    st.tuples(
        st.sampled_from(list(DecisionKind)),
        st.sampled_from([LENGTH, "oxygen_mg_l"]),
        st.sets(st.integers(0, 5), min_size=1, max_size=3),
    ),
    max_size=8,
)


def test_decisions_change_the_working_set_and_undo_brings_it_back(study: Study) -> None:
    before = study.workspace.analysis(LENGTH).description
    rows = [row for row in range(200) if np.isfinite(study.table[LENGTH].sample.values[row])][:4]
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, rows[:1], cause=Cause.ENTRY, reason="typed twice")
    study.decide(DecisionKind.EXCLUDE_ROW, LENGTH, rows[1:2])
    study.decide(DecisionKind.CORRECT, LENGTH, rows[2:3], factor=10)
    study.decide(DecisionKind.CORRECT, LENGTH, rows[3:4], value=200.5)
    values = study.working.sample(study.table[LENGTH]).values
    imported = study.table[LENGTH].sample.values
    assert np.isnan(values[rows[:2]]).all() and values[rows[3]] == 200.5
    assert values[rows[2]] == pytest.approx(10 * imported[rows[2]])
    assert np.isnan(study.working.sample(study.table["mass_g"]).values[rows[1]])
    assert study.working.rows_used == study.table.rows - 1
    assert study.workspace.analysis(LENGTH).description.n == before.n - 2
    for _ in range(4):
        study.undo()
    assert study.workspace.analysis(LENGTH).description == before
    with pytest.raises(DecisionError):
        study.undo()
    assert study.redo().decisions[0].reason == "typed twice"


def test_a_new_decision_after_undo_takes_the_place_of_the_old_one(study: Study) -> None:
    study.decide(DecisionKind.KEEP, LENGTH, [0], reason="first")
    study.undo()
    study.decide(DecisionKind.KEEP, LENGTH, [0], reason="second")
    assert [decision.reason for decision in study.decisions] == ["second"] and len(study.history.acts) == 1
    with pytest.raises(DecisionError):
        study.redo()


def test_impossible_decisions_are_refused(study: Study) -> None:
    empty = int(np.flatnonzero(np.isnan(study.table[LENGTH].sample.values))[0])
    for kind, column, rows, options in (
        (DecisionKind.KEEP, LENGTH, [], {}),
        (DecisionKind.KEEP, LENGTH, [10**6], {}),
        (DecisionKind.EXCLUDE_VALUE, LENGTH, [empty], {}),
        (DecisionKind.EXCLUDE_VALUE, "tank", [0], {}),
        (DecisionKind.CORRECT, LENGTH, [0], {}),
        (DecisionKind.CORRECT, LENGTH, [0], {"value": math.nan}),
        (DecisionKind.CORRECT, LENGTH, [0], {"factor": 1e308}),
        (DecisionKind.KEEP, LENGTH, [0], {"value": 1.0}),
        (DecisionKind.KEEP, "no such column", [0], {}),
    ):
        with pytest.raises(CulvixError):
            study.decide(kind, column, rows, **options)
    assert not study.decisions


@given(acts=_acts, steps=st.integers(0, 8))
def test_undo_and_redo_walk_the_same_states(demo_table: Table, acts: list, steps: int) -> None:
    """The working set is always the source with the decisions in force, however it was reached."""
    study = Study.of_table(demo_table)
    states = []

    def state() -> tuple:
        working = study.working
        samples = (working.sample(demo_table[c]).values.tobytes() for c in (LENGTH, "oxygen_mg_l"))
        return working.rows_used, *samples

    states.append(state())
    for kind, column, rows in acts:
        study.decide(kind, column, rows, **({"factor": 2.0} if kind is DecisionKind.CORRECT else {}))
        states.append(state())
    back = min(steps, len(acts))
    for position in range(back):
        study.undo()
        assert state() == states[len(acts) - position - 1]
    for position in range(back):
        study.redo()
        assert state() == states[len(acts) - back + position + 1]
    rebuilt = WorkingSet.of(demo_table, study.decisions)
    assert rebuilt.sample(demo_table[LENGTH]).values.tobytes() == states[-1][1]


def test_listeners_hear_the_finest_kind(study: Study) -> None:
    heard: list[Change] = []
    study.listen(heard.append)
    study.select([3, 1, 3], "here")
    study.decide(DecisionKind.KEEP, LENGTH, [1])
    study.change_settings(study.settings.with_limit("z_score", 2.5))
    study.change_settings(study.settings)
    study.set_reviewed(LENGTH, True)
    assert heard == [Change.SELECTION, Change.DECISIONS, Change.SETTINGS, Change.REVIEW]
    assert study.selection.rows.tolist() == [1, 3]


def test_factor_words() -> None:
    assert [factor_text(f) for f in (10.0, 0.1, 0.001, 2.5)] == ["×10", "÷10", "÷1000", "×2.5"]
