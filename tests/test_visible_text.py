from hypothesis import given
from hypothesis import strategies as st

from culvix.visible_text import visible


def test_control_characters_are_shown_as_what_they_are() -> None:
    assert visible("a\x01b\x1b[2J\x07\x7f\r") == "a␁b␛[2J␇␡␍"
    assert visible("one\ttwo\nthree") == "one\ttwo\nthree"
    assert visible("12\u202e34\ud800") == "12␦34\ufffd"


@given(st.text(st.characters(exclude_categories=("Cc", "Cf", "Cs", "Cn", "Co"))))
def test_everything_else_stays(text: str) -> None:
    assert visible(text) == text


@given(st.text())
def test_nothing_that_acts_is_left(text: str) -> None:
    shown = visible(text)
    assert len(shown) == len(text) and visible(shown) == shown
    assert not any((each < " " and each not in "\t\n") or "\x7f" <= each < "\xa0" for each in shown)
