"""How the window stands, written down so that it stands the same the next time."""

from PyQt6.QtCore import QByteArray, QTimer
from PyQt6.QtWidgets import QWidget

from culvix.app.session.configured import configured
from culvix.app.shell.controllers.context import WindowContext
from culvix.app.shell.workbench import Workbench

__all__ = ["LayoutMemory"]

_VERSION = 1
_ACROSS = f"layout{_VERSION}/across"
_CHANGED_MS = 800


class LayoutMemory:
    """Position and size of the window, the sizes of its panes, and what these remember of themselves."""

    def __init__(self, context: WindowContext) -> None:
        self.context = context
        self._changed = configured(QTimer(context.window), singleShot=True, interval=_CHANGED_MS)
        self._changed.timeout.connect(self.remember)

    def changed(self) -> None:
        """Write down how the window stands once it rests, so that it is known however the program ends."""
        self._changed.start()

    def stop(self) -> None:
        """Write nothing down any more."""
        self._changed.stop()

    def remember(self) -> None:
        """Write down how the window stands."""
        bench, settings = self.context.bench, self.context.settings
        if bench is not None:
            bench.remember(settings)
            panes = (bench.across.widget(position) for position in range(bench.across.count()))
            # A hidden pane would be remembered as one without width.
            if all(pane is not None and pane.isVisibleTo(bench.across) for pane in panes):
                settings.setValue(_ACROSS, bench.across.saveState())
        settings.setValue(f"layout{_VERSION}/window", self.context.window.saveGeometry())

    def remember_whole(self) -> None:
        """The same, with the rail shown: a hidden pane would be remembered as one without width."""
        if self.context.bench is not None:
            self.context.bench.show_rail(True)
        self.remember()

    def restore_panes(self, bench: Workbench) -> None:
        """Give the panes of ``bench`` the sizes written down."""
        state = self.context.settings.value(_ACROSS)
        if isinstance(state, QByteArray):
            bench.across.restoreState(state)

    def restore_window(self, window: QWidget) -> None:
        """Put the window where it was when it was closed last."""
        state = self.context.settings.value(f"layout{_VERSION}/window")
        if isinstance(state, QByteArray):
            window.restoreGeometry(state)
