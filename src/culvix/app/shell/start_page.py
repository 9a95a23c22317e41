"""The page before a table is open: what can be opened, and how."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from culvix.app.widgets.parts import label

__all__ = ["StartPage"]


class StartPage(QWidget):
    """Three ways to a table."""

    file_requested = pyqtSignal()
    copied_requested = pyqtSignal()
    example_requested = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.addStretch(2)
        centre = Qt.AlignmentFlag.AlignHCenter
        layout.addWidget(label("Drop a table here", "title"), 0, centre)
        layout.addWidget(label("delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite", "quiet"), 0, centre)
        layout.addSpacing(10)
        ways = (
            ("Open a file …", self.file_requested),
            ("Open what was copied", self.copied_requested),
            ("Open the example study", self.example_requested),
        )
        for text, requested in ways:
            button = QPushButton(text)
            button.clicked.connect(lambda _, requested=requested: requested.emit())
            layout.addWidget(button, 0, centre)
        layout.addStretch(3)
