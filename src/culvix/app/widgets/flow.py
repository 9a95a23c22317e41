"""Controls side by side in as many rows as the width asks for, so that none is cut in a narrow window."""

from PyQt6.QtCore import QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QSizePolicy, QVBoxLayout, QWidget

__all__ = ["FlowLayout", "LeastHighLayout", "flow_of"]


class FlowLayout(QLayout):
    """Rows of items from the left; what a row has to spare goes to its items that can grow, or to a gap."""

    def __init__(self, spacing: int = 6, between_rows: int = 3) -> None:
        # The layout is invalidated while it is being made.
        self._asked: dict[int, tuple[bool, QSize]] = {}
        self._arrangements: dict[int, tuple[list[tuple[int, QRect]], int]] = {}
        """What items ask for, until something changes, and where they stand at a width, while they ask for the same."""
        self._arranged_for: list[tuple[bool, QSize]] = []
        self._stale = True
        super().__init__()
        self.setContentsMargins(0, 0, 0, 0)
        self.setSpacing(spacing)
        self.between_rows = between_rows
        self._items: list[QLayoutItem] = []
        self._gaps: set[int] = set()
        self._width = 0
        """The width it was given last: a layout forgets its own whenever it is to be made anew."""
        self._requested_height = 0

    def add_gap(self) -> None:
        """Push what follows to the right end of its row, where there is room."""
        self._gaps.add(len(self._items))

    # What a layout has to answer

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def invalidate(self) -> None:
        self._asked.clear()
        self._stale = True
        super().invalidate()

    def _hint(self, at: int) -> tuple[bool, QSize]:
        """Whether an item takes no room, and the size it asks for."""
        if at not in self._asked:
            item = self._items[at]
            empty = item.isEmpty()
            self._asked[at] = empty, QSize() if empty else item.sizeHint()
        return self._asked[at]

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        margins = self.contentsMargins()
        inner = width - margins.left() - margins.right()
        return self._arranged(inner)[1] + margins.top() + margins.bottom()

    def sizeHint(self) -> QSize:
        hints = [size for empty, size in map(self._hint, range(len(self._items))) if not empty]
        wide = sum(size.width() for size in hints) + self.spacing() * max(len(hints) - 1, 0)
        return QSize(wide, max((size.height() for size in hints), default=0))

    def minimumSize(self) -> QSize:
        least = QSize(0, 0)
        for at, item in enumerate(self._items):
            least = least if self._hint(at)[0] else least.expandedTo(item.minimumSize())
        # Panes that do not ask how high a width makes them are told of all rows at the width they have.
        width = self._width
        return QSize(least.width(), max(least.height(), self.heightForWidth(width) if width > 0 else 0))

    def setGeometry(self, rect: QRect) -> None:
        wider, self._width = rect.width() != self._width, rect.width()
        super().setGeometry(rect)
        inner = self.contentsRect()
        for at, place in self._arranged(inner.width())[0]:
            self._items[at].setGeometry(place.translated(inner.topLeft()))
        if wider:
            self._tell_height()

    def _tell_height(self) -> None:
        """Have the panes around ask again how high the rows are."""
        parent = self.parentWidget()
        if parent is not None and self._requested_height != (height := self.heightForWidth(self._width)):
            self._requested_height = height
            self.update()
            parent.updateGeometry()

    # The rows

    def _rows(self, width: int) -> list[list[int]]:
        """The places of the items in each row."""
        rows: list[list[int]] = []
        used = 0
        for position in range(len(self._items)):
            empty, hint = self._hint(position)
            if empty:
                continue
            needed = min(hint.width(), width)
            if rows and used + self.spacing() + needed <= width:
                rows[-1].append(position)
                used += self.spacing() + needed
            else:
                rows.append([position])
                used = needed
        return rows

    def _arranged(self, width: int) -> tuple[list[tuple[int, QRect]], int]:
        """Where each item stands from the left top corner in rows of ``width``, and how high they are."""
        if self._stale or len(self._arranged_for) != len(self._items):
            self._stale = False
            asked = [self._hint(at) for at in range(len(self._items))]
            # Most of what makes a layout ask anew changes no size.
            if asked != self._arranged_for:
                self._arranged_for = asked
                self._arrangements.clear()
        if width not in self._arrangements:
            self._arrangements[width] = self._arrange(width)
        return self._arrangements[width]

    def _arrange(self, width: int) -> tuple[list[tuple[int, QRect]], int]:
        top, places = 0, []
        for row in self._rows(width):
            widths = {at: min(self._hint(at)[1].width(), width) for at in row}
            spare = max(width - sum(widths.values()) - self.spacing() * (len(row) - 1), 0)
            growing = [at for at in row if self._can_grow(at)]
            for at in growing:
                widths[at] += spare // len(growing)
            heights = {at: self._height(at, widths[at]) for at in row}
            high, left = max(heights.values()), 0
            for at in row:
                if at in self._gaps and not growing and at != row[0]:
                    left += spare
                    spare = 0
                places.append((at, QRect(left, top + (high - heights[at]) // 2, widths[at], heights[at])))
                left += widths[at] + self.spacing()
            top += high + self.between_rows
        return places, max(top - self.between_rows, 0)

    def _can_grow(self, at: int) -> bool:
        item = self._items[at]
        wants = bool(item.expandingDirections() & Qt.Orientation.Horizontal)
        return wants and item.maximumSize().width() > self._hint(at)[1].width()

    def _height(self, at: int, width: int) -> int:
        item = self._items[at]
        return item.heightForWidth(width) if item.hasHeightForWidth() else self._hint(at)[1].height()


class LeastHighLayout(QVBoxLayout):
    """Panes below each other that ask for the least height they can do with, where others ask for what they like."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._asking = False

    def heightForWidth(self, width: int) -> int:
        if self._asking:
            return super().heightForWidth(width)
        # The least height is found out on the way to the usual one.
        self._asking = True
        try:
            return self.minimumHeightForWidth(width)
        finally:
            self._asking = False


def flow_of(*parts: QWidget | QLayout | int, spacing: int = 6) -> FlowLayout:
    """Widgets and groups of them (layouts, which stay together) in rows; a number is a gap."""
    layout = FlowLayout(spacing)
    for part in parts:
        if isinstance(part, int):
            layout.add_gap()
        elif isinstance(part, QLayout):
            group = QWidget()
            group.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Preferred)
            group.setLayout(part)
            layout.addWidget(group)
        else:
            layout.addWidget(part)
    return layout
