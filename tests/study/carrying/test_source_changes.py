"""What is other in a table than its fingerprint says: rows by key or number, cells, columns."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culvix.study.carrying import fingerprint as module
from culvix.study.carrying.fingerprint import checksums_of, fingerprint_of
from culvix.study.carrying.source_changes import changes_of_source
from culvix.tables import Table, read_table
from tests.study.recipes.making import cells, fish


def table_of(folder: Path, name: str, columns: dict[str, list[str]]) -> Table:
    path = folder / name
    rows = zip(*columns.values(), strict=True)
    path.write_text("\n".join([",".join(columns), *(",".join(row) for row in rows)]) + "\n")
    return read_table(path)


def test_a_table_is_like_itself(tmp_path: Path) -> None:
    changes = changes_of_source(fingerprint_of(fish(tmp_path)), fish(tmp_path, "again.csv"))
    assert changes.sentences == ["No cell is another one; the file only is written in another way."]
    assert changes.now.tolist() == list(range(200)) and changes.key == ("tag",)


def test_a_number_written_another_way_is_the_same(tmp_path: Path) -> None:
    then = table_of(tmp_path, "a.csv", {"n": ["12", "0.5", "-0"], "t": ["x ", "", "é"]})
    now = table_of(tmp_path, "b.csv", {"n": ["12.0", ".5", "0"], "t": ["x", " ", "é"]})
    for name in ("n", "t"):
        assert checksums_of(then[name]).tolist() == checksums_of(now[name]).tolist()


def test_checksums_are_the_same_on_every_machine(tmp_path: Path) -> None:
    table = table_of(tmp_path, "a.csv", {"n": ["1", "2.5", "-7e3", ""], "t": ["north", "", "süd", "x"]})
    assert checksums_of(table["n"]).tolist() == [706792832, 4114450437, 1607129594, 0]
    assert checksums_of(table["t"]).tolist() == [3693752514, 0, 3381181570, 2363233923]


def test_rows_are_told_apart_by_their_key(tmp_path: Path) -> None:
    before = fish(tmp_path)
    lines = (tmp_path / "fish.csv").read_text().splitlines()
    # Two fish went, one came, and the order is another.
    kept = [line for line in lines[1:] if not line.startswith(("F003,", "F010,"))]
    path = tmp_path / "now.csv"
    path.write_text("\n".join([lines[0], "F777,west,201.0,90.0", *reversed(kept)]) + "\n")
    changes = changes_of_source(fingerprint_of(before), read_table(path))
    assert changes.gone_rows.tolist() == [3, 10] and changes.new_rows == 1
    assert changes.now[199] == 1 and changes.now[0] == 198
    assert not any(rows.any() for rows in changes.changed.values())
    assert changes.sentences == ["199 rows where there were 200: 1 new and 2 gone, told apart by tag."]


def test_changed_cells_are_counted_by_column(tmp_path: Path) -> None:
    before = fish(tmp_path)
    weights, nets = cells(before, "weight_g"), cells(before, "net")
    weights[4], weights[9], nets[9] = "1.0", "", "harbour"
    changes = changes_of_source(fingerprint_of(before), fish(tmp_path, "now.csv", weight_g=weights, net=nets))
    assert {name: np.flatnonzero(rows).tolist() for name, rows in changes.changed.items() if rows.any()} == {
        "net": [9],
        "weight_g": [4, 9],
    }
    assert changes.sentences == ["3 cells changed: net (1), weight_g (2)."]


def test_columns_that_came_and_went_are_named(tmp_path: Path) -> None:
    now = fish(tmp_path, "now.csv", net=None, depth=["3"] * 200)
    changes = changes_of_source(fingerprint_of(fish(tmp_path)), now)
    assert changes.sentences == ["1 column new: depth.", "1 column gone: net."]


def test_without_a_key_rows_are_told_apart_by_number(tmp_path: Path) -> None:
    before = fish(tmp_path, tag=None)
    path = tmp_path / "now.csv"
    path.write_text((tmp_path / "fish.csv").read_text() + "north,200.0,88.0\n")
    changes = changes_of_source(fingerprint_of(before), read_table(path))
    assert changes.sentences == ["201 rows where there were 200: 1 new, told apart by their number."]


def test_repeated_keys_pair_up_in_order(tmp_path: Path) -> None:
    tags = [f"F{number:03d}" for number in range(200)]
    tags[7] = tags[6]
    before = fish(tmp_path, tag=tags)
    changes = changes_of_source(fingerprint_of(before), fish(tmp_path, "now.csv", tag=tags))
    assert changes.now.tolist() == list(range(200))


def test_a_long_table_is_known_by_blocks_where_cells_have_no_room(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    numbers = [str(number) for number in range(1000)]
    before = table_of(tmp_path, "a.csv", {"tag": [f"t{n}" for n in numbers], "x": numbers, "y": numbers})
    monkeypatch.setattr(module, "MOST_BYTES", 8 * 1000 + 2 * 4 * 1000)
    fingerprint = fingerprint_of(before, ("y",))
    assert set(fingerprint.cells) == {"y", "tag"} and set(fingerprint.blocks) == {"tag", "x", "y"}
    x = [*numbers[:300], "-1", *numbers[301:]]
    changes = changes_of_source(
        fingerprint, table_of(tmp_path, "b.csv", {"tag": [f"t{n}" for n in numbers], "x": x, "y": numbers})
    )
    assert np.flatnonzero(changes.changed["x"]).tolist() == list(range(256, 512)) and changes.vague == {"x"}
    assert changes.sentences == ["Some cells changed in x; which ones is known only within 256 rows."]


@given(st.lists(st.integers(0, 30), min_size=1, max_size=40, unique=True), st.data())
@settings(max_examples=30)
def test_whatever_came_and_went_every_row_finds_its_own(
    tmp_path_factory: pytest.TempPathFactory, tags: list[int], data: st.DataObject
) -> None:
    folder = tmp_path_factory.mktemp("rows")
    now = data.draw(st.permutations(sorted({*tags[::2], *range(31, 35)})))
    tables = [
        table_of(folder, f"{name}.csv", {"tag": [f"id{n}" for n in these], "x": [str(n / 4) for n in these]})
        for name, these in (("then", tags), ("now", now))
    ]
    fingerprint = fingerprint_of(tables[0])
    if fingerprint.key != ("tag",):
        return
    changes = changes_of_source(fingerprint, tables[1])
    assert changes.now.tolist() == [now.index(tag) if tag in now else -1 for tag in tags]
    assert not any(rows.any() for rows in changes.changed.values())
