"""The cells of all tables: what is painted in them, and where."""

import numpy as np
import pytest
from PyQt6.QtCore import QItemSelectionModel, QModelIndex, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QTableView
from pytestqt.qtbot import QtBot

from culvix.app.widgets.lists.models import CellPainter, HeadedTable
from culvix.charts.palette import LIGHT, colour

RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)


class Cells(HeadedTable):
    """A word at the left, a number at the right, a flagged word, and words far too long for their cell."""

    def __init__(self, parent: QTableView) -> None:
        super().__init__(parent)
        self.heads = ["word", "number", "flagged", "long"]

    def row_count(self) -> int:
        return 3

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        position = index.column()
        if role == Qt.ItemDataRole.DisplayRole:
            return ("", "", "", "")[position] if index.row() == 2 else ("lake", "12.5", "odd", "words " * 40)[position]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return RIGHT if position == 1 else None
        return colour(LIGHT.flagged) if role == Qt.ItemDataRole.ForegroundRole and position == 2 else None


@pytest.fixture
def view(qtbot: QtBot) -> QTableView:
    made = QTableView(showGrid=False)
    made.setModel(Cells(made))
    made.setItemDelegate(CellPainter(made.model(), made))
    made.resize(460, 160)
    for position in range(4):
        made.setColumnWidth(position, 100)
    qtbot.addWidget(made)
    made.show()
    return made


def pixels(view: QTableView, row: int, position: int) -> np.ndarray:
    """The colours of a cell as painted, shape (height, width, 3)."""
    cell = view.visualRect(view.model().index(row, position))
    image = view.viewport().grab(cell).toImage().convertToFormat(QImage.Format.Format_RGB888)
    data = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), dtype=np.uint8)
    return data.reshape(image.height(), image.bytesPerLine())[:, : 3 * image.width()].reshape(
        image.height(), image.width(), 3
    )


def marked(cell: np.ndarray) -> np.ndarray:
    """Columns of pixels in which something stands, besides the ground at the corner."""
    return np.flatnonzero((np.abs(cell.astype(int) - cell[0, 0].astype(int)).sum(axis=2) > 60).any(axis=0))


def test_words_stand_on_their_side_and_within_their_cell(view: QTableView) -> None:
    word, figure, long = (marked(pixels(view, 0, position)) for position in (0, 1, 3))
    assert word.min() < 12 and word.max() < 50, "at the left"
    assert figure.min() > 50 and 85 < figure.max() < 98, "at the right"
    assert long.min() < 12 and 80 < long.max() < 98, "cut before the end of the cell"
    assert not marked(pixels(view, 2, 0)).size, "nothing where there is nothing to say"


def test_shades_stay_in_selected_rows(view: QTableView) -> None:
    plain = pixels(view, 0, 2)
    everything = QItemSelectionModel.SelectionFlag.Select | QItemSelectionModel.SelectionFlag.Rows
    view.selectionModel().select(view.model().index(0, 0), everything)
    chosen, other = pixels(view, 0, 2), pixels(view, 1, 2)
    ground = colour(LIGHT.raised)
    assert chosen[0, 0].tolist() == [ground.red(), ground.green(), ground.blue()] != plain[0, 0].tolist()
    assert (other == plain).all(), "only the selected row is painted anew"
    for cell in (plain, chosen):
        red, green = cell[..., 0].astype(int), cell[..., 1].astype(int)
        assert (red - green).max() > 100, "flagged, selected or not"
