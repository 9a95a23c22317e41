"""A hand that does anything, from a seed: nothing breaks, and everything can be undone."""

import pytest
from window_monkey import run


@pytest.mark.parametrize("seed", [101, 202])
def test_nothing_a_hand_does_breaks_the_study(seed: int) -> None:
    outcome = run(seed, 60)
    assert outcome.acts == 60 and not outcome.wrong
