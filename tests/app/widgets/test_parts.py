"""Labels: plain text, and names longer than a line."""

import pytest
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from culvix.app.widgets.parts import label

NAME = "waiting_time_until_the_first_answer_in_minutes"


@pytest.mark.parametrize("name", [NAME, "w" * 60, "waiting.time/until-the-first.answer.of.all"])
def test_a_name_longer_than_a_line_breaks_instead_of_being_cut(qtbot: QtBot, name: str) -> None:
    made = label(f"The column {name} has no unit.", wrap=True)
    qtbot.addWidget(made)
    assert made.text() == f"The column {name} has no unit.", "what is told is what was said"
    assert made.minimumSizeHint().width() < made.fontMetrics().horizontalAdvance(name)
    assert made.heightForWidth(120) > made.heightForWidth(2000)


def test_short_words_are_left_as_they_are_and_markup_is_shown_letter_by_letter(qtbot: QtBot) -> None:
    made = label("a_b is <b>short</b>", wrap=True)
    qtbot.addWidget(made)
    assert QLabel.text(made) == made.text() == "a_b is <b>short</b>"
