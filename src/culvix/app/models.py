"""The part that all table models of the window share."""

from abc import abstractmethod

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

__all__ = ["HeadedTable"]


class HeadedTable(QAbstractTableModel):
    """A model with named columns; subclasses tell how many rows there are and what stands in a cell."""

    heads: list[str]

    @abstractmethod
    def row_count(self) -> int:
        """Number of rows shown."""

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else self.row_count()

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.heads)

    def headerData(self, place: int, along: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if along == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self.heads[place]
        return None
