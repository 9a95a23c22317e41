"""A long text read in pieces: wherever it is cut, the same cells come out, and what does not fit is named."""

import csv
import io
import re

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culvix.errors import Cancelled, ReadError
from culvix.tables.cells.cell_parsing import parse_cells
from culvix.tables.model.cell_texts import plain_numbers
from culvix.tables.model.raw_table import RawTable
from culvix.tables.text import record_splitter
from culvix.tables.text.delimited import read_delimited
from culvix.tables.text.dialect import Dialect
from culvix.tables.text.number_marks import COMMA

_SPACES = "".join(sign for sign in map(chr, range(0x3001)) if sign.isspace() and not "\x1c" <= sign <= "\x1f")
"""White space. Control signs that stand between records are none: a cell with one of them is no plain number."""

PLAIN = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?")

number = st.one_of(
    st.floats(allow_nan=False, allow_infinity=False).map(repr),
    st.integers(-(10**6), 10**6).map(str),
    st.sampled_from(["007", "+5", "5.", ".5", " 7", "7 ", "\t3", "1e400", "-0"]),
)
nonnumeric_rows = st.one_of(
    st.sampled_from(
        ["", " ", "nan", "inf", "-Infinity", "n/a", "<0.5", "1,5", "0x1f", "1_0", "12 mm", '5" pipe', "−3"]
    ),
    st.text(st.characters(codec="utf-8", exclude_characters="\0\r"), max_size=6),
)
cell = st.one_of(number, number, number, nonnumeric_rows)


def numbers_of(texts: list[str]) -> list[float]:
    """What a plain number is, said again: digits, a point, an exponent, in a double."""
    values = []
    for text in texts:
        bare = text.strip(_SPACES)
        plain = PLAIN.fullmatch(bare) is not None
        values.append(float(bare) if plain and np.isfinite(float(bare)) else np.nan)
    return values


def read(text: str, size: int, monkeypatch: pytest.MonkeyPatch, dialect: Dialect | None = None) -> RawTable:
    with monkeypatch.context() as patched:
        patched.setattr(record_splitter, "PIECE_BYTES", size)
        return read_delimited(text.encode(), dialect or Dialect())


@settings(max_examples=60)
@given(
    st.integers(1, 3).flatmap(lambda k: st.lists(st.lists(cell, min_size=k, max_size=k), min_size=1, max_size=25)),
    st.integers(8, 200),
    st.data(),
)
def test_the_same_cells_wherever_the_text_is_cut(rows: list[list[str]], size: int, data: st.DataObject) -> None:
    stream = io.StringIO()
    width = len(rows[0])
    everything = data.draw(st.booleans())
    writer = csv.writer(stream, lineterminator="\n", quoting=csv.QUOTE_ALL if everything else csv.QUOTE_MINIMAL)
    writer.writerow([f"name {position}" for position in range(width)])
    for row in rows:
        writer.writerow(row)
        if width > 1 and data.draw(st.integers(0, 9)) == 0:
            stream.write("\n")
    with pytest.MonkeyPatch.context() as monkeypatch:
        table = read(stream.getvalue(), size, monkeypatch)
    assert table.rows == len(rows)
    every = np.arange(table.rows)
    assert [[cell or "" for cell in row] for row in table.records(every).rows()] == rows
    for position, column in enumerate(table.columns):
        texts = [row[position] for row in rows]
        some = np.sort(np.array(data.draw(st.lists(st.integers(0, len(rows) - 1), max_size=5)), dtype=np.int64))
        assert [text or "" for text in column.texts.all.to_list()] == texts
        assert [text or "" for text in column.texts.at(some).to_list()] == [texts[row] for row in some]
        assert [column.texts[row] or "" for row in some.tolist()] == [texts[row] for row in some]
        expected = numbers_of(texts)
        finite = np.where(np.isfinite(column.numbers), column.numbers, np.nan)
        assert np.array_equal(finite, expected, equal_nan=True)
        assert column.nonnumeric_rows.tolist() == np.flatnonzero(np.isnan(expected)).tolist()
        assert [text or "" for text in column.nonnumeric_texts.to_list()] == [
            texts[row] for row in column.nonnumeric_rows
        ]
    seen: set[tuple[str, ...]] = set()
    again = [row for row, cells in enumerate(rows) if tuple(cells) in seen or seen.add(tuple(cells))]  # type: ignore[func-returns-value]
    assert table.repeated_rows.tolist() == again


@given(st.integers(0, 60), st.integers(20, 400), st.sampled_from(["7", "7,8,9", '"7"', '7,"8,8",9']))
def test_the_line_that_does_not_fit_is_named(row: int, size: int, wrong: str) -> None:
    lines = [f"{position},{position}" for position in range(61)]
    lines[row] = wrong
    with pytest.MonkeyPatch.context() as monkeypatch, pytest.raises(ReadError, match=rf"Line {row + 2} has [13] field"):
        read("a,b\n" + "\n".join(lines) + "\n", size, monkeypatch)


