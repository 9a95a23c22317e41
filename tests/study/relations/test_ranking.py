"""Pairs of columns: with and without flagged rows, and the kind of coefficient suggested."""

import numpy as np
import pytest

from culvix.errors import CulvixError
from culvix.stats.core.normal_scores import normal_scores
from culvix.stats.core.sample import Sample
from culvix.stats.normality.verdict import judge_normality
from culvix.stats.registry import NORMALITY_TESTS
from culvix.study import Study
from culvix.study.relations.pair_view import view_pair
from culvix.study.relations.ranking import rank_pairs, suggest_kind
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
