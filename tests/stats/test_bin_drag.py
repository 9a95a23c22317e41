"""Bins by hand: widths and starts follow the pointer, on round numbers."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.stats.shape.bin_drag import dragged_start, dragged_width, next_width, round_step

scale = st.floats(1e-6, 1e9)


@given(scale)
def test_a_round_step_is_the_next_of_its_kind(least: float) -> None:
    step = round_step(least)
    digits = float(f"{step:.3e}".split("e")[0])
    assert digits in (1.0, 2.0, 2.5, 5.0) and least * (1 - 1e-8) <= step <= least * 2.6
    with pytest.raises(ValueError):
        round_step(-least)


@given(st.floats(-1e4, 1e4), scale, st.integers(1, 30), st.floats(0.05, 40), st.floats(0.001, 0.5))
def test_the_dragged_edge_stays_under_the_pointer(
    start: float, width: float, position: int, share: float, fine: float
) -> None:
    edges = start + width * np.arange(31)
    value = float(edges[0]) + share * width * position
    grain = fine * width
    exact = dragged_width(edges, position, value, grain, free=True)
    assert exact is not None and float(edges[0]) + position * exact == pytest.approx(value, rel=1e-9, abs=1e-9)
    rounded = dragged_width(edges, position, value, grain)
    assert rounded is not None and rounded > 0
    # No farther off than the coarser of half a step of the width and one whole step where it would be none.
    step = round_step(grain / position)
    assert abs(rounded - exact) <= step * 1.001 and rounded / step == pytest.approx(round(rounded / step))
    assert dragged_width(edges, position, float(edges[0]), grain) is None


@given(st.floats(-1e3, 1e3), st.floats(0.1, 50), st.floats(-300, 300))
def test_a_dragged_start_leaves_nothing_below(smallest: float, width: float, value: float) -> None:
    edges = np.floor(smallest / width) * width + width * np.arange(11)
    start = dragged_start(edges, value, smallest, width / 100)
    step = float(edges[1] - edges[0])
    assert start <= smallest + 1e-9 and start > smallest - step - 1e-6
    off = (value - start) / step
    assert abs(off - round(off)) <= 0.03


@given(scale)
def test_the_wheel_climbs_and_comes_down_by_round_widths(width: float) -> None:
    wider = next_width(width, 1)
    assert width < wider <= 2.6 * width and next_width(wider, -1) <= width * (1 + 1e-6)
    assert next_width(width, -1) < width
