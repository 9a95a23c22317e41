"""A list to choose from whose tip tells the choice in full, however narrow the list is."""

from PyQt6.QtWidgets import QComboBox, QWidget

from culvix.app.widgets.parts import plain_tip

__all__ = ["Choice"]


class Choice(QComboBox):
    """As the platform's own; names of columns may be longer than there is room for."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._tip = ""
        self.currentTextChanged.connect(lambda _: self._tell())

    def setToolTip(self, text: str | None) -> None:
        self._tip = text or ""
        if self._tip and not self.accessibleName():
            self.setAccessibleName(self._tip.split(";")[0].split("(")[0].strip())
        self._tell()

    def _tell(self) -> None:
        chosen = plain_tip(self.currentText())
        super().setToolTip("\n".join(part for part in (chosen, self._tip) if part))
