"""How much categories tell of numbers and of each other, over all pairs of a table."""

import numpy as np
import pytest
from scipy import stats as oracle

from culvix.errors import Cancelled
from culvix.study import Study
from culvix.study.analysis.grouping import Grouping
from culvix.study.document.decisions import DecisionKind
from culvix.study.relations.category_pairs import category_pairs, pairs_with_categories
from tests.study.relations.test_relation_findings import unrelated

TANK, ACTIVITY = "tank", "activity_min_h"


def test_pairs_of_the_demo_are_those_of_an_oracle(study: Study) -> None:
    found = {(pair.x, pair.y): pair for pair in pairs_with_categories(study.table, study.working)}
    pair, values = found[TANK, ACTIVITY], study.table[ACTIVITY].values
    tanks = np.array(study.table[TANK].text.to_list())
    parts = [values[(tanks == tank) & np.isfinite(values)] for tank in sorted(set(tanks))]
    between = sum(part.size * (part.mean() - np.nanmean(values)) ** 2 for part in parts)
    assert pair.found.value == pytest.approx(between / np.nansum((values - np.nanmean(values)) ** 2))
    assert pair.of_ranks.value == pytest.approx(oracle.kruskal(*parts).statistic / (pair.found.n - 1))
    assert pair.symbol == "η²" and next(iter(found)) == (TANK, ACTIVITY), "the strongest stands first"
    assert len(found) == len(pairs_with_categories(study.table, study.working)), "no pair stands there twice"
    strengths = [each.strength for each in found.values()]
    assert strengths == sorted(strengths, reverse=True)


def test_two_categories_have_one_pair_and_p_is_adjusted_over_all(study: Study) -> None:
    found = pairs_with_categories(study.table, study.working)
    both = [frozenset((pair.x, pair.y)) for pair in found if pair.both]
    assert len(both) == len(set(both)) and frozenset(("strain", "feed")) in both
    tried = [pair for pair in found if pair.found.p is not None]
    expected = oracle.false_discovery_control([pair.found.p for pair in tried])
    assert [pair.adjusted for pair in tried] == pytest.approx(expected)


def test_what_was_decided_and_what_is_missing_is_left_out(study: Study) -> None:
    study.decide(DecisionKind.EXCLUDE_VALUE, ACTIVITY, [0, 1, 2])
    (pair,) = [
        each for each in pairs_with_categories(study.table, study.working) if (each.x, each.y) == (TANK, ACTIVITY)
    ]
    assert pair.found.n == study.table.rows - 3 and pair.lost == 3


def test_unrelated_columns_hardly_ever_have_a_small_adjusted_p() -> None:
    """In twelve tables of eight columns and three categories."""
    wrong = 0
    for seed in range(12):
        draw = np.random.default_rng(seed)
        n = int(draw.choice([60, 300]))
        values = {f"c{at}": unrelated(draw, n, at % 5) for at in range(8)}
        groups = [Grouping(f"g{k}", tuple("abcde"[:k]), draw.integers(0, k, n)) for k in (2, 3, 5)]
        wrong += any((pair.adjusted or 1.0) < 0.05 for pair in category_pairs(groups, values))
    assert wrong <= 2


def test_work_on_pairs_can_be_stopped(study: Study) -> None:
    def stop(share: float, doing: str) -> None:
        raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        pairs_with_categories(study.table, study.working, stop)
    assert category_pairs([], {}) == ()
