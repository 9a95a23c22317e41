"""Which cells are missing together: every row has one pattern, counted as one by one."""

from collections import Counter
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from culvix.tables import read_table
from culvix.tables.checks.missing_patterns import MissingPattern, missing_patterns


@settings(max_examples=25)
@given(st.lists(st.tuples(*[st.booleans()] * 4), min_size=1, max_size=60), st.integers(1, 20))
def test_patterns_are_those_counted_row_by_row(tmp_path_factory, gaps, most) -> None:  # type: ignore[no-untyped-def]
    path: Path = tmp_path_factory.mktemp("gaps") / "t.csv"
    rows = [",".join("" if gap else f"{row}.{k}" for k, gap in enumerate(gap_row)) for row, gap_row in enumerate(gaps)]
    path.write_text("\n".join(["key,a,b,c,d", *(f"k{row},{cells}" for row, cells in enumerate(rows))]) + "\n")
    found = missing_patterns(read_table(path), most)
    counted = Counter(tuple(name for name, gap in zip("abcd", row, strict=True) if gap) for row in gaps)
    assert found.complete == counted.pop((), 0)
    listed = {pattern.columns: pattern.rows for pattern in found.patterns}
    assert all(counted[columns] == rows for columns, rows in listed.items())
    assert len(listed) == min(most, len(counted)) and found.others == len(counted) - len(listed)
    assert found.rows_of_others == sum(counted.values()) - sum(listed.values())
    assert [pattern.rows for pattern in found.patterns] == sorted(counted.values(), reverse=True)[:most]


def test_a_table_without_gaps_has_no_pattern(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("a,b\n1,2\n3,4\n5,NA\n6,7\n")
    found = missing_patterns(read_table(path))
    assert found.patterns == (MissingPattern(("b",), 1),) and found.complete == 3
    path.write_text("a,b\n1,2\n3,4\n")
    assert missing_patterns(read_table(path)).patterns == ()
