"""The search for subsets finds what is planted, says nothing of chance, and confirms on rows it has not seen."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.errors import CulvixError
from culvix.stats.core.sample import Sample
from culvix.stats.display import NumberStyle
from culvix.study import Study
from culvix.study.analysis.grouping import Grouping
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.groups.attributes import Attribute, Condition, attributes_of, within, words_of
from culvix.study.groups.row_groups import range_grouping
from culvix.study.groups.subsets.confirmed_subsets import SubsetSearch, subsets_of_levels, subsets_of_values
from culvix.study.groups.subsets.subset_request import SubsetRequest
from culvix.tables import Table, read_table

STYLE = NumberStyle(2, 3)


def category(name: str, codes: np.ndarray) -> Attribute:
    return Attribute(name, codes, tuple(f"L{k}" for k in range(int(codes.max()) + 1)))


def numbers(name: str, values: np.ndarray) -> Attribute:
    cuts = np.unique(np.quantile(values, np.arange(1, 8) / 8))
    groups: Grouping = range_grouping(name, values, cuts, Sample.of(values))
    return Attribute(name, groups.codes, tuple(groups.names), tuple(f"{cut:.2f}" for cut in cuts))


def columns(draw: np.random.Generator, n: int) -> list[Attribute]:
    made = [category(f"c{k}", draw.integers(0, 4, n)) for k in range(4)]
    return [*made, *(numbers(f"x{k}", draw.normal(size=n)) for k in range(6))]


def searched(study: Study, name: str, **options: object) -> SubsetSearch:
    preview = study.workspace.analysis(name)
    return SubsetRequest(study.table, study.working, study.table[name], **options).run(preview).search  # type: ignore[arg-type]


def test_both_planted_subsets_are_found_and_nothing_else(study: Study) -> None:
    (one,) = searched(study, "swim_cm_s").subsets
    assert [c.column for c in one.conditions] == ["strain"] and one.confirmed
    (two,) = searched(study, "feed_ratio").subsets
    assert [c.words for c in two.conditions] == ["feed is insect", "vaccinated is no"] and two.confirmed
    assert two.sentence.startswith("feed_ratio is higher (median 1.3")
    for name in ("oxygen_mg_l", "glucose_mmol_l", "cortisol_ng_ml", "parasite_count"):
        assert not [subset for subset in searched(study, name).subsets if subset.confirmed]


def test_a_column_that_moves_with_the_target_names_no_subset_unless_it_is_asked_to(study: Study) -> None:
    preview = study.workspace.analysis("length_mm")
    plain = SubsetRequest(study.table, study.working, study.table["length_mm"]).run(preview)
    assert set(plain.left_out) == {"fork_length_mm", "mass_g"} and not plain.search.subsets
    asked = SubsetRequest(study.table, study.working, study.table["length_mm"], ("mass_g",)).run(preview)
    assert not asked.left_out and asked.search.subsets[0].conditions[0].column == "mass_g"
    with pytest.raises(CulvixError, match="No column is left"):
        SubsetRequest(study.table, study.working, study.table["length_mm"], ()).run(preview)


def test_three_conditions_and_a_range_are_found_by_the_data() -> None:
    draw = np.random.default_rng(4)
    attributes = columns(draw, 12_000)
    values = draw.normal(size=12_000)
    inside = (attributes[0].codes == 2) & (attributes[1].codes == 1) & (attributes[5].codes >= 4)
    values[inside] += 2.5
    (found,) = subsets_of_values("y", values, STYLE, attributes).subsets
    assert {(c.column, c.first, c.last) for c in found.conditions} == {("c0", 2, 2), ("c1", 1, 1), ("x1", 4, 7)}
    assert np.array_equal(found.rows, np.flatnonzero(inside)) and found.confirmed
    assert found.searched.n + found.other.n == inside.sum()
    assert found.searched.effect == pytest.approx(found.other.effect, abs=0.1)


def test_a_spread_and_a_category_depart_too() -> None:
    draw = np.random.default_rng(5)
    attributes = columns(draw, 6000)
    values = draw.normal(size=6000) * np.where(attributes[2].codes == 0, 3.0, 1.0)
    (wide,) = subsets_of_values("y", values, STYLE, attributes).subsets
    assert "varies more" in wide.sentence and wide.name == "c2 is L0" and wide.confirmed
    codes = np.where((attributes[3].codes == 1) & (draw.random(6000) < 0.5), 0, draw.integers(0, 3, 6000))
    found = subsets_of_levels("feed", codes, ("a", "b", "c"), attributes).subsets
    assert found[0].name == "c3 is L1" and "more often a" in found[0].sentence and found[0].confirmed


def test_what_only_follows_from_a_stronger_subset_is_no_finding_of_its_own() -> None:
    draw = np.random.default_rng(6)
    attributes = columns(draw, 20_000)
    values = draw.normal(size=20_000) + 1.5 * (attributes[0].codes == 3)
    result = subsets_of_values("y", values, STYLE, attributes)
    assert [subset.name for subset in result.subsets] == ["c0 is L3"], "the other levels lie lower than the rest, too"


@pytest.mark.parametrize("seed", range(6))
def test_chance_confirms_nothing(seed: int) -> None:
    draw = np.random.default_rng(seed)
    attributes = columns(draw, 1500)
    if seed % 2:
        result = subsets_of_levels("z", draw.integers(0, 3, 1500), ("a", "b", "c"), attributes)
    else:
        result = subsets_of_values("y", draw.gamma(1, size=1500).round(1), STYLE, attributes)
    assert not any(subset.confirmed for subset in result.subsets)
    assert result.tried > 500 and "seeded half" in result.about


def test_the_search_ends_at_once_and_tells_the_best_so_far() -> None:
    class Stopped(Exception):
        pass

    told: list[str] = []

    def progress(share: float, words: str) -> None:
        assert 0 <= share <= 1
        told.append(words)
        if len(told) > 5:
            raise Stopped

    draw = np.random.default_rng(9)
    attributes = columns(draw, 3000)
    values = draw.normal(size=3000) + 2 * (attributes[0].codes == 1)
    with pytest.raises(Stopped):
        subsets_of_values("y", values, STYLE, attributes, progress=progress)
    assert any("best so far: c0 is L1" in words for words in told)


def test_missing_cells_make_a_condition_of_their_own() -> None:
    draw = np.random.default_rng(11)
    codes = draw.integers(-1, 3, 4000)
    attributes = [Attribute("site", codes, ("a", "b", "c")), *columns(draw, 4000)]
    values = draw.normal(size=4000) - (codes < 0)
    (found,) = subsets_of_values("y", values, STYLE, attributes).subsets
    assert found.name == "site is missing" and np.array_equal(found.rows, np.flatnonzero(codes < 0))


def test_conditions_say_what_they_hold(demo_table: Table, study: Study) -> None:
    working: WorkingSet = study.working
    attributes = attributes_of(demo_table, working, "feed_ratio", ["length_mm", "tank", "fin_score"])
    length = attributes[0]
    values = study.table["length_mm"].values
    low, high = (float(length.cuts[at]) for at in (1, 4))
    condition = Condition("length_mm", 2, 4, words_of(length, 2, 4))
    assert condition.words == f"length_mm from {length.cuts[1]} to below {length.cuts[4]}"
    assert np.array_equal(within(attributes, [condition]), (values >= low) & (values < high))
    assert words_of(length, 0, 3).startswith("length_mm below ")
    assert words_of(length, 5, 7).startswith("length_mm at least ")
    assert words_of(attributes[1], 3, 3) == "tank is T4" and words_of(attributes[1], 6, 6) == "tank is missing"


def test_columns_that_were_not_asked_are_counted(tmp_path: Path) -> None:
    draw = np.random.default_rng(31)
    path = tmp_path / "wide.csv"
    pl.DataFrame({f"x{k}": draw.normal(size=80).round(2) for k in range(70)}).write_csv(path)
    study = Study.of_table(read_table(path))
    found = SubsetRequest(study.table, study.working, study.table["x0"]).run(study.workspace.analysis("x0"))
    assert found.beyond == 10
