"""Pairs of columns: with and without flagged rows, and the kind of coefficient suggested."""

import numpy as np
import pytest

from culvix.errors import CulvixError
from culvix.stats.core.normal_scores import normal_scores
from culvix.stats.core.sample import Sample
from culvix.stats.normality.verdict import judge_normality
from culvix.stats.registry import NORMALITY_TESTS
from culvix.study import Study
from culvix.study.relations.pair_analysis import analyse_pair
from culvix.study.relations.pair_view import view_pair
from culvix.study.relations.ranking import kind_matrix, rank_pairs, suggest_kind
from culvix.tables import Table

LENGTH = "length_mm"


def test_relations_with_and_without_flagged_rows(study: Study) -> None:
    columns = study.table.numeric
    ranked = rank_pairs([c.name for c in columns], [c.sample.values for c in columns])
    strengths = [pair.strength for pair in ranked.pairs]
    assert strengths == sorted(strengths, reverse=True) and len(strengths) == len(columns) * (len(columns) - 1) // 2
    assert {ranked.pairs[0].x, ranked.pairs[0].y} == {LENGTH, "fork_length_mm"}
    present = np.all([np.isfinite(column.sample.values) for column in columns], axis=0)
    assert ranked.complete == present.sum() < min(pair.n for pair in ranked.pairs)
    flagged = study.workspace.analysis(LENGTH).flags.all_agree
    x, y = study.table[LENGTH].sample.values, study.table["fork_length_mm"].sample.values
    view = view_pair(LENGTH, "fork_length_mm", x, y, flagged)
    assert view.with_flagged["pearson"].r < 0.95 < view.without_flagged["pearson"].r
    assert view.without_flagged["pearson"].n == view.with_flagged["pearson"].n - view.flagged.size
    with pytest.raises(CulvixError, match="pairs"):
        rank_pairs([str(k) for k in range(400)], [x] * 400)


def test_the_kind_suggested_follows_shape_and_straightness(demo_table: Table) -> None:
    scores = normal_scores(200)
    x, noise = 10 + scores, np.random.default_rng(0).permutation(scores)

    def suggested(y: np.ndarray) -> str:
        verdicts = {}
        for name, values in (("x", x), ("y", y)):
            sample = Sample.of(values)
            verdicts[name] = judge_normality(sample, NORMALITY_TESTS["shapiro_wilk"].run(sample), None, None)
        return suggest_kind("x", "y", x, y, verdicts, 0.05).kind

    assert suggested(x + noise) == "pearson"
    assert suggested(np.exp(x)) == "spearman"
    assert suggested(0.2 * (x - 10) ** 2 + x + noise) == "spearman"


def test_listwise_takes_the_rows_that_have_all_columns() -> None:
    draw = np.random.default_rng(4)
    columns = list(draw.normal(size=(3, 50)))
    columns[0][:5], columns[2][3:12] = np.nan, np.nan
    both, every = (rank_pairs(["a", "b", "c"], columns, listwise=listwise) for listwise in (False, True))
    assert every.listwise and every.complete == both.complete == 38
    assert set(every.matrices["pearson"].n.ravel().tolist()) == {38}
    expected = np.corrcoef([column[12:] for column in columns])
    assert every.matrices["pearson"].r == pytest.approx(expected, abs=1e-12)
    lost = {(pair.x, pair.y): pair.lost for pair in every.pairs}
    assert lost["a", "b"] == 45 + 50 - 2 * 38, "values are lost, too, where a third column has none"
    assert all(np.isfinite(column).sum() >= 41 for column in columns), "the columns stay as they are"


def test_a_kind_pair_by_pair_tells_how_far_it_is_and_can_be_stopped() -> None:
    columns = list(np.random.default_rng(4).normal(size=(4, 30)))
    shares: list[float] = []
    kind_matrix("kendall", columns, lambda share, _: shares.append(share))
    assert shares == sorted(shares) and len(shares) == 10 and 0 <= shares[0] < shares[-1] < 1

    def stop(share: float, _: str) -> None:
        if share > 0.5:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        kind_matrix("biweight", columns, stop)


def test_the_reason_for_ranks_names_ties_and_shape(study: Study) -> None:
    def reason(x: str, y: str) -> str:
        return analyse_pair(*(study.workspace.analysis(name) for name in (x, y))).suggestion.reason

    of_codes = reason("fin_score", LENGTH)
    assert "fin_score has 5 different values, and length_mm is not shown to be normal" in of_codes
    assert "tie" in of_codes and "tie" not in reason(LENGTH, "mass_g")
