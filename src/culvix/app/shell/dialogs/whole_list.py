"""What is known by now of a whole table that is being surveyed, a line for each column."""

from collections.abc import Callable

from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.lists.sorted_list import ListHead, SortedList, number_head
from culvix.stats.display import DASH, count, significant
from culvix.study.whole.column_figures import ColumnOfWhole

__all__ = ["whole_list"]


def _name(column: ColumnOfWhole) -> str:
    return column.column.name


def _figure(value: float | None) -> str:
    return DASH if value is None else significant(value, 5)


def _moment(name: str) -> Callable[[ColumnOfWhole], float | None]:
    def value(column: ColumnOfWhole) -> float | None:
        moments = None if column.numbers is None else column.numbers.moments
        return None if moments is None else getattr(moments, name)

    return value


def _quantile(percentile: int) -> Callable[[ColumnOfWhole], float | None]:
    return lambda column: None if column.numbers is None else column.numbers.quantiles.get(percentile)


_HEADS = (
    ListHead("column", 150, _name, lambda c: c.column.name.casefold(), _name, right=False),
    number_head("n", 92, lambda c: c.n),
    number_head("missing", 84, lambda c: c.missing),
    number_head("mean", 84, _moment("mean"), _figure),
    number_head("SD", 84, _moment("sd"), _figure),
    number_head("median", 84, _quantile(50), _figure),
    ListHead(
        "of",
        130,
        lambda c: f"{count(c.pilot_rows)} rows so far" if c.pilot_rows else "the whole",
        lambda c: c.pilot_rows,
    ),
)


def whole_list(parent: QWidget) -> SortedList[ColumnOfWhole]:
    """An empty list of columns."""
    return SortedList(_HEADS, parent)
