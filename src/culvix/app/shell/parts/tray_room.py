"""How much of the row tray is open: its title line, the acts on a selection, and the rows behind it."""

from PyQt6.QtCore import QObject, QSettings
from PyQt6.QtWidgets import QFrame, QSplitter

from culvix.app.docks.tray import Tray
from culvix.app.session.stage_page import StageRow

__all__ = ["TrayRoom"]

_HEIGHT = "layout/tray-height"
_STAYS_OPEN = "layout/tray-open"
_USUAL = 158
_LEAST = 110
_NO_LIMIT = 16_777_215


class TrayRoom(QObject):
    """Folds the tray in ``splitter`` to its title line while nothing is selected, and opens it with a selection.

    ``frame`` is the pane around the tray. Where it is asked to stay open it does; a stage that lists rows itself has
    only the acts. Its height, open, is the one it was given last.
    """

    def __init__(self, tray: Tray, frame: QFrame, splitter: QSplitter, settings: QSettings) -> None:
        super().__init__(tray)
        self.tray, self.frame, self.splitter = tray, frame, splitter
        self.stage: StageRow | None = None
        """The stage shown."""
        self.height = max(int(settings.value(_HEIGHT, _USUAL, int) or _USUAL), _LEAST)
        self._open: bool | None = None
        tray.bar.stay.setChecked(bool(settings.value(_STAYS_OPEN, False, bool)))
        tray.bar.stay.toggled.connect(lambda _: self.update())
        tray.hub.selection_changed.connect(self.update)
        tray.bar.asked.connect(self.update)
        splitter.splitterMoved.connect(self._moved)

    @property
    def is_open(self) -> bool:
        """Whether rows are listed."""
        return bool(self._open)

    def show_for(self, stage: StageRow) -> None:
        """Open or fold the tray as the stage shown now wants it."""
        self.stage = stage
        self.update()

    def update(self) -> None:
        """Open or fold the tray as things stand."""
        selected, stays = bool(self.tray.hub.study.selection), self.tray.bar.stay.isChecked()
        stage = self.stage
        lists_rows = stage is not None and stage.lists_rows
        leaves_room = stage is not None and stage.needs_tray_room
        selected = selected and not (stage is not None and stage.has_no_rows)
        acts = selected or self.tray.bar.is_asking or (stays and not leaves_room)
        rows = acts and not lists_rows
        self.tray.bar.pages.setVisible(acts)
        self.tray.bar.stay.setVisible(not lists_rows)
        self.tray.table.setVisible(rows)
        self.frame.setVisible(acts or not leaves_room)
        if rows and self._open:
            return
        self._open = rows
        inside = self.tray.layout()
        if inside is not None:
            inside.activate()
        folded = self.tray.sizeHint().height()
        if inside is not None and inside.hasHeightForWidth():
            folded = inside.totalHeightForWidth(self.frame.width() - 2 * self.frame.frameWidth())
        folded += 2 * self.frame.frameWidth()
        height = self.height if rows else folded
        self.frame.setMaximumHeight(_NO_LIMIT if rows else folded)
        self.splitter.setSizes([max(self.splitter.height() - self.splitter.handleWidth() - height, 1), height])

    def _moved(self) -> None:
        if self._open and self.splitter.sizes()[1]:
            self.height = max(self.splitter.sizes()[1], _LEAST)

    def remember(self, settings: QSettings) -> None:
        """Write down how high the tray is, and whether it stays open."""
        settings.setValue(_HEIGHT, self.height)
        settings.setValue(_STAYS_OPEN, self.tray.bar.stay.isChecked())
