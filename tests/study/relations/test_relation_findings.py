"""What is said of pairs: four sets of equal summary numbers, what the demo plants, and nothing of unrelated columns."""

import numpy as np
import pytest

from culvix.errors import Cancelled
from culvix.study import Study
from culvix.study.analysis.grouping import Grouping
from culvix.study.document.decisions import DecisionKind
from culvix.study.relations.finding import KINDS, RelationFinding
from culvix.study.relations.relation_findings import MOST_COLUMNS, findings_of_table, relation_findings

X = np.array([10, 8, 13, 9, 11, 14, 6, 4, 12, 7, 5.0])
FOURTH = np.array([6.58, 5.76, 7.71, 8.84, 8.47, 7.04, 5.25, 12.5, 5.56, 7.91, 6.89])
QUARTET = (
    (X, np.array([8.04, 6.95, 7.58, 8.81, 8.33, 9.96, 7.24, 4.26, 10.84, 4.82, 5.68])),
    (X, np.array([9.14, 8.14, 8.74, 8.77, 9.26, 8.10, 6.13, 3.10, 9.13, 7.26, 4.74])),
    (X, np.array([7.46, 6.77, 12.74, 7.11, 7.81, 8.84, 6.08, 5.39, 8.15, 6.42, 5.73])),
    (np.where(np.arange(11) == 7, 19.0, 8.0), FOURTH),
)
"""Anscombe, F. J. 1973: Graphs in statistical analysis. American Statistician 27, 17-21: r is 0.816 in all four."""


def unrelated(draw: np.random.Generator, n: int, shape: int) -> np.ndarray:
    """A column of one of five shapes."""
    return np.asarray(
        [
            draw.normal(size=n),
            draw.gamma(2, 3, n),
            draw.standard_t(5, n),
            draw.integers(0, 6, n).astype(float),
            draw.random(n),
        ][shape]
    )


def found_in(x: np.ndarray, y: np.ndarray, *groups: Grouping) -> dict[str, RelationFinding]:
    return {each.kind: each for each in relation_findings(["x", "y"], [x, y], groups)}


def test_four_sets_of_equal_summary_numbers_have_four_sets_of_findings() -> None:
    found = [found_in(*each) for each in QUARTET]
    assert found[0] == {}
    assert set(found[1]) == {"curve"} and "rises ever more slowly" in found[1]["curve"].sentence
    assert found[2]["one_row"].row == 2 and "+0.99999 to +0.816" in found[2]["one_row"].sentence
    assert set(found[3]) == {"one_row"} and found[3]["one_row"].row == 7
    assert "without it there is none" in found[3]["one_row"].sentence
    assert len({frozenset(each) for each in found}) == 4


def test_what_is_planted_in_the_demo_is_found_and_nothing_of_other_columns(study: Study) -> None:
    found = findings_of_table(study.table, study.working)
    pairs = {(each.kind, frozenset((each.x, each.y))) for each in found}
    sizes = ("length_mm", "fork_length_mm", "mass_g")
    assert ("reversal", frozenset(("activity_min_h", "growth_pct_day"))) in pairs
    assert ("near_copy", frozenset(("length_mm", "fork_length_mm"))) in pairs
    assert ("curve", frozenset(("length_mm", "mass_g"))) in pairs
    assert all(pair <= set(sizes) or kind == "reversal" for kind, pair in pairs)
    (turned,) = [each for each in found if each.kind == "reversal"]
    assert turned.by == "tank" and "+0.651 over all rows, but −0.784 within tank" in turned.sentence
    alone = [each.sentence for each in found if each.kind == "one_row"]
    assert alone and all("H-0640 (row 640) alone moves r" in sentence for sentence in alone)


def test_a_row_that_was_decided_on_is_said_no_more(study: Study) -> None:
    before = {each.row for each in findings_of_table(study.table, study.working) if each.kind == "one_row"}
    study.decide(DecisionKind.EXCLUDE_VALUE, "mass_g", sorted(before))
    after = {each.row for each in findings_of_table(study.table, study.working) if each.kind == "one_row"}
    assert before and not before & after


def test_of_unrelated_columns_hardly_anything_is_said() -> None:
    """In six tables of thirty columns of several shapes; each kind may be wrong in one table of twenty."""
    wrong = 0
    for seed in range(6):
        draw = np.random.default_rng(seed)
        n = int(draw.choice([40, 150, 400]))
        columns = [unrelated(draw, n, j % 5) for j in range(30)]
        groups = [Grouping("g", tuple("abcd"), draw.integers(0, 4, n))]
        wrong += bool(relation_findings([f"c{j}" for j in range(30)], columns, groups))
    assert wrong <= 1


@pytest.mark.parametrize(
    ("y", "words"),
    [
        (lambda x: np.exp(x), "rises ever faster with x"),
        (lambda x: -np.exp(-x), "rises ever more slowly with x"),
        (lambda x: -np.exp(x), "falls ever faster with x"),
        (lambda x: np.exp(-x), "falls ever more slowly with x"),
        (lambda x: x**2, "has its lowest values in the middle of x"),
        (lambda x: -(x**2), "has its highest values in the middle of x"),
    ],
)
def test_a_bend_is_said_in_words(y: object, words: str) -> None:
    draw = np.random.default_rng(3)
    x = draw.uniform(-2, 2, 300)
    sentence = found_in(x, y(x) + draw.normal(0, 0.3, 300))["curve"].sentence
    assert words in sentence or sentence.startswith("x "), sentence


def test_a_straight_relation_with_noise_has_no_findings() -> None:
    draw = np.random.default_rng(4)
    x = draw.normal(size=500)
    assert found_in(x, 2 * x + draw.normal(size=500), Grouping("g", ("a", "b"), draw.integers(0, 2, 500))) == {}


def test_lost_rows_are_said_from_a_fifth_on() -> None:
    draw = np.random.default_rng(5)
    x, y = draw.normal(size=100), draw.normal(size=100)
    y[:15] = np.nan
    assert "lost" not in found_in(x, y)
    y[:30] = np.nan
    assert "30.0 % of the rows" in found_in(x, y)["lost"].sentence


def test_too_few_and_too_many_columns_have_none_and_it_can_be_stopped() -> None:
    draw = np.random.default_rng(6)
    assert relation_findings(["x"], [draw.normal(size=50)]) == ()
    many = MOST_COLUMNS + 1
    assert relation_findings([str(k) for k in range(many)], [np.arange(50.0)] * many) == ()
    assert found_in(np.full(20, 3.0), draw.normal(size=20)) == {} and set(KINDS)

    def stop(share: float, doing: str) -> None:
        raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        relation_findings(["x", "y"], list(draw.normal(size=(2, 50))), progress=stop)
