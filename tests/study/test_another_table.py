"""This table against another one: what changed is named, nothing else is, and rows are matched by their key."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest
from scipy import stats as oracle

from culvix.demo import last_cohort
from culvix.errors import CulvixError
from culvix.stats.core.sample import Sample
from culvix.study.another_table.comparison import TableComparison, compare_tables
from culvix.study.another_table.matching import match_columns
from culvix.study.another_table.units import FACTORS, unit_change
from culvix.tables import Table, read_table
from culvix.tables.model.table import Role


@pytest.fixture(scope="module")
def last_year(demo_path: Path) -> Table:
    return read_table(demo_path.with_name("last_cohort.csv"))


@pytest.fixture(scope="module")
def compared(demo_table: Table, last_year: Table) -> TableComparison:
    return compare_tables(demo_table, last_year)


def made(folder: Path, name: str, **columns: object) -> Table:
    path = folder / f"{name}.csv"
    pl.DataFrame(columns).write_csv(path)
    return read_table(path)


def kinds_of(found: TableComparison) -> dict[str, list[str]]:
    return {change.pair.here: [note.kind for note in change.notes] for change in found.changed}


def test_exactly_what_was_planted_has_changed(compared: TableComparison) -> None:
    assert kinds_of(compared) == {
        "tank": ["level", "shares"],
        "fork_length_mm": ["unit", "moved"],
        "oxygen_mg_l": ["code"],
        "glucose_mmol_l": ["name", "missing", "token"],
        "length_mm": ["missing", "moved"],
        # Of longer fish, and with two decimal points that slipped.
        "mass_g": ["missing", "moved", "spread"],
    }
    planted = {trouble.kind: trouble.columns[0] for trouble in last_cohort().key if trouble.kind.startswith("changed_")}
    named = {"changed_unit": "unit", "changed_level": "level", "changed_name": "name", "changed_code": "code"}
    for kind, told in named.items():
        assert told in kinds_of(compared)[planted[kind]]
    assert compared.change_of("fork_length_mm").unit.factor == 10
    assert compared.change_of("tank").new_levels == ("T6",) and compared.change_of("oxygen_mg_l").codes == (-9.0,)
    assert compared.change_of("glucose_mmol_l").pair.there == "glucose"
    assert not compared.matching.new and not compared.matching.gone and compared.rows is None


def test_shifts_are_in_the_spread_of_the_other_table(compared: TableComparison, last_year: Table) -> None:
    change, before = compared.change_of("length_mm"), last_year["length_mm"].sample
    now = change.here.values[np.isfinite(change.here.values)]
    assert change.shift == pytest.approx((now.mean() - before.values.mean()) / before.values.std(ddof=1))
    assert change.median_shift == pytest.approx(
        (np.median(now) - np.median(before.values)) / np.subtract(*np.quantile(before.values, (0.75, 0.25)))
    )
    assert change.p == pytest.approx(oracle.ks_2samp(now, before.values, method="asymp").pvalue, rel=0.3)
    assert change.distance == pytest.approx(oracle.ks_2samp(now, before.values).statistic)


def test_a_table_against_itself_has_not_changed_and_its_rows_are_all_matched(last_year: Table) -> None:
    same = compare_tables(last_year, last_year)
    assert not same.changed and same.rows.key == ("tag",)
    assert same.rows.both == last_year.rows and not same.rows.changed
    assert not same.rows.added.size and not same.rows.gone.size


@pytest.mark.parametrize("seed", range(8))
def test_two_draws_of_the_same_population_differ_by_chance_only(seed: int, tmp_path: Path) -> None:
    draw = np.random.default_rng(seed)
    tables = [
        made(
            tmp_path,
            name,
            x=draw.lognormal(2, 0.6, 300).round(2),
            y=draw.normal(50, 8, 300).round(1),
            z=draw.integers(0, 40, 300),
            g=draw.choice(["a", "b", "c"], 300),
        )
        for name in ("one", "other")
    ]
    assert not compare_tables(*tables).changed


def test_columns_are_matched_by_spelling_and_by_content(tmp_path: Path) -> None:
    draw = np.random.default_rng(3)
    site = draw.choice(["north", "south", "east"], 200)
    length, depth, other = draw.normal(80, 9, 200).round(2), draw.gamma(2, size=200).round(3), draw.normal(size=200)
    here = made(tmp_path, "here", **{"Body length": length, "depth_m": depth, "site": site, "new": other.round(2)})
    there = made(tmp_path, "there", body_length=length[::-1], depth_metres=depth[::-1], site_name=site, old=depth + 90)
    matching = match_columns(here, there)
    assert {pair.here: pair.there for pair in matching.pairs} == {
        "Body length": "body_length",
        "depth_m": "depth_metres",
        "site": "site_name",
    }
    assert matching.new == ("new",) and matching.gone == ("old",)
    assert all(pair.is_proposed for pair in matching.pairs)


@pytest.mark.parametrize("factor", [*FACTORS, *(1 / each for each in FACTORS)])
def test_a_change_of_unit_has_its_factor(factor: float) -> None:
    draw = np.random.default_rng(8)
    here, there = Sample.of(draw.normal(200, 25, 400) * factor), Sample.of(draw.normal(203, 25, 500))
    found = unit_change(here, there)
    assert found is not None and found.factor == pytest.approx(factor)


def test_degrees_have_an_offset_and_an_ordinary_shift_is_no_unit() -> None:
    draw = np.random.default_rng(9)
    celsius = draw.normal(18, 4, 400)
    found = unit_change(Sample.of(draw.normal(18, 4, 400) * 9 / 5 + 32), Sample.of(celsius))
    assert (found.factor, found.offset) == (9 / 5, 32.0)
    assert unit_change(Sample.of(celsius + 12), Sample.of(celsius)) is None
    assert unit_change(Sample.of(celsius * 5), Sample.of(celsius)) is None


def test_rows_that_came_went_and_changed_are_named_by_their_key(tmp_path: Path) -> None:
    there = made(tmp_path, "there", tag=[f"F-{k:02}" for k in range(40)], x=range(40), site=["a", "b"] * 20)
    frame = pl.read_csv(there.source.path)
    frame = frame.with_columns(
        pl.when(pl.col("tag") == "F-07").then(pl.lit(99)).otherwise(pl.col("x")).alias("x"),
        pl.when(pl.col("tag") == "F-30").then(pl.lit("c")).otherwise(pl.col("site")).alias("site"),
    ).filter(~pl.col("tag").is_in(["F-11", "F-12"]))
    extra = pl.DataFrame({"tag": ["F-90", "F-05"], "x": [1, 5], "site": ["a", "b"]})
    path = tmp_path / "here.csv"
    pl.concat([frame, extra]).sample(fraction=1.0, shuffle=True, seed=4).write_csv(path)
    rows = compare_tables(read_table(path), there).rows
    assert rows.key == ("tag",) and rows.added.size == 1 and rows.gone.tolist() == [11, 12]
    assert {(cell.column, cell.key, cell.there, cell.here) for cell in rows.cells} == {
        ("x", "F-07", "7", "99"),
        ("site", "F-30", "a", "c"),
    }
    assert rows.changed == {"x": 1, "site": 1}
    assert rows.repeated == 2, "a key that stands twice is not matched, and said"
    with pytest.raises(CulvixError, match="nowhere: it is not in both"):
        compare_tables(read_table(path), there, key=["nowhere"])


def test_codes_of_an_order_and_levels_that_came_and_went_are_named(tmp_path: Path) -> None:
    draw = np.random.default_rng(21)
    here = made(tmp_path, "now", score=draw.integers(1, 6, 400), tank=draw.choice(["a", "b", "d"], 400))
    there = made(tmp_path, "before", score=draw.integers(0, 5, 400), tank=draw.choice(["a", "b", "c"], 400))
    found = compare_tables(here, there)
    told = {change.pair.here: " ".join(note.sentence for note in change.notes) for change in found.changed}
    assert here["score"].role is Role.ORDERED
    assert "1 code new here: “5”" in told["score"] and "1 code only there: “0”" in told["score"]
    assert "1 level new here: “d”" in told["tank"] and "1 level only there: “c”" in told["tank"]
