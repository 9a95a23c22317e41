"""Starting the application: log, theme, window, and the signals that end it."""

import faulthandler
import gc
import logging
import os
import signal
import socket
import sys
import threading
import time
from collections.abc import Callable
from functools import partial
from io import TextIOWrapper
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType

from PyQt6 import sip
from PyQt6.QtCore import (
    QEventLoop,
    QLocale,
    QMessageLogContext,
    QSettings,
    QSocketNotifier,
    QTimer,
    QtMsgType,
    qInstallMessageHandler,
)
from PyQt6.QtWidgets import QApplication

from culvix.app.session.configured import configured
from culvix.app.shell.theme import apply_theme, palette_of
from culvix.app.shell.window import MainWindow
from culvix.places import make_private, state_folder

__all__ = ["Signals", "has_display", "make_application", "run_window", "wait_until"]

_log = logging.getLogger("culvix")
_application: QApplication | None = None
"""Held here: an application nobody refers to is gone."""


def has_display() -> bool:
    """Whether a window can be shown: a display is named, or a platform is chosen on purpose."""
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))


_LEVELS = {
    QtMsgType.QtDebugMsg: logging.DEBUG,
    QtMsgType.QtInfoMsg: logging.INFO,
    QtMsgType.QtWarningMsg: logging.WARNING,
    QtMsgType.QtCriticalMsg: logging.ERROR,
    QtMsgType.QtFatalMsg: logging.CRITICAL,
}


def _log_qt_message(kind: QtMsgType, _: QMessageLogContext, message: str | None) -> None:
    """What Qt has to say goes to the log; where it cannot go on, that is one line, as for every other refusal."""
    _log.log(_LEVELS.get(kind, logging.WARNING), "Qt: %s", message)
    if kind == QtMsgType.QtFatalMsg:
        message = " ".join((message or "").split()).partition(" This application failed")[0]
        print(f"culvix: no window can be opened: {message}", file=sys.stderr, flush=True)
        # Qt would end the process by a signal next.
        os._exit(2)


def make_application(*, offscreen: bool = False) -> QApplication:
    """The application object in its theme; with ``offscreen`` it needs no display."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    # Without a log, as on the command line, what Qt remarks is not for the terminal.
    _log.addHandler(logging.NullHandler())
    qInstallMessageHandler(_log_qt_message)
    if offscreen:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    # Numbers are typed and shown the same on every machine; 0.251 is nowhere 251.
    QLocale.setDefault(QLocale(QLocale.Language.C))
    global _application
    _application = application = QApplication(["culvix"])
    application.setApplicationName("Culvix")
    application.setDesktopFileName("culvix")
    apply_theme(application)
    # What was imported stays. Looked through for garbage with the rest, it would hold up the window each time for
    # longer than a few frames.
    gc.freeze()
    return application


def _private(path: str, flags: int) -> int:
    """Opens a file that its owner alone can read."""
    return os.open(path, flags | os.O_NOFOLLOW | os.O_CLOEXEC, 0o600)


class _PrivateLog(RotatingFileHandler):
    """A log that its owner alone can read."""

    def _open(self) -> TextIOWrapper:
        return open(self.baseFilename, "a", encoding=self.encoding, errors=self.errors, opener=_private)


def _log_to_state_folder() -> Path:
    folder = make_private(state_folder())
    path = folder / "culvix.log"
    handler = _PrivateLog(path, maxBytes=1 << 20, backupCount=2, encoding="utf-8", errors="replace")
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logging.getLogger().addHandler(handler)
    logging.captureWarnings(True)
    # Where the process dies of a fault in a library, the calls that led there are left behind.
    faulthandler.enable(open(folder / "crash.log", "a", encoding="utf-8", opener=_private))  # noqa: SIM115 it stays open to the end
    return path


def _report_faults(window: MainWindow, log: Path | None) -> None:
    """Log what no one caught, in any thread, with its traceback, and say so in the window."""

    def caught(kind: type[BaseException], error: BaseException | None, trace: TracebackType | None) -> None:
        _log.error("uncaught", exc_info=(kind, error or kind(), trace))
        where = f" The log is {log}." if log else ""
        if threading.current_thread() is threading.main_thread():
            window.context.complain(f"A fault in Culvix: {kind.__name__}. The study is as it was.{where}")

    sys.excepthook = caught
    threading.excepthook = lambda failure: caught(failure.exc_type, failure.exc_value, failure.exc_traceback)


class Signals:
    """Closes a window in order when the process is interrupted or asked to end.

    Python looks at signals only while it is running; a byte written for each wakes the event loop.
    """

    def __init__(self, window: MainWindow) -> None:
        self._here, self._there = socket.socketpair()
        self._here.setblocking(False)
        self._there.setblocking(False)
        signal.set_wakeup_fd(self._there.fileno())
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, lambda *_: None)
        self._watch = QSocketNotifier(sip.voidptr(self._here.fileno()), QSocketNotifier.Type.Read)
        self._watch.activated.connect(lambda *_: self._came(window))

    def _came(self, window: MainWindow) -> None:
        self._here.recv(64)
        window.close_anyway()
        QApplication.quit()


def run_window(path: Path | None, recipe: Path | None = None, address: str = "") -> int:
    """Open the window, with the table at ``path`` by a ``recipe`` where they are given, and run until it is closed.

    Of a table at an ``address`` the form is shown by which it is chosen.
    """
    try:
        log: Path | None = _log_to_state_folder()
    except OSError:
        log = None
    application, settings = make_application(), QSettings("culvix", "culvix")
    apply_theme(application, palette_of(str(settings.value("theme", "desktop")), application))
    window = MainWindow(settings)
    window.restore_position()
    _report_faults(window, log)
    signals = Signals(window)
    window.show()
    if path is not None:
        # After the first paint, so that the window stands before reading begins.
        opening = window.opening
        open_it = partial(opening.open_path, path) if recipe is None else partial(opening.run_recipe, recipe, path)
        QTimer.singleShot(0, open_it)
    if address:
        QTimer.singleShot(0, partial(window.opening.connecting.ask, address))
    status = int(application.exec())
    del signals
    # Here, not when the interpreter ends: what the window holds has to go in order, and while there is an application.
    sip.delete(window)
    return status


def wait_until(condition: Callable[[], bool], seconds: float = 60.0, *, pause: int = 10, still: int = 5) -> bool:
    """Let the event loop run until ``condition`` holds; False where it does not within ``seconds``.

    It is looked at every ``pause`` milliseconds and has to hold ``still`` times on end.
    """
    deadline = time.monotonic() + seconds
    loop = QEventLoop()
    timer = configured(QTimer(), interval=pause)
    times = 0

    def check() -> None:
        nonlocal times
        # What holds for a moment only, between two steps of the same work, is not yet reached.
        times = times + 1 if condition() else 0
        if times >= still or time.monotonic() > deadline:
            timer.stop()
            loop.quit()

    timer.timeout.connect(check)
    timer.start()
    loop.exec()
    # Once reached, it may be over again by the time the loop has come to its end.
    return times >= still
