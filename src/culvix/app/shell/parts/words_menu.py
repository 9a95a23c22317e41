"""What a right click offers on words, numbers and lists anywhere in the window: to copy them for another program."""

from html import escape

from PyQt6.QtCore import QAbstractListModel, QMimeData, QPoint, Qt
from PyQt6.QtWidgets import QAbstractItemView, QApplication, QGridLayout, QLabel, QLayout, QMenu, QWidget

from culvix.app.widgets.parts import ElidedLabel
from culvix.charts.plots.matrix.chart import MatrixChart
from culvix.visible_text import visible

__all__ = ["Lines", "lines_around", "words_at", "words_menu"]

Lines = list[list[str]]
"""Cells by row."""

_MOST_LINES = 50_000


def words_at(window: QWidget, point: QPoint) -> str:
    """The words of the label at ``point``, whole, however much of them has room; empty where there is none."""
    found = window.childAt(point)
    if isinstance(found, ElidedLabel):
        return found.whole
    return found.text() if isinstance(found, QLabel) else ""


def lines_around(window: QWidget, point: QPoint) -> Lines:
    """The lines of the grid or list at ``point``, as they are shown; none where there is neither."""
    found: QWidget | None = window.childAt(point)
    while found is not None and found is not window:
        if isinstance(found, QAbstractItemView):
            return _of_view(found)
        if isinstance(found, MatrixChart):
            return found.lines
        above = found.parentWidget()
        grid = _grid_with(above.layout() if above is not None else None, found)
        if grid is not None:
            return _of_grid(grid)
        found = above
    return []


def words_menu(window: QWidget, point: QPoint) -> QMenu | None:
    """The menu at ``point``; None where there is nothing to copy."""
    words, lines = words_at(window, point), lines_around(window, point)
    menu = QMenu(window)
    if words and (action := menu.addAction("Copy these words")) is not None:
        action.triggered.connect(lambda: _copy([[words]]))
    if len(lines) > 1 and (action := menu.addAction("Copy all these lines")) is not None:
        action.triggered.connect(lambda: _copy(lines))
    return None if menu.isEmpty() else menu


def _grid_with(layout: QLayout | None, widget: QWidget) -> QGridLayout | None:
    """The grid in ``layout``, or in one inside it, in which ``widget`` stands."""
    if layout is None:
        return None
    if isinstance(layout, QGridLayout) and layout.indexOf(widget) >= 0:
        return layout
    inner = (item.layout() for at in range(layout.count()) if (item := layout.itemAt(at)) is not None)
    return next((found for each in inner if (found := _grid_with(each, widget)) is not None), None)


def _of_grid(grid: QGridLayout) -> Lines:
    lines = [["" for _ in range(grid.columnCount())] for _ in range(grid.rowCount())]
    for at in range(grid.count()):
        item, (row, column, _, _) = grid.itemAt(at), grid.getItemPosition(at)
        label = item.widget() if item is not None else None
        if isinstance(label, QLabel) and not label.isHidden() and row is not None and column is not None:
            lines[row][column] = label.whole if isinstance(label, ElidedLabel) else label.text()
    return [line for line in lines if any(line)]


def _of_view(view: QAbstractItemView) -> Lines:
    model = view.model()
    if model is None:
        return []
    hidden = getattr(view, "isColumnHidden", lambda column: False)
    columns = [
        column
        for column in range(1 if isinstance(model, QAbstractListModel) else model.columnCount())
        if not hidden(column)
    ]
    heads = [str(model.headerData(column, Qt.Orientation.Horizontal) or "") for column in columns]
    lines = [
        [str(model.data(model.index(row, column)) or "") for column in columns]
        for row in range(min(model.rowCount(), _MOST_LINES))
    ]
    return [heads, *lines] if any(heads) and len(columns) > 1 else lines


def _copy(lines: Lines) -> None:
    """Put ``lines`` on the clipboard as rich text and as plain text."""
    lines = [[visible(cell) for cell in line] for line in lines]
    both = QMimeData()
    both.setText("\n".join("\t".join(line) for line in lines))
    if len(lines) == len(lines[0]) == 1:
        both.setHtml(f"<p>{escape(lines[0][0])}</p>")
    else:
        rows = "".join(f"<tr>{''.join(f'<td>{escape(cell)}</td>' for cell in line)}</tr>" for line in lines)
        both.setHtml(f"<table>{rows}</table>")
    clipboard = QApplication.clipboard()
    if clipboard is not None:
        clipboard.setMimeData(both)
