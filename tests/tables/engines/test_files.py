"""Files and folders of them as one table: what they are read as, and which rows are drawn."""

import json
from collections.abc import Callable
from datetime import timedelta
from decimal import Decimal
from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.errors import Cancelled, ReadError
from culvix.study.whole.samples import SampleOf, draw_sample, rows_beyond, sample_file, whole_of
from culvix.study.whole.survey import survey_whole
from culvix.tables import read_table
from culvix.tables.engines import CAPABILITIES, Engine, Kind, open_engine
from culvix.tables.engines.requests import (
    CountsBelow,
    Distinct,
    DistinctCount,
    Extent,
    Frequencies,
    Frequency,
    NumberExtent,
    Presence,
    PresenceQuery,
    ValuesWithin,
    ValuesWithinQuery,
)

FRAME = pl.DataFrame(
    {
        "id": range(1, 1001),
        "x": [None if k % 50 == 0 else k * 0.5 for k in range(1000)],
        "tank": [f"t{k % 7}" for k in range(1000)],
        "day": pl.date_range(pl.date(2020, 1, 1), pl.date(2022, 9, 26), eager=True),
        "ok": [k % 3 == 0 for k in range(1000)],
        "list": [[k] for k in range(1000)],
    }
)
WRITERS: dict[str, Callable[[pl.DataFrame, Path], None]] = {
    "parquet": lambda frame, path: frame.write_parquet(path),
    "arrow": lambda frame, path: frame.write_ipc(path),
    "csv": lambda frame, path: frame.drop("list").write_csv(path),
    "tsv": lambda frame, path: frame.drop("list").write_csv(path, separator="\t"),
}


@pytest.fixture(params=WRITERS)
def engine(request: pytest.FixtureRequest, tmp_path: Path) -> Engine:
    folder = tmp_path / "parts"
    folder.mkdir()
    for number, first in enumerate(range(0, FRAME.height, 400)):
        WRITERS[request.param](FRAME[first : first + 400], folder / f"{number}.{request.param}")
    return open_engine(str(folder))


def test_columns_have_the_kind_of_their_values(engine: Engine) -> None:
    kinds = {column.name: column.kind for column in engine.columns}
    lists = {"list": Kind.OTHER} if "list" in kinds else {}
    expected = {"id": Kind.NUMBER, "x": Kind.NUMBER, "tank": Kind.TEXT, "day": Kind.DATE, "ok": Kind.YES_NO}
    assert kinds == {**expected, **lists} and engine.rows == 1000


def test_all_is_answered_from_one_reading_and_what_needs_its_own(engine: Engine) -> None:
    asked = (
        PresenceQuery("day"),
        Extent("x"),
        CountsBelow("x", (0.0, 10.0, 1e9)),
        ValuesWithinQuery("x", ((1.0, 2.0), (400.0, 400.6))),
        Frequencies("tank"),
        Distinct("tank"),
    )
    found = engine.answer(asked)
    assert found[asked[0]] == Presence(1000, 0)
    extent = found[asked[1]]
    assert isinstance(extent, NumberExtent) and (extent.n, extent.missing, extent.high) == (980, 20, 499.5)
    assert found[asked[2]] == (0, 19, 980)
    within = found[asked[3]]
    assert isinstance(within, ValuesWithin) and within.values.tolist() == [1.0, 1.5, 400.5]
    frequent = found[asked[4]]
    assert isinstance(frequent, tuple) and frequent[0] == Frequency("t0", 143)
    distinct = found[asked[5]]
    assert isinstance(distinct, DistinctCount) and distinct.count == 7 and distinct.exact
    assert engine.answer([Frequencies("tank", limit=3)]) == {Frequencies("tank", limit=3): None}


def test_the_same_seed_draws_the_same_rows_in_the_order_of_the_table(engine: Engine) -> None:
    first, again, other = (engine.sample(200, seed) for seed in (1, 1, 2))
    assert first.equals(again) and not first["id"].equals(other["id"]) and first.height == 200
    assert first["id"].is_sorted() and first.columns == [column.name for column in engine.columns]
    assert engine.sample(5000, 1).height == 1000


def test_each_level_has_as_many_rows_or_all_it_has(engine: Engine) -> None:
    drawn = engine.sample(70, 3, stratified_by="tank")
    assert set(drawn["tank"].value_counts()["count"]) == {10}
    assert engine.sample(10_000, 3, stratified_by="tank").height == 1000


def test_samples_of_many_seeds_take_every_row_alike(engine: Engine) -> None:
    taken = np.zeros(1000)
    for seed in range(60):
        taken[engine.sample(100, seed)["id"].to_numpy() - 1] += 1
    # Of 60 samples of a tenth each row is in six, give or take.
    assert taken.sum() == 6000 and abs(taken.std() - np.sqrt(60 * 0.1 * 0.9)) < 0.35


def test_a_reading_ends_where_progress_says_so(engine: Engine) -> None:
    def stop(share: float, doing: str) -> None:
        raise Cancelled

    for act in (
        lambda: engine.answer([Extent("x")], stop),
        lambda: engine.sample(10, 1, progress=stop),
        lambda: engine.rows_beyond({"x": (1.0, 2.0)}, 5, stop),
    ):
        with pytest.raises(Cancelled):
            act()


