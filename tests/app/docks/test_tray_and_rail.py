"""The row tray and the rail by themselves."""

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from culvix.app.docks.rail import Rail
from culvix.app.docks.tray import Tray
from culvix.app.session.hub import Hub
from culvix.study import Cause, DecisionKind, Study

LENGTH = "length_mm"


@pytest.fixture
def tray(hub: Hub, qtbot: QtBot) -> Tray:
    made = Tray(hub)
    qtbot.addWidget(made)
    return made


@pytest.mark.parametrize(
    ("typed", "value", "factor"),
    [
        ("211.5", 211.5, None),
        ("×10", None, 10.0),
        ("÷10", None, 0.1),
        ("/4", None, 0.25),
        ("*2", None, 2.0),
        ("−5", -5.0, None),
    ],
)
def test_corrections_are_typed_as_value_or_factor(
    tray: Tray, study: Study, typed: str, value: float | None, factor: float | None
) -> None:
    study.select([4], column=LENGTH)
    tray.bar.correction.setText(typed)
    tray.bar.decide(DecisionKind.CORRECT)
    (decision,) = study.decisions
    assert decision.value == value
    assert decision.factor == (None if factor is None else pytest.approx(factor))
    assert tray.bar.correction.text() == "" and decision.cause is Cause.UNKNOWN


@pytest.mark.parametrize("typed", ["", "many", "÷0", "×", "nan", "1e999"])
def test_what_is_no_correction_is_refused_in_words(tray: Tray, study: Study, typed: str) -> None:
    said: list[str] = []
    tray.problem.connect(said.append)
    study.select([4], column=LENGTH)
    tray.bar.correction.setText(typed)
    tray.bar.decide(DecisionKind.CORRECT)
    assert len(said) == 1 and said[0].endswith(".") and not study.decisions


def test_deciding_without_a_selection_asks_for_one(tray: Tray, study: Study) -> None:
    said: list[str] = []
    tray.problem.connect(said.append)
    tray.bar.decide(DecisionKind.KEEP)
    assert "Select" in said[0] and not study.decisions
    assert not any(button.isEnabled() for button in tray.bar.buttons.values())


def test_the_tray_lists_whole_records_the_most_doubtful_first(tray: Tray, hub: Hub, study: Study) -> None:
    model = tray.model
    heads = model.heads
    assert heads[:6] == ["row", "tag", LENGTH, "flagged by", "decision", "cause"]
    assert {column.name for column in study.table} <= set(heads)
    agreement = hub.analysis.flags.agreement_on(model.rows)
    assert (np.diff(agreement) <= 0).all()
    first = [model.data(model.index(0, position)) for position in range(5)]
    row = int(model.rows[0])
    assert first[1] == study.table["tag"].cell(row) and first[3] == "3 of 3" and first[4] == ""
    study.decide(DecisionKind.CORRECT, LENGTH, [row], factor=10, reason="in cm")
    assert "→" in model.data(model.index(0, 2)) and model.data(model.index(0, 4)) == "correct ×10"


def test_the_rail_narrows_and_steps(hub: Hub, qtbot: QtBot) -> None:
    rail = Rail(hub)
    qtbot.addWidget(rail)
    chosen: list[str] = []
    rail.chosen.connect(chosen.append)
    rail.search.setText("LENGTH")
    shown = [rail.view.model().index(k, 0).data() for k in range(rail.view.model().rowCount())]
    assert shown == [LENGTH, "fork_length_mm"]
    rail.view.setCurrentIndex(rail.view.model().index(0, 0))
    rail.step(1)
    rail.step(1)
    assert chosen == [LENGTH, "fork_length_mm"]
