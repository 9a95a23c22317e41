"""Controls that flow into as many rows as the width asks for."""

import pytest
from PyQt6.QtWidgets import QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from culvix.app.widgets.choice import Choice
from culvix.app.widgets.elided_button import ElidedButton
from culvix.app.widgets.flow import flow_of


def shown(qtbot: QtBot, width: int, *parts: QWidget | int) -> QWidget:
    made = QWidget()
    qtbot.addWidget(made)
    made.setLayout(flow_of(*parts))
    made.resize(width, 400)
    made.show()
    qtbot.waitExposed(made)
    return made


def buttons(number: int, width: int = 100) -> list[QPushButton]:
    made = [QPushButton(f"B{each}") for each in range(number)]
    for button in made:
        button.setFixedWidth(width)
    return made


@pytest.mark.parametrize(("width", "rows"), [(700, 1), (340, 2), (230, 3), (110, 6)])
def test_items_take_as_many_rows_as_they_need_and_none_covers_another(qtbot: QtBot, width: int, rows: int) -> None:
    made = buttons(6)
    pane = shown(qtbot, width, *made)
    assert len({button.y() for button in made}) == rows
    assert all(button.geometry().right() < width for button in made)
    for position, one in enumerate(made):
        assert not any(one.geometry().intersects(other.geometry()) for other in made[position + 1 :])
    assert pane.layout().heightForWidth(width) == made[-1].geometry().bottom() + 1
    assert pane.minimumSizeHint().height() >= made[-1].geometry().bottom()


def test_what_follows_a_gap_stands_at_the_right_and_a_field_takes_what_is_left(qtbot: QtBot) -> None:
    one, other = buttons(2)
    first = shown(qtbot, 500, one, 0, other)
    assert one.x() == 0 and other.geometry().right() == first.width() - 1
    field, button = QLineEdit(), buttons(1)[0]
    second = shown(qtbot, 500, field, button)
    assert field.width() == second.width() - 6 - 100
    short = QLineEdit()
    short.setMaximumWidth(60)
    third = shown(qtbot, 500, short, buttons(1)[0])
    assert short.width() <= 60 < third.width()


def test_hidden_items_take_no_room(qtbot: QtBot) -> None:
    first, second, third = buttons(3)
    second.hide()
    pane = shown(qtbot, 220, first, second, third)
    assert first.y() == third.y() and third.x() == 106 < pane.width()


def test_the_tip_of_a_choice_tells_it_in_full(qtbot: QtBot) -> None:
    choice = Choice()
    qtbot.addWidget(choice)
    choice.addItems(["a column of a name that is far too long", "b"])
    choice.setToolTip("The column (C)")
    assert choice.toolTip() == "a column of a name that is far too long\nThe column (C)"
    choice.setCurrentIndex(1)
    assert choice.toolTip() == "b\nThe column (C)" and choice.accessibleName() == "The column"


def test_a_button_too_narrow_for_its_words_ends_in_an_ellipsis(qtbot: QtBot) -> None:
    button = ElidedButton("1 234 567.89  a very long label", "Select this row")
    qtbot.addWidget(button)
    button.resize(90, 24)
    button.show()
    assert button.text().endswith("…") and button.toolTip().startswith("1 234 567.89  a very long label\n")
    button.resize(400, 24)
    assert button.text() == "1 234 567.89  a very long label"
