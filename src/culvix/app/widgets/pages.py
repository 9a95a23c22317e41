"""Several panes of which one is shown, as high as that one asks for at the width it has."""

from PyQt6.QtWidgets import QVBoxLayout, QWidget

__all__ = ["Pages"]


class Pages(QWidget):
    """The first pane added is shown until another is asked for."""

    def __init__(self) -> None:
        super().__init__()
        self._panes: list[QWidget] = []
        self._current = 0
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)

    def add(self, pane: QWidget) -> None:
        """Put ``pane`` behind those that there are."""
        self._panes.append(pane)
        layout = self.layout()
        assert layout is not None
        layout.addWidget(pane)
        pane.setVisible(len(self._panes) == 1)

    @property
    def current(self) -> int:
        """The place of the pane that is shown."""
        return self._current

    def show_pane(self, pane: QWidget) -> None:
        """Show ``pane`` in the place of the one before."""
        self._current = self._panes.index(pane)
        for each in self._panes:
            each.setVisible(each is pane)

    def show_first(self) -> None:
        """Show the pane that was added first."""
        self.show_pane(self._panes[0])