def test_a_column_that_turns_to_text_far_below_keeps_every_cell(monkeypatch: pytest.MonkeyPatch) -> None:
    cells = [str(position) for position in range(20_000)] + [f"word {position}" for position in range(15_000)]
    table = read("a,b\n" + "".join(f"{cell},x\n" for cell in cells), 1 << 12, monkeypatch)
    assert table.columns[0].texts.all.to_list() == cells
    assert table.columns[0].nonnumeric_rows.tolist() == list(range(20_000, 35_000))
    assert table.columns[1].nonnumeric_texts.unique().to_list() == ["x"]


def test_comments_and_line_ends_of_two_kinds(monkeypatch: pytest.MonkeyPatch) -> None:
    body = "".join(
        f"{position},{position / 4}\r\n# remark {position}\n" if position % 3 else f"{position},\n"
        for position in range(300)
    )
    table = read("a,b\n# first\n\n" + body, 100, monkeypatch, Dialect(comment="#"))
    assert table.columns[0].numbers.tolist() == list(range(300))
    assert table.columns[1].nonnumeric_rows.tolist() == list(range(0, 300, 3))
    assert table.columns[1].texts[4] == "1.0" and table.notes == ("1 blank line left out.",)


def test_reading_stops_between_two_pieces(monkeypatch: pytest.MonkeyPatch) -> None:
    text = "a,b\n" + "".join(f"{position},{position}\n" for position in range(5000))
    told = []

    def progress(share: float, doing: str) -> None:
        told.append(share)
        if share > 0.4:
            raise Cancelled("Cancelled.")

    monkeypatch.setattr(record_splitter, "PIECE_BYTES", 1 << 10)
    with pytest.raises(Cancelled):
        read_delimited(text.encode(), Dialect(), progress=progress)
    assert len(told) > 3 and max(told) < 0.5


def test_a_mark_for_inches_quotes_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    body = "".join(f'{position}" pipe,{position}\n"two, or more",-1\n' for position in range(200))
    table = read("a,b\n" + body, 100, monkeypatch)
    expected = [cell for position in range(200) for cell in (f'{position}" pipe', "two, or more")]
    assert table.columns[0].texts.all.to_list() == expected
    assert table.columns[1].numbers[::2].tolist() == list(range(200)) and table.columns[1].texts[6] == "3"
    broken = read("a,b\n" + body.replace(", or", "\nor"), 100, monkeypatch)
    assert broken.columns[0].texts[1] == "two\nor more" and broken.rows == 400
    with pytest.raises(ReadError, match="quotation mark"):
        read("a,b\n" + body + '1,"2\n', 100, monkeypatch)


comma = st.one_of(
    st.floats(-1e6, 1e6).map(lambda value: f"{value:.3f}".replace(".", ",")),
    st.integers(-999, 999).map(str),
    st.sampled_from(["1.500,25", "1.500", "1.5", ",5", "1'000", " 7,5", "1,2,3", "", "n/a", "3.4.2026", "5,"]),
)


@given(st.lists(st.tuples(comma, comma), min_size=3, max_size=25), st.integers(8, 200), st.booleans())
def test_decimal_commas_are_read_as_cell_by_cell(rows: list[tuple[str, str]], size: int, plain: bool) -> None:
    if plain:
        rows = [(a.replace(".", ""), b) for a, b in rows]
    text = "a;b\n" + "".join(f"{a};{b}\n" for a, b in rows)
    with pytest.MonkeyPatch.context() as monkeypatch:
        table = read(text, size, monkeypatch, Dialect(delimiter=";", decimal=","))
    for position, column in enumerate(table.columns):
        texts = [row[position] for row in rows]
        expected = [plain_numbers(pl.Series([text]), COMMA)[0] for text in texts]
        assert np.array_equal(column.numbers, expected, equal_nan=True)
        assert [text or "" for text in column.texts.all.to_list()] == texts
    assert plain_numbers(pl.Series(["1.500,25", "1.500", "-3,5e2", "1,2,3"]), COMMA).tolist()[:3] == [
        1500.25,
        1500,
        -350,
    ]


def test_codes_for_missing_are_numbers_in_the_file_s_own_writing(monkeypatch: pytest.MonkeyPatch) -> None:
    table = read("a;b\n1,5;x\n9,9;-\n9,90;y\n", 100, monkeypatch, Dialect(delimiter=";", decimal=","))
    assert parse_cells(table.columns[0], ["9,9"]).missing.tolist() == [False, True, True]
    assert parse_cells(table.columns[1], ["-", "9"]).missing.tolist() == [False, True, False]
