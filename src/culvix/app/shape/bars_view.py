"""A column without numbers as bars: categories, days or months, texts; a bar that is clicked selects its rows."""

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QScrollArea, QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import label
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.bar_chart import BarChart
from culvix.errors import Cancelled
from culvix.progress import Progress
from culvix.stats.core.sample import Sample
from culvix.study.analysis.grouping import can_group
from culvix.study.document.row_sets import union
from culvix.study.pictures.bars import BAR_ORDERS, BarsPicture
from culvix.study.pictures.category_pictures import bars_picture
from culvix.study.pictures.code_pictures import codes_picture
from culvix.tables.model.table import Column, Role

__all__ = ["BarsView", "has_bars"]

_WHOLE = "nothing"


def has_bars(column: Column) -> bool:
    """Whether a column is shown as bars: one without numbers, or with so few ranks that each has room."""
    return not column.is_numeric or column.has_few_ranks


@dataclass(frozen=True)
class _BarsRequest:
    """What a picture is made of; the same makes the same."""

    column: Column
    order: str
    split: Column | None
    date_order: str | None
    sample: Sample | None
    """The values in use of a column of ordered codes, None for one without numbers."""

    def picture(self, progress: Progress) -> BarsPicture:
        if self.sample is not None:
            return codes_picture(self.column, self.sample, self.order, self.split)
        return bars_picture(self.column, self.order, self.split, self.date_order, progress)


class BarsView(QWidget):
    """Counts in the background, and draws as the words above are changed."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.picture: BarsPicture | None = None
        self._shown: _BarsRequest | None = None
        self._asked: _BarsRequest | None = None
        """What is being counted now."""
        self.order, self.by = Choice(), Choice()
        self.order.setAccessibleName("Order of the bars")
        self.by.setAccessibleName("Column that splits the bars")
        for box in (self.order, self.by):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(11)
            box.activated.connect(lambda _: self.request_update())
        self.about = label("", "quiet", wrap=True)
        self.chart = BarChart()
        self.chart.chosen.connect(self._choose)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setWidget(self.chart)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 4, 4, 4)
        layout.setSpacing(3)
        self.order_label, self.by_label = label("Bars", "quiet"), label("split by", "quiet")
        layout.addLayout(flow_of(self.order_label, self.order, self.by_label, self.by))
        layout.addWidget(self.about)
        layout.addWidget(self.area, 1)
        hub.selection_changed.connect(self._mark)

    def _offer(self, column: Column) -> None:
        """List the orders that the column has, and the columns that can split its bars."""
        before, orders = self.order.currentText(), self._orders(column)
        if [self.order.itemText(at) for at in range(self.order.count())] != orders:
            self.order.clear()
            self.order.addItems(orders)
            self.order.setCurrentText(before if before in orders else orders[0])
        for part in (self.order, self.order_label):
            part.setVisible(column.role is not Role.DATE)
        before = self.by.currentText()
        others = [_WHOLE, *(name for name in can_group(self.hub.study.table) if name != column.name)]
        if [self.by.itemText(at) for at in range(self.by.count())] != others:
            self.by.clear()
            self.by.addItems(others)
            self.by.setCurrentText(before if before in others else _WHOLE)

    @staticmethod
    def _orders(column: Column) -> list[str]:
        texts = column.role in (Role.TEXT, Role.IDENTIFIER)
        if column.is_numeric:
            return [BAR_ORDERS["order"], BAR_ORDERS["frequency"]]
        left_out = {"order"} if not column.order else set()
        left_out |= set() if texts else {"length"}
        return [name for key, name in BAR_ORDERS.items() if key not in left_out]

    def split_by(self, name: str) -> None:
        """Split the bars by the groups of the column ``name``."""
        self.by.setCurrentText(name)
        self.request_update()

    def request_update(self) -> None:
        """See to it that the column in focus is drawn as things stand."""
        focus = self.hub.focus
        if focus is None or not has_bars(self.hub.study.table[focus]):
            return
        table, column = self.hub.study.table, self.hub.study.table[focus]
        self._offer(column)
        order = next(key for key, name in BAR_ORDERS.items() if name == self.order.currentText())
        by = self.by.currentText()
        split = table[by] if by != _WHOLE and by in table else None
        sample = self.hub.study.working.sample(column) if column.is_numeric else None
        request = _BarsRequest(column, order, split, self.hub.study.dictionary.of(focus).date_order, sample)
        if request in (self._shown, self._asked):
            return
        self._asked = request

        def work(progress: Progress) -> BarsPicture:
            return request.picture(progress)

        def arrived(picture: BarsPicture) -> None:
            self._asked = None
            if self.hub.focus == focus:
                self._shown, self.picture = request, picture
                self.about.setText(picture.about)
                self._mark()

        self.hub.start("counting", work, arrived, failed=self._refused, priority=12)

    def _refused(self, error: Exception) -> None:
        if isinstance(error, Cancelled):
            return
        self._shown = self._asked = None
        self.problem.emit(str(error))
        self.by.setCurrentText(_WHOLE)

    def _mark(self) -> None:
        """Show in the bars which rows are selected."""
        picture, focus = self.picture, self.hub.focus
        if picture is None or focus is None or self._shown is None or self._shown.column.name != focus:
            return
        self.chart.show_picture(picture, self.hub.study.selection.in_column(focus))

    def _choose(self, bar: int, modifiers: Qt.KeyboardModifier) -> None:
        """Select the rows of a bar; with a modifier held, beside what is selected of the column already."""
        picture, focus, study = self.picture, self.hub.focus, self.hub.study
        if picture is None or focus is None:
            return
        rows = picture.rows_of(bar)
        adding = modifiers & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        if not adding or focus not in study.selection.cells:
            study.select(rows, f"{focus} {picture.bars[bar].name}", column=focus)
            return
        before = study.selection.cells[focus]
        toggled = modifiers & Qt.KeyboardModifier.ControlModifier
        rows = np.setxor1d(before, rows, assume_unique=True) if toggled else union(before, rows)
        study.select_these(study.selection.with_rows(focus, rows))

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.area

    def maker(self) -> Maker | None:
        """What makes the bars anew at any size."""
        picture = self.picture
        if picture is None:
            return None
        title = f"{self.hub.study.name} — {picture.title}, n {picture.n}"

        def make(width: int, height: int) -> QWidget:
            made = BarChart(title)
            made.show_picture(picture, np.zeros(0, dtype=np.int64))
            made.resize(width, max(height, made.needed_height))
            return made

        return make
