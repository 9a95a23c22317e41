"""A survey of a whole table: its figures are those of the same data in memory, whichever engine holds it."""

import os
from collections.abc import Callable
from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.errors import Cancelled, ReadError
from culvix.study.whole import order_statistics
from culvix.study.whole.column_figures import ColumnOfWhole
from culvix.study.whole.survey import WholeSurvey, survey_whole
from culvix.tables import Table
from culvix.tables.engines import open_engine
from tests.study.whole.figures import agree
from tests.tables.engines.servers import Server

Held = Callable[[pl.DataFrame], str]


@pytest.fixture(params=["files", "server"])
def survey(request: pytest.FixtureRequest, tmp_path: Path) -> Callable[[pl.DataFrame], WholeSurvey]:
    """Surveys a frame that is held by one engine or the other."""

    def run(frame: pl.DataFrame) -> WholeSurvey:
        if request.param == "files":
            half = frame.height // 2
            (tmp_path / "parts").mkdir(exist_ok=True)
            frame[:half].write_parquet(tmp_path / "parts" / "a.parquet")
            frame[half:].write_parquet(tmp_path / "parts" / "b.parquet")
            engine = open_engine(str(tmp_path / "parts"))
        else:
            server: Server = request.getfixturevalue("postgres")
            server.load("held", frame)
            engine = open_engine(server.address(), table="held")
        try:
            return survey_whole(engine)
        finally:
            engine.close()

    return run


def as_frame(table: Table) -> pl.DataFrame:
    """The columns of numbers of a table as a frame of doubles and whole numbers, others as texts."""
    columns = []
    for column in table:
        if column.is_numeric:
            values = pl.Series(column.name, column.sample.values).fill_nan(None)
            whole = bool((values.drop_nulls() == values.drop_nulls().round()).all())
            columns.append(values.cast(pl.Int64) if whole else values)
        else:
            columns.append(column.text.alias(column.name))
    return pl.DataFrame(columns)


def test_the_figures_are_those_of_the_same_data_as_a_file(
    survey: Callable[[pl.DataFrame], WholeSurvey], demo_table: Table
) -> None:
    frame = as_frame(demo_table)
    found = survey(frame)
    agree(found, frame)
    assert found.readings <= 3
    tank = found.of("tank")
    assert tank is not None and tank.distinct.exact
    counted = frame["tank"].value_counts()
    assert {(each.text, each.count) for each in tank.frequent} == set(counted.rows())


def hostile() -> pl.DataFrame:
    draw, n = np.random.default_rng(11), 4000
    odd = draw.normal(size=n)
    odd[:3] = np.nan, np.inf, -np.inf
    return pl.DataFrame(
        {
            "*": odd,
            "^a.*$": np.where(draw.random(n) < 0.7, 0.0, draw.lognormal(5, 3, n)),
            'with "quotes" :x %s $1': 1e12 + draw.normal(size=n).round(3),
            "; drop table held; --": draw.integers(-3, 4, n),
            "равно=水": draw.choice([0.1, 0.2, 0.3], n),
            "same": np.full(n, 7.25),
            "n" * 63: draw.integers(-(2**60), 2**60, n),
            "gaps": pl.Series([None if k % 3 else k * 1e-200 for k in range(n)], dtype=pl.Float64),
            "none": pl.Series([None] * n, dtype=pl.Float64),
            "yes": draw.random(n) < 0.3,
            "text": draw.choice(["NaN", "", "1e5", "ß"], n),
        }
    )


def test_hostile_names_and_values_change_no_figure(survey: Callable[[pl.DataFrame], WholeSurvey]) -> None:
    frame = hostile()
    found = survey(frame)
    agree(found, frame)
    odd = found.of("*")
    assert odd is not None and odd.numbers is not None
    assert (odd.numbers.not_a_number, odd.numbers.infinite, odd.n) == (1, 2, frame.height - 3)
    assert [each.column.name for each in found.columns] == frame.columns


