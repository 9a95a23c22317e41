"""Many columns by the same groups: p adjusted for all of them, and the small rows they are drawn from."""

from functools import partial
from pathlib import Path

import numpy as np
import pytest

from culvix.errors import CulvixError
from culvix.stats import holm
from culvix.stats.shape.axis_scale import axis_scale
from culvix.study import Study
from culvix.study.groups.comparison.columns_by_groups import ColumnByGroups, compare_every_column
from culvix.study.groups.comparison.compared_column import Comparing, compare_column
from culvix.study.groups.row_groups import GroupsBy
from culvix.study.pictures.groups.small_rows import small_row
from tests.study.groups.test_row_groups import table_of


def compared(study: Study, by: str) -> tuple[ColumnByGroups, ...]:
    names = [column.name for column in study.table.numeric if column.name != by]
    previews = [(name, partial(study.workspace.analysis, name)) for name in names]
    return compare_every_column(previews, study.table[by], GroupsBy(by), Comparing())


def test_p_is_adjusted_for_all_columns_and_the_surest_stand_first(study: Study) -> None:
    found = compared(study, "feed")
    for column in found:
        alone = compare_column(
            study.workspace.analysis(column.name), study.table["feed"], GroupsBy("feed"), Comparing()
        )
        assert column.p == alone.comparison.result.p
    assert [column.adjusted for column in found] == pytest.approx(list(holm([column.p for column in found])))
    assert found[0].name == "feed_ratio" and found[0].differs(0.05) and not found[1].differs(0.05)


def test_a_row_has_quartiles_and_means_on_an_axis_of_its_own(study: Study) -> None:
    found = {column.name: column.row for column in compared(study, "feed")}
    places = [part for group in found["mass_g"].groups for part in (*group.quartiles, group.mean, *group.interval)]
    assert min(places) == 0.0 and max(places) == 1.0
    assert all(low <= middle <= high for low, middle, high in (group.quartiles for group in found["mass_g"].groups))
    assert all(group.quartiles is None for group in found["vaccinated"].groups), "yes and no have no quartiles"
    assert found["mass_g"].effect.startswith(("η²", "ε²"))


def test_a_row_stands_on_the_scale_of_the_columns_axis(study: Study) -> None:
    found = compare_column(study.workspace.analysis("mass_g"), study.table["feed"], GroupsBy("feed"), Comparing())
    scale = axis_scale(study.workspace.analysis("mass_g").sample, "log")
    row = small_row(found, scale=scale)
    numbers = [(group.description.q1, group.description.median, group.description.q3) for group in found.groups]
    places = np.log([part for each in numbers for part in each])
    drawn = np.array([place for group in row.groups for place in group.quartiles])
    assert np.polyfit(places, drawn, 1, full=True)[1] == pytest.approx(0.0, abs=1e-20)
    assert row.title == "mass (g), log axis"


def test_a_column_that_cannot_be_tested_stands_last_with_the_reason(tmp_path: Path) -> None:
    other = [k * 7919 % 101 / 7 for k in range(40)]
    table = table_of(tmp_path, by=["a", "b"] * 20, same=[5.5] * 40, other=other)
    found = compared(Study.of_table(table), "by")
    assert [column.name for column in found] == ["other", "same"]
    assert found[1].p is None and found[1].note and found[1].row.groups


def test_a_column_that_makes_no_groups_is_refused(study: Study) -> None:
    with pytest.raises(CulvixError):
        compare_every_column([], study.table["tag"], GroupsBy("tag"), Comparing())
