"""All pairs of columns as a list that sorts and is searched."""

from collections.abc import Mapping, Sequence

from PyQt6.QtWidgets import QWidget

from culvix.app.relations.pairs.pairs_model import PairsModel
from culvix.app.widgets.lists.sorted_list import ListHead, number_head, p_head
from culvix.stats.display import coefficient, count, p_value
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.relations.finding import KINDS, RelationFinding
from culvix.study.relations.ranking import RANKING, RankedPair

__all__ = ["PairTable"]


def _strength(key: str) -> ListHead:
    kind = CORRELATION_KINDS[key]

    def tip(pair: RankedPair) -> str:
        found = pair.coefficients.get(key)
        if found is None or found.r is None:
            return "" if found is None else found.note or ""
        by = f" by {found.p_by}" if found.p_by else ""
        adjusted = p_value(pair.adjusted.get(key)).removeprefix("p ")
        return f"{p_value(found.p)}{by}, adjusted for all pairs {adjusted}, n {count(found.n)}"

    def r(pair: RankedPair) -> float | None:
        found = pair.coefficients.get(key)
        return None if found is None else found.r

    name, width = f"{kind.name} {kind.symbol}", 84 if key == "spearman" else 68
    return number_head(name, width, r, coefficient, tip, by_size=True)


def _heads() -> list[ListHead]:
    first, last = RANKING[0], RANKING[-1]
    symbols = [CORRELATION_KINDS[key].symbol for key in (first, last)]
    return [
        ListHead("column", 96, lambda pair: pair.x, lambda pair: pair.x.casefold(), lambda pair: pair.x, right=False),
        ListHead("with", 96, lambda pair: pair.y, lambda pair: pair.y.casefold(), lambda pair: pair.y, right=False),
        *(_strength(key) for key in RANKING),
        number_head("n", 50, lambda pair: pair.n, tip=lambda _: "Rows with both values"),
        number_head(
            f"|{symbols[1]}| − |{symbols[0]}|",
            68,
            lambda pair: pair.gap,
            coefficient,
            lambda _: "Far from 0 where a relation bends, or where few rows make it",
            by_size=True,
        ),
        p_head(
            f"p adj. ({symbols[1]})",
            78,
            lambda pair: pair.adjusted.get(last),
            lambda _: "p adjusted for all pairs that were tried (Benjamini & Hochberg 1995)",
        ),
        number_head("lost", 50, lambda pair: pair.lost, tip=lambda _: "Rows with one value only"),
    ]


class PairTable(PairsModel[RankedPair]):
    """Ranked pairs, with what is to be noted of each; sorting by a coefficient sorts by its size."""

    def __init__(self, parent: QWidget) -> None:
        self._findings: Mapping[frozenset[str], Sequence[RelationFinding]] = {}
        super().__init__([*_heads(), self._noted()], parent)

    def _noted(self) -> ListHead:
        return ListHead(
            "to note",
            150,
            lambda pair: ", ".join(KINDS[each.kind] for each in self._found(pair)),
            lambda pair: -len(self._found(pair)),
            lambda pair: "\n".join(each.sentence for each in self._found(pair)),
            right=False,
        )

    def note(self, findings: Mapping[frozenset[str], Sequence[RelationFinding]]) -> None:
        """Say beside each pair what was found of it, by the names of both columns."""
        self._findings = findings
        self.list_anew()

    def _found(self, pair: RankedPair) -> Sequence[RelationFinding]:
        return self._findings.get(frozenset((pair.x, pair.y)), ())
