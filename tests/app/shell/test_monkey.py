"""A hand that does anything, from a seed: nothing breaks, and everything can be undone."""

from window_monkey import run


def test_nothing_a_hand_does_breaks_the_study() -> None:
    outcome = run(101, 36)
    assert outcome.acts == 36 and not outcome.wrong
