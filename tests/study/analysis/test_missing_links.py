"""Whether gaps go with the values of another column: χ² as an oracle has it, and what is found only where it is so."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest
from scipy import stats

from culvix.stats.resampling.multiple_testing import benjamini_hochberg
from culvix.study.analysis.findings.missing_links import LEVEL, MissingLinks, missing_links
from culvix.tables import read_table


def links_of(path: Path, columns: dict[str, np.ndarray]) -> MissingLinks:
    pl.DataFrame(columns).fill_nan(None).write_csv(path)
    return missing_links(read_table(path))


@pytest.fixture
def path(tmp_path: Path) -> Path:
    return tmp_path / "t.csv"


def test_gaps_that_grow_with_a_column_are_found_as_the_oracle_has_them(path: Path) -> None:
    draw = np.random.default_rng(5)
    depth, other = draw.normal(40, 5, 1200).round(3), draw.gamma(2, size=1200).round(4)
    oxygen = draw.normal(8, 1, 1200).round(3)
    oxygen[draw.random(1200) < np.where(depth > np.quantile(depth, 0.75), 0.3, 0.04)] = np.nan
    found = links_of(path, {"depth": depth, "other": other, "oxygen": oxygen})
    assert found.tried == 2
    (link,) = found.links
    assert (link.column, link.other) == ("oxygen", "depth")
    quarter = np.searchsorted(np.quantile(depth, [0.25, 0.5, 0.75]), depth)
    table = np.array(
        [[np.isnan(oxygen[quarter == q]).sum(), np.isfinite(oxygen[quarter == q]).sum()] for q in range(4)]
    )
    oracle = stats.chi2_contingency(table, correction=False)
    assert link.chi_square == pytest.approx(oracle.statistic, rel=1e-12) and link.p == pytest.approx(oracle.pvalue)
    assert link.shares == pytest.approx(table[:, 0] / table.sum(axis=1)) and link.rows == tuple(table.sum(axis=1))
    both = [stats.chi2_contingency(_split(oxygen, x), correction=False).pvalue for x in (depth, other)]
    assert link.adjusted == pytest.approx(benjamini_hochberg(np.array(both))[0])
    assert "in the highest quarter of depth" in link.sentence and "1 of 2 pairs" in found.sentence


def _split(gappy: np.ndarray, x: np.ndarray) -> np.ndarray:
    quarter = np.searchsorted(np.quantile(x, [0.25, 0.5, 0.75]), x)
    return np.array([[f(gappy[quarter == q]).sum() for f in (np.isnan, np.isfinite)] for q in range(4)])


def test_gaps_by_chance_are_seldom_said_to_go_with_anything(path: Path) -> None:
    draw, wrong = np.random.default_rng(11), 0
    for _ in range(40):
        columns = {name: draw.normal(size=400).round(4) for name in "abcd"}
        for values in columns.values():
            values[draw.random(400) < 0.2] = np.nan
        found = links_of(path, columns)
        assert found.tried == 12
        wrong += bool(found.links)
    # At a false-discovery rate of 5 % seven of forty have a chance of one in a hundred.
    assert wrong <= 7


def test_too_few_gaps_are_not_judged_and_equal_values_share_a_part(path: Path) -> None:
    draw = np.random.default_rng(2)
    codes = draw.choice([0.0, 0.0, 0.0, 1.0, 2.0], 600)
    many, few = draw.normal(size=600).round(3), draw.normal(size=600).round(3)
    many[(codes == 2) & (draw.random(600) < 0.6)] = np.nan
    few[:9] = np.nan
    found = links_of(path, {"codes": codes + 0.5, "many": many, "few": few})
    assert {link.column for link in found.links} == {"many"}
    link = next(link for link in found.links if link.other == "codes")
    assert len(link.shares) < 4 and "of the rows in the part" in link.sentence and sum(link.rows) == 600
    nothing = links_of(path, {"few": few, "codes": codes + 0.5})
    assert nothing.tried == 0 and "Too few cells" in nothing.sentence
    assert links_of(path, {"codes": codes, "x": draw.normal(size=600)}).tried == 0 and LEVEL == 0.05
