"""What is shown while a file is read: its first rows as they will stand, and how they were told apart."""

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from culvix.app.intake.first_rows import FirstRowsView
from culvix.app.widgets.parts import label, panel
from culvix.tables.model.raw_table import RawTable

__all__ = ["Arriving", "reasons_of"]


class Arriving(QWidget):
    """The first rows of a file that is still being read; the top strip tells how far it is, and stops it."""

    def __init__(self) -> None:
        super().__init__()
        self.title = label("", "title")
        self.why = label("", "quiet", wrap=True)
        self.view = FirstRowsView()
        frame, inside = panel()
        for part in (self.title, self.why, self.view):
            inside.addWidget(part)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 4, 6, 6)
        layout.addWidget(frame)

    def put(self, name: str, raw: RawTable) -> None:
        """Show the beginning of the file ``name``."""
        self.title.setText(f"The first rows of {name}, while the rest is read")
        self.why.setText(reasons_of(raw))
        self.view.rows.show_raw(raw)
        self.view.fit()


def reasons_of(raw: RawTable) -> str:
    """Why the text was split as it was."""
    if raw.dialect is None:
        return ""
    dialect = raw.dialect
    reasons = (f"{part.replace('_', ' ')}: {why}" for part, why in dialect.reasons.items())
    return "Because: " + "; ".join(reasons) + "."
