"""What lies within a shape drawn over a scatter."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from culvix.charts.plots.outline import rows_within

DRAW = np.random.default_rng(3)
X, Y = DRAW.uniform(-3, 3, 5000), DRAW.uniform(-3, 3, 5000)


@given(st.floats(-4, 4), st.floats(-4, 4), st.floats(0, 5), st.floats(0, 5), st.floats(1e-6, 1e6), st.floats(-1e6, 1e6))
def test_a_rectangle_holds_just_the_rows_between_its_sides(
    left: float, bottom: float, wide: float, high: float, factor: float, shift: float
) -> None:
    corners = [(left, bottom), (left + wide, bottom), (left + wide, bottom + high), (left, bottom + high)]
    moved = [(factor * x + shift, y) for x, y in corners]
    x = factor * X + shift
    ends = sorted(at for at, _ in moved)
    inside = (x >= ends[0]) & (x <= ends[-1]) & (bottom <= Y) & (bottom + high >= Y)
    assert (rows_within(moved, x, Y) == inside).all()


def test_a_free_shape_holds_its_rows_to_a_thousandth_of_its_size() -> None:
    turns = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    circle = [(2 * np.cos(turn), np.sin(turn)) for turn in turns.tolist()]
    within = rows_within(circle, X, Y)
    away = np.hypot(X / 2, Y)
    assert within[away < 0.99].all() and not within[away > 1.01].any()


def test_a_shape_that_crosses_itself_leaves_out_what_it_goes_around_twice() -> None:
    star = [(np.sin(4 * np.pi * k / 5), np.cos(4 * np.pi * k / 5)) for k in range(5)]
    assert rows_within(star, np.array([0.0, 0.0]), np.array([0.0, 0.8])).tolist() == [False, True]


def test_a_shape_without_width_or_corners_holds_nothing_beside_it() -> None:
    assert not rows_within([], X, Y).any()
    on, above, beyond = rows_within([(0, 0), (1, 0)], np.array([0.5, 0.5, 2]), np.array([0, 1, 0.0])).tolist()
    assert on and not above and not beyond
    assert not rows_within([(0, 0), (1, 1), (1, 0)], np.array([np.nan, 0.9]), np.array([0.5, np.nan])).any()
