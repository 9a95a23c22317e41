"""Movements of the hand whose steps are one act: turning a wheel, stepping a number up and down."""

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QAbstractSpinBox

from culvix.app.session.configured import configured

__all__ = ["Gesture"]

_PAUSE_MS = 800


class Gesture(QObject):
    """Gives the same token for all steps of one movement, which ends with a pause or when its field is left."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._token = object()
        self._pause = configured(QTimer(self), singleShot=True, interval=_PAUSE_MS)
        self._pause.timeout.connect(self.end)
        if isinstance(parent, QAbstractSpinBox):
            parent.editingFinished.connect(self.end)

    def token(self) -> object:
        """What the act of this step is to be known by."""
        self._pause.start()
        return self._token

    def end(self) -> None:
        """The next step begins another movement."""
        self._pause.stop()
        self._token = object()
