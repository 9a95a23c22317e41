"""The list of all pairs: what it is searched and sorted by."""

from collections.abc import Iterator

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot
from scipy import stats as oracle

from culvix.app.relations.pairs.pair_list import PairTable
from culvix.stats.display import coefficient
from culvix.study.relations.ranking import Relations, rank_pairs

DOWN, UP = Qt.SortOrder.DescendingOrder, Qt.SortOrder.AscendingOrder


@pytest.fixture
def relations() -> Relations:
    draw = np.random.default_rng(4)
    length = draw.normal(size=80)
    bent = np.exp(3 * length)
    gaps = np.where(np.arange(80) < 20, np.nan, -length + draw.normal(size=80))
    return rank_pairs(["Length", "bent", "gaps", "noise"], [length, bent, gaps, draw.normal(size=80)])


@pytest.fixture
def listed(qtbot: QtBot, relations: Relations) -> Iterator[PairTable]:
    parent = QWidget()
    qtbot.addWidget(parent)
    table = PairTable(parent)
    table.put(relations.pairs)
    yield table


def pairs(table: PairTable) -> list[set[str]]:
    return [{pair.x, pair.y} for pair in table.pairs]


def shown(table: PairTable, head: str) -> list[object]:
    column = table.heads.index(head)
    return [table.data(table.index(row, column)) for row in range(table.row_count())]


def test_p_is_adjusted_for_all_pairs_and_lost_rows_are_counted(relations: Relations) -> None:
    p = np.array([pair.coefficients["spearman"].p for pair in relations.pairs])
    expected = oracle.false_discovery_control(p)
    assert [pair.adjusted["spearman"] for pair in relations.pairs] == pytest.approx(expected)
    assert all(pair.lost == (20 if "gaps" in (pair.x, pair.y) else 0) for pair in relations.pairs)
    assert all(pair.adjusted["pearson"] >= pair.coefficients["pearson"].p for pair in relations.pairs)


def test_it_sorts_by_strength_gap_p_and_lost_rows(listed: PairTable) -> None:
    listed.sort(listed.heads.index("|ρ| − |r|"), DOWN)
    assert pairs(listed)[0] == {"Length", "bent"} and shown(listed, "|ρ| − |r|")[0] == coefficient(listed.pairs[0].gap)
    listed.sort(listed.heads.index("p adj. (ρ)"), UP)
    found = [pair.adjusted["spearman"] for pair in listed.pairs]
    assert found == sorted(found)
    listed.sort(listed.heads.index("lost"), DOWN)
    assert shown(listed, "lost") == ["20"] * 3 + ["0"] * 3
    listed.sort(listed.heads.index("column"), UP)
    assert shown(listed, "column") == sorted(shown(listed, "column"), key=str.casefold)


def test_it_is_searched_by_parts_of_both_names_and_by_column(listed: PairTable, relations: Relations) -> None:
    listed.seek("leng NOI")
    assert pairs(listed) == [{"Length", "noise"}]
    listed.seek("", only="gaps")
    assert len(pairs(listed)) == 3 and all("gaps" in pair for pair in pairs(listed))
    listed.sort(listed.heads.index("Pearson r"), DOWN)
    listed.put(relations.pairs)
    assert len(pairs(listed)) == 3, "what is listed anew is searched as before"
    strengths = [abs(pair.coefficients["pearson"].r) for pair in listed.pairs]
    assert strengths == sorted(strengths, reverse=True)
    listed.seek("")
    assert len(pairs(listed)) == 6


def test_a_pair_without_a_coefficient_is_listed_last_with_its_reason(qtbot: QtBot, listed: PairTable) -> None:
    draw = np.random.default_rng(1)
    listed.put(rank_pairs(["a", "b", "same"], [draw.normal(size=9), draw.normal(size=9), np.ones(9)]).pairs)
    for head in ("Pearson r", "|ρ| − |r|"):
        listed.sort(listed.heads.index(head), DOWN)
        assert pairs(listed)[0] == {"a", "b"} and shown(listed, head)[-1] == "—"
    listed.sort(listed.heads.index("p adj. (ρ)"), UP)
    assert pairs(listed)[0] == {"a", "b"}
    tip = listed.data(listed.index(2, 2), Qt.ItemDataRole.ToolTipRole)
    assert "same value" in str(tip)
