"""The history: documents with a cursor; undo, redo and going anywhere give the states that were there."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.errors import CulvixError, DecisionError
from culvix.stats.shape.transform import Scale
from culvix.study import Change, DecisionKind, Study
from culvix.study.document.document import OUTSIDE_UNDO, Document, changed_sections
from culvix.tables import Table
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Role
from tests.study.document.random_studies import Step, small_table, steps, taken

MASS, LENGTH = "mass_g", "length_mm"


@pytest.fixture(scope="module")
def small(tmp_path_factory: pytest.TempPathFactory) -> Table:
    return small_table(tmp_path_factory.mktemp("histories"))


@pytest.fixture
def study(small: Table) -> Study:
    return Study.of_table(small)


def undoable(document: Document) -> dict[str, object]:
    return {name: value for name, value in vars(document).items() if name not in OUTSIDE_UNDO}


@given(done=steps(), visits=st.lists(st.integers(0, 9), max_size=5))
def test_going_anywhere_gives_the_document_that_was_there(small: Table, done: list[Step], visits: list[int]) -> None:
    study = taken(Study.of_table(small), done)
    there = [undoable(document) for document in study.history.documents]
    latest = {name: getattr(study.document, name) for name in OUTSIDE_UNDO}
    columns = {}
    for visit in (*range(len(there)), *visits):
        cursor = min(visit, len(there) - 1)
        study.go_to(cursor)
        assert undoable(study.document) == there[cursor]
        assert {name: getattr(study.document, name) for name in OUTSIDE_UNDO} == latest, "what was looked at stays"
        assert study.working.decisions == tuple(study.document.decisions)
        # A state that was there before has the same columns, with all that was worked out of them.
        assert columns.setdefault(cursor, study.table.columns) == study.table.columns
        assert all(a is b for a, b in zip(columns[cursor], study.table.columns, strict=True))


def test_another_act_after_undo_takes_the_place_of_what_was_undone(study: Study) -> None:
    study.decide(DecisionKind.KEEP, MASS, [0])
    study.decide(DecisionKind.KEEP, MASS, [1])
    study.undo()
    study.change_settings(study.settings.with_limit("z_score", 2.0))
    assert [act.label.split()[0] for act in study.history.acts] == ["keep:", "change"]
    with pytest.raises(DecisionError, match="nothing to redo"):
        study.redo()


def test_the_steps_of_a_gesture_are_one_act(study: Study) -> None:
    gesture = object()
    for limit in (2.9, 2.8, 2.7):
        study.change_settings(study.settings.with_limit("z_score", limit), gesture)
    study.change_settings(study.settings.with_limit("z_score", 2.6), object())
    assert [act.label for act in study.history.acts] == [
        "change the limit of z-score 3 → 2.7",
        "change the limit of z-score 2.7 → 2.6",
    ]
    study.undo()
    study.undo()
    assert study.settings.limits["z_score"] == 3.0


def test_a_gesture_that_comes_back_leaves_no_act(study: Study) -> None:
    gesture = object()
    study.set_valid_range(MASS, (None, 900.0), gesture)
    study.set_valid_range(MASS, (None, 800.0), gesture)
    assert len(study.history.acts) == 1
    study.set_valid_range(MASS, (None, None), gesture)
    assert not study.history.acts and study.workspace.bounds(MASS) == (None, None)
    study.set_valid_range(MASS, (None, 700.0), gesture)
    study.undo()
    assert study.workspace.bounds(MASS) == (None, None)


def test_a_gesture_does_not_go_on_with_what_was_undone(study: Study) -> None:
    gesture = object()
    study.change_settings(study.settings.with_limit("z_score", 2.5), gesture)
    study.undo()
    study.change_settings(study.settings.with_limit("z_score", 2.4), gesture)
    assert len(study.history.acts) == 1 and study.history.cursor == 1


def test_what_is_looked_at_is_no_act(study: Study) -> None:
    study.sign("ab")
    study.set_reviewed(MASS, True)
    study.change_view(group_by="tank")
    assert not study.history.acts
    study.decide(DecisionKind.KEEP, MASS, [0])
    study.set_reviewed(LENGTH, True)
    study.undo()
    assert study.document.reviewed == (MASS, LENGTH) and study.document.view.group_by == "tank"


def test_labels_are_found_by_comparing(study: Study) -> None:
    study.edit_column(MASS, ColumnEntry(unit="g"))
    study.set_valid_range(MASS, (0.0, None))
    study.decide(DecisionKind.EXCLUDE_VALUE, MASS, [1, 2])
    study.begin_pass()
    assert [act.label for act in study.history.acts] == [
        f"describe {MASS}",
        f"change the valid range of {MASS} none → 0 to open",
        f"exclude value: {MASS}, 2 rows",
        "begin pass 2",
    ]


def test_each_change_is_heard_once_by_its_kind(study: Study) -> None:
    heard: list[Change] = []
    study.listen(heard.append)
    study.edit_column(MASS, ColumnEntry(unit="kg"))
    study.set_valid_range(MASS, (0.0, None))
    study.set_valid_range(MASS, (0.0, None))
    study.change_view(group_by="tank")
    study.sign("ab")
    assert heard == [Change.DATA, Change.SETTINGS, Change.VIEW]
    heard.clear()
    study.go_to(0)
    assert heard == [Change.DATA]


def test_an_act_that_cannot_be_leaves_everything_as_it_was(study: Study) -> None:
    name = study.derive(MASS, Scale("sqrt"))
    before, acts = study.document, study.history.acts
    with pytest.raises(CulvixError, match="no numbers"):
        study.edit_column(MASS, ColumnEntry(role=Role.TEXT))
    assert study.document is before and len(study.history.acts) == len(acts) and name in study.table
    assert changed_sections(before, study.document) == frozenset()


def test_a_gesture_ends_with_undo(study: Study) -> None:
    gesture = object()
    study.change_settings(study.settings.with_limit("z_score", 2.5), gesture)
    study.undo()
    study.redo()
    study.change_settings(study.settings.with_limit("z_score", 2.4), gesture)
    assert len(study.history.acts) == 2
    study.undo()
    assert study.settings.limits["z_score"] == 2.5
