"""A table whose first columns stay where they are when it is scrolled sideways."""

from PyQt6.QtCore import QAbstractItemModel, QModelIndex, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QAbstractItemDelegate, QAbstractItemView, QFrame, QHeaderView, QTableView

from culvix.app.session.configured import configured

__all__ = ["FrozenTable"]


class FrozenTable(QTableView):
    """The first ``frozen`` columns are shown by a second view, which lies over them and never moves sideways.

    Both have one model, one selection and one order; the second view takes no keyboard of its own.
    """

    def __init__(self, frozen: int) -> None:
        super().__init__()
        self.frozen = frozen
        self.over = configured(QTableView(self), cornerButtonEnabled=False, showGrid=False, autoScroll=False)
        self.over.setFrameShape(QFrame.Shape.NoFrame)
        self.over.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.over.setObjectName("frozen")
        self.over.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.over.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for view in (self, self.over):
            view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
            view.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
            view.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
            rows = view.verticalHeader()
            assert rows is not None
            rows.hide()
        for heads in (self.heads, self.frozen_heads):
            # Which line is chosen shows in the line.
            heads.setHighlightSections(False)
        self._connect()

    @property
    def heads(self) -> QHeaderView:
        """The heads of all columns; those frozen lie under the heads of the view above them."""
        header = self.horizontalHeader()
        assert header is not None
        return header

    @property
    def frozen_heads(self) -> QHeaderView:
        header = self.over.horizontalHeader()
        assert header is not None
        return header

    def _connect(self) -> None:
        heads, frozen = self.heads, self.frozen_heads
        frozen.setSectionsClickable(True)
        frozen.setSortIndicatorShown(True)
        frozen.sectionClicked.connect(self._sort_by)
        frozen.sectionResized.connect(lambda at, _, width: self.setColumnWidth(at, width))
        heads.sectionResized.connect(self._resized)
        heads.sortIndicatorChanged.connect(frozen.setSortIndicator)
        heads.geometriesChanged.connect(self._place)
        mine, theirs = self.verticalScrollBar(), self.over.verticalScrollBar()
        assert mine is not None and theirs is not None
        mine.valueChanged.connect(theirs.setValue)
        theirs.valueChanged.connect(mine.setValue)
        self.over.activated.connect(self.activated)

    def setModel(self, model: QAbstractItemModel | None) -> None:
        super().setModel(model)
        self.over.setModel(model)
        self.over.setSelectionModel(self.selectionModel())

    def set_row_height(self, height: int) -> None:
        """Give every row of both views the same height, in pixels."""
        for view in (self, self.over):
            rows = view.verticalHeader()
            assert rows is not None
            rows.setDefaultSectionSize(height)

    def freeze_delegate(self, position: int | None, delegate: QAbstractItemDelegate) -> None:
        """What paints the frozen cells of the column at ``position``, None for all of them."""
        if position is None:
            self.over.setItemDelegate(delegate)
        else:
            self.over.setItemDelegateForColumn(position, delegate)

    def repaint_rows(self) -> None:
        """Paint what is in view anew."""
        for view in (self, self.over):
            viewport = view.viewport()
            assert viewport is not None
            viewport.update()

    def _sort_by(self, position: int) -> None:
        heads = self.heads
        same = heads.sortIndicatorSection() == position
        falling = same and heads.sortIndicatorOrder() == Qt.SortOrder.AscendingOrder
        self.sortByColumn(position, Qt.SortOrder.DescendingOrder if falling else Qt.SortOrder.AscendingOrder)

    def _resized(self, position: int, _: int, width: int) -> None:
        if position < self.frozen:
            self.over.setColumnWidth(position, width)
            self._place()

    def _frozen_width(self) -> int:
        return sum(self.columnWidth(position) for position in range(self.frozen))

    def _place(self) -> None:
        """Lay the second view over the columns it stands for."""
        viewport = self.viewport()
        assert viewport is not None
        frame, height = self.frameWidth(), self.heads.height()
        self.frozen_heads.setFixedHeight(height)
        self.over.setGeometry(frame, frame, min(self._frozen_width(), viewport.width()), height + viewport.height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place()

    def scrollTo(
        self, index: QModelIndex, hint: QAbstractItemView.ScrollHint = QAbstractItemView.ScrollHint.EnsureVisible
    ) -> None:
        """Bring a cell into view, out from under the frozen columns."""
        bar = self.horizontalScrollBar()
        assert bar is not None
        before = bar.value()
        super().scrollTo(index, hint)
        if index.column() < self.frozen:
            # It is in view already.
            bar.setValue(before)
            return
        under = self._frozen_width() - self.columnViewportPosition(index.column())
        if under > 0:
            bar.setValue(bar.value() - under)