def test_a_cell_that_breaks_its_type_is_told_with_a_sentence(tmp_path: Path) -> None:
    path = tmp_path / "late.csv"
    path.write_text("x\n" + "1.5\n" * 12_000 + "eleven\n")
    engine = open_engine(str(path))
    with pytest.raises(ReadError, match="cannot be read as one table") as error:
        engine.answer([Extent("x")])
    assert "\n" not in error.value.sentence


def test_parts_that_do_not_fit_together_are_refused(tmp_path: Path) -> None:
    FRAME.select("id").write_parquet(tmp_path / "a.parquet")
    FRAME.select("tank").write_parquet(tmp_path / "b.parquet")
    with pytest.raises(ReadError, match="cannot be read as one table"):
        open_engine(str(tmp_path)).answer([Extent("id")])


def test_what_engines_can_do_is_said_of_each() -> None:
    assert all(set(row.by) == {"files", "PostgreSQL"} for row in CAPABILITIES)
    assert json.dumps([row.asked for row in CAPABILITIES]).count("sample") == 1


def test_a_text_is_read_by_the_dialect_it_is_written_in(tmp_path: Path) -> None:
    rows = "".join(f"{k};{k},5;{'n/a' if k % 10 == 0 else k % 3}\n" for k in range(200))
    (tmp_path / "a.csv").write_text("id;length;code\n" + rows)
    engine = open_engine(str(tmp_path / "a.csv"))
    assert [(column.name, column.kind) for column in engine.columns] == [
        ("id", Kind.NUMBER),
        ("length", Kind.NUMBER),
        ("code", Kind.NUMBER),
    ]
    found = engine.answer([Extent("length"), Extent("code")])
    length, code = found[Extent("length")], found[Extent("code")]
    assert isinstance(length, NumberExtent) and (length.low, length.high) == (0.5, 199.5)
    assert isinstance(code, NumberExtent) and code.missing == 20
    assert any("semicolon, decimal comma" in note for note in engine.notes)


@pytest.mark.parametrize(
    ("content", "why"),
    [
        ("a,b\n" + "1,é\n" * 50, "is written in"),
        ("a;b\n" + "1.234.567,5;2\n" * 50, "marks of thousands"),
        ("first   second\n" + "1.5     2.25\n" * 50, "set apart by spaces"),
    ],
)
def test_a_text_that_could_be_read_wrongly_in_parts_is_refused(content: str, why: str, tmp_path: Path) -> None:
    encoding = "cp1252" if "é" in content else "utf-8"
    (tmp_path / "a.csv").write_text(content, encoding=encoding)
    with pytest.raises(ReadError, match=why):
        open_engine(str(tmp_path / "a.csv"))


def test_types_that_a_table_seldom_has_and_odd_names_are_surveyed_and_sampled(tmp_path: Path) -> None:
    frame = pl.DataFrame(
        {
            "": range(300),
            "c0": [Decimal("1.25") * k for k in range(300)],
            "row": pl.Series([2**64 - 1 - k for k in range(300)], dtype=pl.UInt64),
            "beyond": [timedelta(seconds=k) for k in range(300)],
            "x c1": pl.Series(["a", "b", "c"] * 100, dtype=pl.Categorical),
            "hash": pl.Series([None] * 300),
            "share": [[1]] * 300,
        }
    )
    frame.write_parquet(tmp_path / "odd.parquet")
    engine = open_engine(str(tmp_path / "odd.parquet"))
    survey = survey_whole(engine)
    rows, about = draw_sample(engine, SampleOf(60))
    (tmp_path / "sample.parquet").write_bytes(sample_file(rows, about, survey))
    assert rows.columns == frame.columns and len(read_table(tmp_path / "sample.parquet").columns) == 7
    high = {each.column.name: each.numbers.high for each in survey.columns if each.numbers is not None}
    assert high == {"": 299.0, "c0": 373.75, "row": 2.0**64}
    assert whole_of(tmp_path / "sample.parquet") is not None
    assert rows_beyond(engine, survey, "iqr").columns == [*frame.columns, "beyond_"]


def test_very_many_different_values_are_counted_for_a_part_of_all_hashes(tmp_path: Path) -> None:
    rows = 1_200_000
    frame = pl.DataFrame(
        {"key": np.arange(rows) * 0.5, "few": np.arange(rows) % 9_000, "gap": [None, 1.5] * (rows // 2)}
    )
    frame.write_parquet(tmp_path / "long.parquet")
    engine = open_engine(str(tmp_path / "long.parquet"))
    asked = [Distinct(name) for name in frame.columns]
    key, few, gap = engine.answer(asked).values()
    assert isinstance(key, DistinctCount) and key.count is not None and not key.exact and "one of 2 hashes" in key.how
    assert abs(key.count - rows) < 5 * rows**0.5, "within some standard errors of what there is"
    assert (few, gap) == (DistinctCount(9_000, exact=True), DistinctCount(1, exact=True))
