"""What is to be in a copy of a study: its history, and the table it is about."""

from PyQt6.QtWidgets import QCheckBox, QDialog, QDialogButtonBox, QVBoxLayout, QWidget

from culvix.app.widgets.parts import label

__all__ = ["CopyQuestion"]


class CopyQuestion(QDialog):
    """Asks with two ticks; ``with_history`` and ``with_source`` are the answer."""

    def __init__(self, parent: QWidget, acts: str, source: str, size: str) -> None:
        """``acts`` says how long the history is, ``source`` and ``size`` which table it is about."""
        super().__init__(parent)
        self.setWindowTitle("Save a copy")
        self.history, self.source = QCheckBox(f"The whole history: {acts}"), QCheckBox(f"The table: {source}, {size}")
        self.history.setChecked(True)
        layout = QVBoxLayout(self)
        layout.addWidget(label("The copy holds", "head"))
        layout.addWidget(self.history)
        layout.addWidget(label("Without it nothing can be undone in the copy; what was decided stands.", "quiet"))
        layout.addWidget(self.source)
        layout.addWidget(label("With it, packed, the one file can be opened anywhere.", "quiet"))
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        buttons.addButton("Choose a place …", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout.addWidget(buttons)

    @property
    def with_history(self) -> bool:
        return self.history.isChecked()

    @property
    def with_source(self) -> bool:
        return self.source.isChecked()
