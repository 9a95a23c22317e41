"""Reading a part of a file: the rows and columns asked for, the same cells, and their places in the file."""

import csv
import gzip
import io
from pathlib import Path

import numpy as np
import pytest
import zstandard
from hypothesis import given, settings
from hypothesis import strategies as st

from culvix.errors import ReadError
from culvix.report.documents.intake import intake_document
from culvix.tables import Table, read_table
from culvix.tables.checks.table_checks import check_table
from culvix.tables.model.options.extent import Extent
from culvix.tables.model.options.read_options import ReadOptions
from culvix.tables.reading import streams
from culvix.tables.text import record_splitter
from culvix.tables.text.dialect import Dialect

cell = st.one_of(st.integers(-99, 99).map(str), st.sampled_from(["", "x", "two\nlines", 'said "so"', "a, b", " "]))


def part(path: Path, **wanted: object) -> Table:
    dialect = Dialect(comment="#") if path.name.startswith("written") else None
    return read_table(path, ReadOptions(dialect, extent=Extent(**wanted)))  # type: ignore[arg-type]


def cells_of(table: Table) -> list[tuple[str, ...]]:
    return [tuple(column.cell(row) for column in table) for row in range(table.rows)]


@settings(max_examples=30)
@given(
    rows=st.lists(st.tuples(cell, cell, st.just("end")), min_size=4, max_size=40),
    first=st.integers(1, 6),
    length=st.none() | st.integers(0, 30),
    sample=st.none() | st.integers(1, 12),
    block=st.integers(10, 120),
    packing=st.sampled_from(["", ".gz", ".zst"]),
)
def test_a_part_is_what_the_whole_has_there(
    tmp_path_factory: pytest.TempPathFactory,
    rows: list[tuple[str, ...]],
    first: int,
    length: int | None,
    sample: int | None,
    block: int,
    packing: str,
) -> None:
    stream = io.StringIO()
    stream.write("# of this spring\n")
    csv.writer(stream, lineterminator="\n").writerows([("a", "b", "c"), *rows])
    text = stream.getvalue().encode()
    path = tmp_path_factory.mktemp("part") / f"written.csv{packing}"
    path.write_bytes({"": bytes, ".gz": gzip.compress, ".zst": zstandard.compress}[packing](text))
    wanted = {"first": first, "last": None if length is None else first + length, "sample": sample}
    whole = cells_of(part(path))
    assert whole == rows
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(streams, "BLOCK_BYTES", block)
        patched.setattr(record_splitter, "PIECE_BYTES", block)
        if first > len(rows):
            with pytest.raises(ReadError, match=f"no rows from {first} on"):
                part(path, **wanted)
            return
        table = part(path, **wanted)
    kept = table.numbers_of(np.arange(table.rows)) - 1
    assert cells_of(table) == [whole[row] for row in kept]
    last = len(rows) if length is None else min(first + length, len(rows))
    among = list(range(first - 1, last))
    assert set(kept.tolist()) <= set(among) and table.rows == min(sample or len(among), len(among))
    assert (np.diff(kept) > 0).all()
    assert table.source.sha256 == part(path).source.sha256


def test_every_row_is_as_likely_and_a_seed_says_which(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("x\n" + "".join(f"{row}\n" for row in range(40)))
    drawn = np.zeros(40)
    for seed in range(200):
        drawn[part(path, sample=10, seed=seed)["x"].sample.values.astype(int)] += 1
    # Each row is drawn with probability 1/4: a binomial of 200, standard deviation 6.1.
    assert np.abs(drawn - 50).max() < 4.5 * 6.1
    again = part(path, sample=10, seed=7)["x"].sample.values
    assert again.tolist() == part(path, sample=10, seed=7)["x"].sample.values.tolist()
    assert (
        "A random sample of 10 rows of 40 is read, drawn from all with seed 7."
        in part(path, sample=10, seed=7).source.notes
    )


def test_columns_and_rows_of_a_file_of_another_kind(tmp_path: Path, demo_table: Table) -> None:
    import polars as pl

    frame = pl.DataFrame({column.name: column.text for column in demo_table})
    frame.write_parquet(tmp_path / "t.parquet")
    utf16 = tmp_path / "t.csv"
    utf16.write_bytes(frame.write_csv().encode("utf-16"))
    for path in (tmp_path / "t.parquet", utf16):
        some = part(path, columns=("tag", "mass_g"), first=11, last=500, sample=20)
        rows = some.numbers_of(np.arange(20)) - 1
        assert [column.name for column in some] == ["tag", "mass_g"] and rows.min() >= 10 and rows.max() < 500
        assert cells_of(some) == [
            (demo_table["tag"].cell(row), demo_table["mass_g"].cell(row)) for row in rows.tolist()
        ]
    with pytest.raises(ReadError, match="no column called 'weight'"):
        part(utf16, columns=("weight",))
    with pytest.raises(ReadError, match="rows are counted from 1"):
        Extent(first=5, last=4)


def test_rows_keep_their_places_in_the_file(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("tag,x\n" + "".join(f"F{row // 2},{row if row != 30 else 'odd'}\n" for row in range(60)))
    table = part(path, first=21)
    document = intake_document(table, key=["tag"])
    (x,) = [column for column in document["columns"] if column["name"] == "x"]
    assert x["cells"]["text"]["rows"] == [31]
    (found,) = [found for found in document["findings"] if found["kind"] == "repeated_key"]
    assert found["rows"] == list(range(22, 61, 2)) and found["columns"] == ["tag"]
    assert not [found for found in check_table(table, ["tag", "x"]) if found.kind == "repeated_key"]
    path.write_text("a,b\n1,2\n\n3,4\n5\n7,8\n")
    with pytest.raises(ReadError, match="Line 5 has 1 field where the header has 2"):
        part(path, first=2)
