"""The lines of the agreement list: which flagged values, in which order, and what stands in their cells."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtWidgets import QWidget

from culvix.app.lanes.methods_menu import VOTES
from culvix.app.session.hub import Hub
from culvix.app.widgets.lists.models import LEFT, MIDDLE, RIGHT, HeadedTable
from culvix.app.widgets.parts import plain_tip
from culvix.charts.palette import SHADES, colour
from culvix.stats.core.arrays import Ints
from culvix.stats.display import DASH, count, number, signed
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.outliers.agreement import FlaggedValues, JointDistances, flagged_values
from culvix.study.analysis.working_set import WorkingSet

__all__ = [
    "AGREE",
    "COLUMN",
    "FAR",
    "GROUP",
    "HEADS",
    "LABEL",
    "LAST",
    "NARROWS",
    "ROW",
    "VALUE",
    "FlaggedLines",
    "ListView",
    "listed",
]

NARROWS = ("all flagged", "not decided", "decided")

ROW, LABEL, COLUMN, GROUP, VALUE, FAR, AGREE = range(7)
HEADS = ("row", "label", "column", "group", "value", "from median", "methods")

LAST = ("decision", "cause", "reason", "by")


@dataclass(frozen=True)
class ListView:
    """What of the flagged values is listed, and in which order (a place in the heads, or None for the usual one)."""

    everywhere: bool
    narrow: str
    least: int
    by: int | None
    falling: bool


def listed(
    looks: list[ColumnPreview], working: WorkingSet, view: ListView, distances: JointDistances | None
) -> tuple[FlaggedValues, int]:
    """The lines of ``view`` and the number of all flagged values."""
    found = flagged_values(looks, working, distances if view.everywhere else None).ordered()
    methods = len(found.methods)
    keep = found.agreement >= view.least
    if view.narrow != NARROWS[0]:
        keep &= found.decided == (view.narrow == NARROWS[2])
    lines = found.take(np.flatnonzero(keep))
    if view.by is None:
        return lines, len(found)
    keys: dict[int, np.ndarray] = {
        ROW: lines.rows,
        LABEL: lines.rows,
        COLUMN: lines.positions,
        GROUP: _ranks(lines.groups),
        VALUE: lines.values,
        AGREE: lines.agreement,
    }
    key = keys.get(view.by)
    if view.by == FAR:
        key = np.nan_to_num(np.abs(lines.deviations), nan=-1.0)
    elif key is None:
        position = view.by - len(HEADS)
        key = lines.by[:, position] if position < methods else lines.decided
    order = np.argsort(-key.astype(np.float64) if view.falling else key, kind="stable")
    return lines.take(order), len(found)


def _ranks(groups: np.ndarray) -> Ints:
    """The place of each group in order of name."""
    return np.unique(groups.astype(str), return_inverse=True)[1]


class FlaggedLines(HeadedTable):
    """The flagged values as a table."""

    def __init__(self, hub: Hub, parent: QWidget) -> None:
        super().__init__(parent)
        self.hub = hub
        self.lines: FlaggedValues = flagged_values([], hub.study.working)
        self.looks: dict[str, ColumnPreview] = {}
        self.sorted_by: tuple[int | None, bool] = (None, False)
        self.sort_requested: Callable[[], None] = lambda: None
        self._name()

    def _name(self) -> None:
        shorts = [OUTLIER_METHODS[key].short for key in self.lines.methods]
        self.heads = [*HEADS, *shorts, *LAST]

    def put(self, lines: FlaggedValues, looks: list[ColumnPreview]) -> None:
        self.beginResetModel()
        self.lines, self.looks = lines, {preview.column.name: preview for preview in looks}
        self._name()
        self.endResetModel()

    def row_count(self) -> int:
        return len(self.lines)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        line, position = index.row(), index.column()
        if role == Qt.ItemDataRole.DisplayRole:
            return self._text(line, position)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            numeric = position in (ROW, VALUE, FAR)
            marks = AGREE <= position < len(HEADS) + len(self.lines.methods)
            return MIDDLE if marks else RIGHT if numeric else LEFT
        if role == Qt.ItemDataRole.ForegroundRole:
            if len(HEADS) <= position < len(HEADS) + len(self.lines.methods):
                return colour(SHADES.flagged)
            return colour(SHADES.muted) if self.lines.decided[line] else None
        if role == Qt.ItemDataRole.ToolTipRole and 0 <= position - len(HEADS) < len(self.lines.methods):
            at = position - len(HEADS)
            flags = "flagged" if self.lines.by[line, at] else "not flagged"
            return plain_tip(f"{flags} by {OUTLIER_METHODS[self.lines.methods[at]].name}")
        if role == Qt.ItemDataRole.ToolTipRole and position == FAR:
            group = self.lines.groups[line]
            whose = f"of {group}" if group else f"of {self.lines.column(line)}"
            return plain_tip(f"Distance from the median {whose} in its MADs scaled to SDs: {self._flag_basis_text}")
        return None

    @property
    def _flag_basis_text(self) -> str:
        """Which values are listed, and distances taken from."""
        pass_number = self.hub.study.document.pass_number
        return (
            f"of the values at the beginning of pass {pass_number}"
            if pass_number > 1
            else "of the values as they were read"
        )

    def _text(self, line: int, position: int) -> str:
        found, study = self.lines, self.hub.study
        row, column = int(found.rows[line]), found.column(line)
        if position >= len(HEADS):
            position -= len(HEADS)
            if position < len(found.methods):
                return "●" if found.by[line, position] else ""
            return self._decided(column, row, LAST[position - len(found.methods)])
        if position == LABEL:
            named = study.table.label_column
            return "" if named is None else named.cell(row)
        if position == VALUE:
            preview = self.looks.get(column)
            value = float(found.values[line])
            return f"distance {number(value, 1)}" if preview is None else preview.style.value(value)
        far = float(found.deviations[line])
        return {
            ROW: count(study.table.number_of(row)),
            COLUMN: column,
            GROUP: str(found.groups[line]),
            FAR: signed(far, 2) if np.isfinite(far) else DASH,
            AGREE: f"{found.agreement[line]} of {found.able[line]}",
        }[position]

    def _decided(self, column: str, row: int, what: str) -> str:
        decision = self.hub.study.working.decision_on(column, row)
        if decision is None:
            return ""
        message = {"decision": decision.text, "cause": str(decision.cause), "reason": decision.reason}
        return message.get(what, decision.by)

    def headerData(self, position: int, along: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if along == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.ToolTipRole:
            at = position - len(HEADS)
            if position == AGREE:
                return VOTES
            if 0 <= at < len(self.lines.methods):
                return OUTLIER_METHODS[self.lines.methods[at]].name
        return super().headerData(position, along, role)

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        requested = (column if column >= 0 else None, order == Qt.SortOrder.DescendingOrder)
        if requested != self.sorted_by:
            self.sorted_by = requested
            self.sort_requested()
