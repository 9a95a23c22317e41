"""In which order the lines stand, as a list to choose from; a click on a head chooses, too."""

from PyQt6.QtCore import pyqtSignal

from culvix.app.widgets.choice import Choice
from culvix.study.analysis.survey.order import BY_NAME, BY_WORST, SurveyOrder, signed_fields
from culvix.study.analysis.survey.survey import survey_fields

__all__ = ["OrderChoice"]

_AS_IN_TABLE, _WORST = SurveyOrder(), SurveyOrder(BY_WORST, descending=True)


def _named(order: SurveyOrder) -> str:
    if order == _AS_IN_TABLE:
        return "order of the table"
    if order.key == BY_WORST:
        return "worst first"
    name = "name" if order.key == BY_NAME else survey_fields()[order.key].name
    if order.by_size:
        return f"size of {name}"
    return f"{name}, {'falling' if order.descending else 'rising'}"


class OrderChoice(Choice):
    """Offers the orders that no click on a head gives, and shows the one that holds."""

    ordered = pyqtSignal(SurveyOrder)

    def __init__(self) -> None:
        super().__init__()
        self.setToolTip("The order of the lines; a click on the head of a statistic orders by it")
        self._orders: list[SurveyOrder] = []
        self.activated.connect(lambda position: self.ordered.emit(self._orders[position]))

    def offer(self, shown: tuple[str, ...], order: SurveyOrder) -> None:
        """List what can be chosen where the statistics ``shown`` stand in the lines, and ``order`` holds."""
        signed = [SurveyOrder(key, descending=True, by_size=True) for key in signed_fields() if key in shown]
        orders = [_AS_IN_TABLE, _WORST, *signed]
        if order not in orders:
            orders.append(order)
        if orders != self._orders:
            self._orders = orders
            self.clear()
            self.addItems([_named(each) for each in orders])
        self.setCurrentIndex(orders.index(order))
