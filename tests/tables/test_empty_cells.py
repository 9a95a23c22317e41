"""Empty cells told from the bytes of a text, against splitting each line."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.errors import ReadError
from culvix.tables.text import empty_cells
from culvix.tables.text.delimited import read_delimited
from culvix.tables.text.dialect import Dialect
from culvix.tables.text.layout import Layout

CELLS = st.sampled_from(["", "", "1.5", "7", "NA", " ", "x"])
LINES = st.lists(st.lists(CELLS, min_size=3, max_size=3), min_size=1, max_size=30)


@given(LINES, st.sampled_from(["\n", "\r\n"]), st.booleans(), st.integers(1, 9))
def test_rows_whose_gaps_are_all_empty_cells(lines: list[list[str]], end: str, closed: bool, block: int) -> None:
    written = [",".join(cells) for cells in lines]
    data = (end.join(written) + (end if closed else "")).encode()
    starts = np.cumsum([0, *(len(line) + len(end) for line in written[:-1])])
    layout = Layout(Dialect(), 3, frozenset({0, 2}))
    frame = layout.split(data, typed=True)
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(empty_cells, "BLOCK_BYTES", block)
        found = empty_cells.all_empty(data, Dialect(), starts, frame)
    # Of the columns of numbers everything else is read as nothing, too.
    gaps = [(cells[0] in ("NA", " ", "x")) or (cells[2] in ("NA", " ", "x")) for cells in lines]
    assert found is not None and found.tolist() == [not gap for gap in gaps]


def test_marks_and_remarks_leave_it_open() -> None:
    layout = Layout(Dialect(comment="#"), 2, frozenset({0}))
    for data in (b'1,""\n2,3\n', b"1,2\n# 3,\n4,5\n"):
        frame = layout.split(data, typed=True)
        assert empty_cells.all_empty(data, layout.dialect, np.array([0, 4]), frame) is None


@pytest.mark.parametrize("line", ["1,2,", "1,", ",,", "1,2"])
@pytest.mark.parametrize("end", ["\n", "\r\n"])
def test_a_line_cut_short_is_no_line_with_gaps(line: str, end: str) -> None:
    rows = [f"{position},2,3," if position % 3 else f"{position},,," for position in range(200)]
    rows[150] = line
    with pytest.raises(ReadError, match=r"Line 152 has [23] fields"):
        read_delimited((end.join(["a,b,c,d", *rows]) + end).encode(), Dialect())
    rows[150] = "1,,,4"
    table = read_delimited((end.join(["a,b,c,d", *rows]) + end).encode(), Dialect())
    assert (
        table.columns[1].nonnumeric_rows.tolist() == sorted({*range(0, 200, 3), 150})
        and table.columns[3].numbers[150] == 4
    )
