"""The frequency table of the bars: rows, per cent and per cent up to each bin, live and copyable."""

from collections.abc import Mapping
from itertools import pairwise
from types import MappingProxyType

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtWidgets import QApplication, QHeaderView, QPushButton, QTableView

from culvix.app.widgets.parts import by_font
from culvix.stats.core.sample import Sample
from culvix.stats.display import count, decimals_of, number, significant
from culvix.stats.shape.histogram import WHOLE_NUMBERS, Histogram
from culvix.study.analysis.axis_parts import AxisParts

__all__ = ["FrequencyTable", "frequencies"]

_HEADS = ("bin", "rows", "%", "Σ %")
_ROWS_MEASURED = 200
"""Bins that are looked at for the widths of columns."""
_ALIGN = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


def frequencies(
    bars: Histogram, axis: AxisParts, words: Mapping[float, str] = MappingProxyType({})
) -> list[tuple[str, int, float, float]]:
    """Name, rows, per cent and per cent up to it of every bin of ``bars`` on ``axis``.

    ``words`` say what whole numbers stand for. The open bins at either end are among them.
    """
    decimals = decimals_of(Sample.of(bars.edges))
    positions = axis.style.statistic_decimals if decimals is None else min(decimals, 12)
    edges = [number(edge, positions) for edge in bars.edges.tolist()]
    if not axis.scale.is_measured:
        edges = [significant(axis.scale.value(edge)) for edge in bars.edges.tolist()]
    closed_left = bars.closed == "left"
    before, upper = ("", "<\N{THIN SPACE}") if closed_left else (">\N{THIN SPACE}", "")
    names = [f"{before}{low} to {upper}{high}" for low, high in pairwise(edges)]
    if bars.rule == WHOLE_NUMBERS:
        codes = [edge + 0.5 for edge in bars.edges[:-1].tolist()]
        names = [f"{number(code, 0)} {words.get(code, '')}".rstrip() for code in codes]
    rows = [(name, times) for name, times in zip(names, bars.counts.tolist(), strict=True)]
    if bars.below:
        rows.insert(0, (f"{'<' if closed_left else '≤'}\N{THIN SPACE}{edges[0]}", bars.below))
    if bars.above:
        rows.append((f"{'≥' if closed_left else '>'}\N{THIN SPACE}{edges[-1]}", bars.above))
    found, so_far, n = [], 0, max(bars.n, 1)
    for name, times in rows:
        so_far += times
        found.append((name, times, 100 * times / n, 100 * so_far / n))
    return found


class _Model(QAbstractTableModel):
    def __init__(self) -> None:
        super().__init__()
        self.rows: list[tuple[str, int, float, float]] = []

    def put(self, rows: list[tuple[str, int, float, float]]) -> None:
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(_HEADS)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _ALIGN
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        cell = self.rows[index.row()][index.column()]
        if isinstance(cell, str):
            return cell
        return count(cell) if isinstance(cell, int) else "<\N{THIN SPACE}0.1" if 0 < cell < 0.05 else f"{cell:.1f}"

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        across = orientation == Qt.Orientation.Horizontal
        return _HEADS[section] if across and role == Qt.ItemDataRole.DisplayRole else None


class FrequencyTable(QTableView):
    """One row a bin."""

    def __init__(self) -> None:
        super().__init__()
        self.bins = _Model()
        self.setModel(self.bins)
        self.copy_button = QPushButton("Copy")
        self.copy_button.setToolTip("Copy the table, in full precision, for a spreadsheet")
        self.copy_button.clicked.connect(self.copy)
        across, down = self.horizontalHeader(), self.verticalHeader()
        assert across is not None and down is not None
        across.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        across.setResizeContentsPrecision(_ROWS_MEASURED)
        across.setMinimumSectionSize(by_font(36))
        down.hide()
        down.setDefaultSectionSize(by_font(19))
        self.setShowGrid(False)
        self.setSelectionMode(QTableView.SelectionMode.NoSelection)
        self.setMinimumHeight(by_font(90))

    def show_bars(
        self, bars: Histogram | None, axis: AxisParts | None, words: Mapping[float, str] = MappingProxyType({})
    ) -> None:
        """Show the frequencies of ``bars`` on ``axis``, with what codes stand for; nothing without them."""
        self.bins.put([] if bars is None or axis is None else frequencies(bars, axis, words))

    def copy(self) -> None:
        """Put the table on the clipboard, tabs between its cells."""
        lines = ["\t".join(_HEADS)]
        lines += [
            "\t".join([name.replace("\N{THIN SPACE}", ""), str(times), repr(share), repr(up_to)])
            for name, times, share, up_to in self.bins.rows
        ]
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText("\n".join(lines))