def test_ranks_are_found_where_little_may_be_fetched(
    survey: Callable[[pl.DataFrame], WholeSurvey], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(order_statistics, "MOST_FETCHED", 50)
    monkeypatch.setattr(order_statistics, "FEW_FETCHED", 5)
    frame = hostile()
    agree(survey(frame), frame)


def test_a_table_without_rows_has_no_figures(survey: Callable[[pl.DataFrame], WholeSurvey]) -> None:
    found = survey(pl.DataFrame({"x": pl.Series([], dtype=pl.Float64), "t": pl.Series([], dtype=pl.String)}))
    assert found.rows == 0 and all(each.n == 0 for each in found.columns)


def test_values_near_the_ends_of_doubles_have_their_figures(survey: Callable[[pl.DataFrame], WholeSurvey]) -> None:
    frame = pl.DataFrame({"x": [1e308, -1e308, 5.0, 1e-308] * 30, "y": [3e-300, 1e-300, 2e-300, 5e-300] * 30})
    agree(survey(frame), frame)


def test_it_ends_where_progress_says_so(demo_table: Table, tmp_path: Path, postgres: Server) -> None:
    frame = as_frame(demo_table)
    frame.write_parquet(tmp_path / "a.parquet")
    postgres.load("cancelled", frame)
    for engine in (open_engine(str(tmp_path / "a.parquet")), open_engine(postgres.address(), table="cancelled")):

        def stop(share: float, doing: str) -> None:
            if "reading" in doing:
                raise Cancelled

        with pytest.raises(Cancelled):
            survey_whole(engine, progress=stop)
        assert survey_whole(engine).rows == frame.height, "it goes on afterwards"
        engine.close()


def test_first_figures_are_heard_before_the_others(demo_table: Table, tmp_path: Path) -> None:
    as_frame(demo_table).write_parquet(tmp_path / "a.parquet")
    known: list[tuple[ColumnOfWhole, ...]] = []
    found = survey_whole(open_engine(str(tmp_path / "a.parquet")), on_figures=known.append)
    assert all(column.pilot_rows == demo_table.rows for column in known[0])
    assert all(not column.pilot_rows for column in known[1]) and known[-1] == found.columns
    first = {column.column.name: column for column in known[0]}
    for column in found.columns:
        if column.numbers is not None and column.numbers.moments is not None:
            early = first[column.column.name].numbers
            assert early is not None and early.moments is not None
            assert early.moments.mean == pytest.approx(column.numbers.moments.mean)


def test_what_holds_no_table_is_refused(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("x\n1\n")
    (tmp_path / "b.parquet").write_bytes(b"no parquet")
    with pytest.raises(ReadError, match="several kinds"):
        open_engine(str(tmp_path))
    with pytest.raises(ReadError, match="cannot be read"):
        open_engine(str(tmp_path / "b.parquet"))
    with pytest.raises(ReadError, match="does not exist"):
        open_engine(str(tmp_path / "c"))


def test_a_file_whose_name_is_no_text_is_refused(tmp_path: Path) -> None:
    odd = Path(os.fsdecode(os.fsencode(tmp_path) + b"/f\xff.csv"))
    odd.write_text("a\n1\n")
    with pytest.raises(ReadError, match="name that is no text"):
        open_engine(str(odd))


def test_numbers_that_are_none_among_few_values_spoil_no_correlation(
    survey: Callable[[pl.DataFrame], WholeSurvey],
) -> None:
    draw = np.random.default_rng(31)
    codes = draw.integers(0, 6, 3_000).astype(np.float64)
    odd = np.where(draw.random(3_000) < 0.02, draw.choice([np.nan, np.inf, -np.inf], 3_000), codes)
    frame = pl.DataFrame({"odd": odd, "other": draw.integers(0, 9, 3_000), "drawn": draw.normal(5, 2, 3_000)})
    agree(survey(frame), frame)


def test_pairs_whose_rows_lie_close_together_far_from_the_mean_keep_their_digits(
    survey: Callable[[pl.DataFrame], WholeSurvey],
) -> None:
    draw, n, part = np.random.default_rng(7), 5_000, 1_000
    x, z = draw.normal(5, 1, (2, n))
    x[:part], z[:part] = 5.1, 7.3 + 1e-7 * draw.normal(size=part)
    y = pl.Series([*draw.normal(size=part), *[None] * (n - part)], dtype=pl.Float64)
    frame = pl.DataFrame({"constant where y is": x, "y": y, "close where y is": z, "constant": np.full(n, 0.1)})
    agree(survey(frame), frame)


def test_rows_unlike_the_first_ones_of_a_query_change_no_figure(postgres: Server) -> None:
    query = """
        select case when i <= 100000 then i % 10 else 1e9 + i % 7 end as jumps,
            case when i <= 110000 or i % 3 > 0 then (i * 7919::bigint) % 1000 / 10.0 end as gaps,
            case when i <= 100000 then 5 else (i * 104729::bigint) % 150001 / 7::float8 end as varies,
            case when i > 100000 then i % 5 end as late
        from generate_series(1, 150000) as g (i)
    """
    i = np.arange(1, 150_001)
    first = i <= 100_000
    frame = pl.DataFrame(
        {
            "jumps": np.where(first, i % 10, 1e9 + i % 7),
            "gaps": np.where((i <= 110_000) | (i % 3 > 0), i * 7919 % 1000 / 10, np.nan),
            "varies": np.where(first, 5.0, i * 104729 % 150_001 / 7),
            "late": np.where(first, np.nan, i % 5),
        }
    ).fill_nan(None)
    engine = open_engine(postgres.address(), query=query)
    agree(survey_whole(engine), frame)
    engine.close()


def test_columns_may_be_called_as_parts_of_a_question_are(survey: Callable[[pl.DataFrame], WholeSurvey]) -> None:
    draw, n = np.random.default_rng(5), 800
    frame = pl.DataFrame(
        {
            "text": draw.choice(["a", "b"], n),
            "other": draw.choice(["c", "d", "e"], n),
            **{name: draw.integers(0, 9, n) for name in ("n", "k0", "s0", "a0_0")},
            **{name: draw.normal(size=n) for name in ("x", "bucket", "bucket0", "groups")},
        }
    )
    found = survey(frame)
    agree(found, frame)
    other = found.of("other")
    assert other is not None
    assert {(each.text, each.count) for each in other.frequent} == set(frame["other"].value_counts().rows())


def test_a_column_of_nothing_but_infinities_and_gaps_says_so(survey: Callable[[pl.DataFrame], WholeSurvey]) -> None:
    frame = pl.DataFrame({"x": [np.inf, None, -np.inf, np.nan] * 2, "y": range(8)})
    agree(survey(frame), frame)


def test_extremes_that_were_not_looked_at_leave_all_figures_right(
    survey: Callable[[pl.DataFrame], WholeSurvey],
) -> None:
    draw, n = np.random.default_rng(3), 400_000
    codes, drawn = draw.integers(0, 9, n).astype(np.float64), draw.normal(size=n)
    codes[123_456], drawn[123_457] = -1.7e300, 3e180
    frame = pl.DataFrame({"codes": codes, "drawn": drawn, "other": draw.integers(0, 5, n)})
    agree(survey(frame), frame)
