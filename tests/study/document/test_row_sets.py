"""Sets of rows, the sums of pairs, what is kept: quick ways to what plain ones give."""

import threading

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.caching import cached_property
from culvix.stats.correlation import pearson
from culvix.stats.correlation.pearson import pearson_matrix
from culvix.study.document.row_sets import as_rows, union
from culvix.study.relations.pair_view import view_pair
from tests.stats.hostile import ordinary


class Worked:
    """Counts how often its property is worked out; it can be held up while it is."""

    def __init__(self, held: threading.Event | None = None) -> None:
        self.times, self.held = 0, held

    @cached_property
    def answer(self) -> int:
        """What is kept."""
        self.times += 1
        if self.held is not None:
            assert self.held.wait(5)
        return 42


def test_a_kept_property_is_worked_out_once_and_holds_up_nobody() -> None:
    assert Worked.answer.__doc__ == "What is kept."
    held = threading.Event()
    slow, quick = Worked(held), Worked()
    busy = threading.Thread(target=lambda: slow.answer)
    busy.start()
    # While one object's is worked out, another one's is there at once.
    assert (quick.answer, quick.answer, quick.times) == (42, 42, 1) and busy.is_alive()
    held.set()
    busy.join(5)
    assert slow.answer == 42 and slow.times == 1
    del quick.answer
    assert quick.answer == 42 and quick.times == 2


rows = st.lists(st.integers(0, 400), max_size=60)


@given(rows)
def test_rows_stand_in_order_each_once(given_rows: list[int]) -> None:
    assert as_rows(given_rows).tolist() == sorted(set(given_rows))
    array = np.array(given_rows, dtype=np.int64)
    before = array.copy()
    assert as_rows(array).tolist() == sorted(set(given_rows)) and (array == before).all()


@given(st.lists(rows, min_size=1, max_size=4), st.integers(0, 10**6))
def test_sets_of_rows_are_put_together(parts: list[list[int]], far: int) -> None:
    arrays = [as_rows([*part, far]) if position == 0 else as_rows(part) for position, part in enumerate(parts)]
    assert union(*arrays).tolist() == sorted({far, *(row for part in parts for row in part)})
    assert union(np.zeros(0, dtype=np.int64)).size == 0


@given(st.lists(ordinary, min_size=3, max_size=60).map(np.array), st.data())
def test_flagged_rows_of_a_pair_are_those_present_in_both(x: np.ndarray, data: st.DataObject) -> None:
    y = np.roll(x, 1).astype(float)
    x = x.copy()
    for row in data.draw(st.lists(st.integers(0, x.size - 1), max_size=5)):
        x[row] = np.nan
    flagged = as_rows(data.draw(st.lists(st.integers(0, x.size - 1), max_size=8)))
    found = view_pair("x", "y", x, y, flagged).flagged
    assert found.tolist() == [row for row in flagged.tolist() if np.isfinite(x[row]) and np.isfinite(y[row])]


@pytest.mark.parametrize("block", [7, 64, 1000])
def test_correlations_do_not_depend_on_the_blocks(monkeypatch: pytest.MonkeyPatch, block: int) -> None:
    draw = np.random.default_rng(8)
    columns = [draw.gamma(2.0, size=500) * 10.0**power for power in (-3, 0, 6)]
    columns[1][draw.random(500) < 0.3] = np.nan
    whole = pearson_matrix(columns)
    monkeypatch.setattr(pearson, "BLOCK_ROWS", block)
    parts = pearson_matrix(columns)
    assert parts.r == pytest.approx(whole.r, rel=1e-13) and (parts.n == whole.n).all()
    for i, j in ((0, 1), (0, 2), (1, 2)):
        both = np.isfinite(columns[i]) & np.isfinite(columns[j])
        assert parts.r[i, j] == pytest.approx(np.corrcoef(columns[i][both], columns[j][both])[0, 1], rel=1e-11)
