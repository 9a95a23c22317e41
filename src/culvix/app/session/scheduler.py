"""Taking turns: of what can wait a moment, one thing at a time, so that the window paints and answers in between."""

from collections import deque
from collections.abc import Callable
from functools import cache

from PyQt6 import sip
from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QWidget

from culvix.app.session.configured import configured
from culvix.charts.items.deferred_paint import DeferredPaintView

__all__ = ["PaintingAfterwards", "TaskQueue", "paint_afterwards", "task_queue"]

_BETWEEN_MS = 3


class TaskQueue(QObject):
    """What is asked for while nothing else was done just now is done at once, the rest in the order it came."""

    def __init__(self) -> None:
        super().__init__()
        self._waiting: deque[Callable[[], None]] = deque()
        self._pause = configured(QTimer(self), singleShot=True, interval=_BETWEEN_MS)
        self._pause.timeout.connect(self._next)

    def take(self, act: Callable[[], None], *, ahead: bool = False) -> None:
        """Do ``act``, a method, when it is its turn, or ``ahead`` of what waits; twice asked for, it is done once."""
        if not self._pause.isActive():
            self._do(act)
        else:
            self.soon(act, ahead=ahead)

    def soon(self, act: Callable[[], None], *, ahead: bool = False) -> None:
        """Do ``act`` when what was changed just now is painted, or ``ahead`` of what waits."""
        if act not in self._waiting:
            self._waiting.insert(0 if ahead else len(self._waiting), act)
        if not self._pause.isActive():
            self._pause.start()

    @property
    def at_rest(self) -> bool:
        return not self._waiting

    def _next(self) -> None:
        while self._waiting:
            if self._do(self._waiting.popleft()):
                return

    def _do(self, act: Callable[[], None]) -> bool:
        """Do ``act``; whether there was something to do: a pane may be gone by the time it is its turn."""
        owner = getattr(act, "__self__", None)
        if isinstance(owner, QObject) and sip.isdeleted(owner):
            return False
        # What is asked for meanwhile waits, and nothing is done before what this changed is painted.
        self._pause.start()
        act()
        self._pause.start()
        return True


class PaintingAfterwards(QObject):
    """Lets a widget be laid out in one step and painted in the next: in one go both would hold up the window."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self._widget = widget

    def hold(self) -> None:
        """Leave what is on the screen there until the window has answered once more."""
        self._widget.setUpdatesEnabled(False)
        task_queue().soon(self._paint, ahead=True)

    def _paint(self) -> None:
        self._widget.setUpdatesEnabled(True)


def paint_afterwards(view: DeferredPaintView) -> None:
    """Let ``view`` paint what is drawn now when the window has answered once more, and again when it is prepared."""
    view.hold_painting()
    task_queue().soon(view.paint_deferred, ahead=True)
    task_queue().soon(view.prepare_painting, ahead=True)


@cache
def task_queue() -> TaskQueue:
    """The one line in which all panes of the application wait."""
    return TaskQueue()
