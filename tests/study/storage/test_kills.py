"""A few runs of the campaign that ends the program while it works; the long one is `bench/kills.py`."""

import sys
from pathlib import Path

import pytest

sys.path.insert(0, str(Path(__file__).parents[3] / "bench"))

from kills import campaign


@pytest.mark.parametrize("how", ["kill", "term", "full"])
def test_nothing_is_lost_however_the_program_ends(how: str) -> None:
    outcome = campaign(how, 1)
    assert outcome.runs == 1 and outcome.acts > 0
    assert not outcome.unreadable and not outcome.lost
