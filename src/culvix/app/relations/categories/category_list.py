"""Pairs that have a category, as a list that sorts."""

from PyQt6.QtWidgets import QWidget

from culvix.app.relations.pairs.pairs_model import PairsModel
from culvix.app.widgets.lists.sorted_list import ListHead, number_head, p_head
from culvix.stats.display import DASH, count, number, p_value
from culvix.study.relations.category_pairs import CategoryPair

__all__ = ["category_table"]

_TELLS = {
    "η²": "share of the variation of the values that lies between the groups",
    "V": "Cramér's V with its bias taken out (Bergsma 2013): 0 for no relation, 1 for the closest",
}

_SMALLEST = 0.0005


def _share(value: float | None) -> str:
    if value is None:
        return DASH
    return "< 0.001" if 0 < value < _SMALLEST else number(value, 3)


def _tip(pair: CategoryPair) -> str:
    message = pair.found.note or f"{_TELLS[pair.symbol]}; {p_value(pair.found.p)}, n {count(pair.found.n)}"
    return f"{pair.y} by {pair.x}\n{message}"


_HEADS = (
    ListHead("column", 88, lambda pair: pair.y, lambda pair: pair.y.casefold(), _tip, right=False),
    ListHead("by", 70, lambda pair: pair.x, lambda pair: pair.x.casefold(), _tip, right=False),
    ListHead(
        "η² or V",
        68,
        lambda pair: f"{pair.symbol} {_share(pair.found.value)}",
        lambda pair: pair.strength,
        _tip,
        exact=lambda pair: pair.found.value,
    ),
    ListHead(
        "ε² ranks",
        60,
        lambda pair: _share(pair.of_ranks.value) if pair.of_ranks else "",
        lambda pair: (pair.of_ranks.value or 0.0) if pair.of_ranks else -1.0,
        _tip,
        exact=lambda pair: pair.of_ranks.value if pair.of_ranks else None,
    ),
    number_head("n", 46, lambda pair: pair.found.n, tip=_tip),
    p_head("p adj.", 66, lambda pair: pair.adjusted, _tip),
    number_head("lost", 38, lambda pair: pair.lost, tip=lambda _: "Rows with one value only"),
)


def category_table(parent: QWidget) -> PairsModel[CategoryPair]:
    """A list of pairs with a category."""
    return PairsModel(_HEADS, parent)
