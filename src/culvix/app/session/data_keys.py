"""Whose the keys are: single letters act on the data; in fields, lists and boxes they are what is typed there."""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QTextEdit,
    QWidget,
)

from culvix.app.session.configured import configured

__all__ = ["DataKeys", "keeps_its_keys", "mark_as_data", "takes_letters"]

_FIELDS = (QLineEdit, QTextEdit, QPlainTextEdit, QAbstractSpinBox, QComboBox)
_DATA, _OWN = "data", "own keys"
_ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
_PLAIN = Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier


def mark_as_data(view: QAbstractItemView) -> None:
    """Let letters in ``view`` act on what it lists, which is data, instead of looking for a line that begins so."""
    view.setProperty(_DATA, True)


def keeps_its_keys(widget: QWidget) -> None:
    """Leave letters and Enter to ``widget``, which knows what to do with them."""
    widget.setProperty(_OWN, True)


def takes_letters(widget: QObject) -> bool:
    """Whether letters typed in ``widget`` are its own: it is a field, a box or a list that is no data."""
    if isinstance(widget, _FIELDS) or widget.property(_OWN):
        return True
    view = widget if isinstance(widget, QAbstractItemView) else widget.parent()
    return isinstance(view, QAbstractItemView) and not view.property(_DATA)


def _typing(widget: QObject) -> bool:
    """Whether a text is being typed in ``widget`` that undo would take back."""
    if isinstance(widget, QComboBox | QAbstractSpinBox):
        return any(_typing(line) for line in widget.findChildren(QLineEdit))
    if isinstance(widget, QLineEdit):
        return widget.isModified() and widget.isUndoAvailable()
    document = widget.document() if isinstance(widget, QTextEdit | QPlainTextEdit) else None
    return document is not None and document.isUndoAvailable()


class DataKeys(QObject):
    """Watches the widget that has the focus, and the fields, boxes and lists of the panes it was given."""

    def __init__(self, window: QWidget, leave: Callable[[], object]) -> None:
        """``leave`` gives the focus from a field back to the data."""
        super().__init__(window)
        self._window, self._leave = window, leave
        self._restore = configured(QTimer(self), singleShot=True, interval=0)
        self._restore.timeout.connect(self._give_back)
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        application.focusChanged.connect(self._focus_changed)

    def _focus_changed(self, before: QWidget | None, now: QWidget | None) -> None:
        if before is not None and not takes_letters(before):
            before.removeEventFilter(self)
        if now is not None and now.window() is self._window:
            now.installEventFilter(self)
        if now is None:
            # What had the keyboard may be gone; when the window is left for another, that is no loss.
            self._restore.start()

    def _give_back(self) -> None:
        nobody = QApplication.focusWidget() is None and QApplication.activePopupWidget() is None
        if nobody and self._window.isActiveWindow() and self._window.isVisible():
            self._leave()

    def watch(self, pane: QWidget) -> None:
        """Keep the keys of all that can be typed in ``pane`` from the shortcuts; Tab leaves its tables at once."""
        for table in pane.findChildren(QAbstractItemView):
            table.setTabKeyNavigation(False)
        for child in pane.findChildren(QWidget):
            if takes_letters(child):
                child.installEventFilter(self)

    def eventFilter(self, widget: QObject | None, event: QEvent | None) -> bool:
        if widget is None or not isinstance(event, QKeyEvent):
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            return self._is_widgets_own(widget, event)
        if event.type() != QEvent.Type.KeyPress:
            return False
        if event.key() == Qt.Key.Key_Escape and takes_letters(widget):
            self._leave()
            return True
        if event.key() in _ENTER and isinstance(widget, QAbstractButton):
            widget.click()
            return True
        return False

    @staticmethod
    def _is_widgets_own(widget: QObject, event: QKeyEvent) -> bool:
        """Keep ``event`` from the shortcuts where it belongs to ``widget``; whether that is settled."""
        undoing = event.matches(QKeySequence.StandardKey.Undo) or event.matches(QKeySequence.StandardKey.Redo)
        if undoing:
            # Not settled where a text is typed: the field knows itself what it can take back.
            event.ignore()
            return not _typing(widget)
        plain = not event.modifiers() & ~_PLAIN
        letter = event.text().isprintable() and bool(event.text())
        own = takes_letters(widget) and (letter or event.key() in (*_ENTER, Qt.Key.Key_Escape))
        if plain and (own or (event.key() in _ENTER and isinstance(widget, QAbstractButton))):
            event.accept()
            return True
        return False
