"""Background work: named jobs off the interface thread, with progress, and cancelled on request.

A job is a function of a progress callback. Its outcome comes back on the interface thread; that of a job replaced by a
newer one of the same name is dropped.
"""

import logging
import os
import sys
import threading
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, QThreadPool, QTimer, pyqtSignal

from culvix.app.session.configured import configured
from culvix.app.session.scheduler import task_queue
from culvix.errors import Cancelled, CulvixError
from culvix.progress import Progress

__all__ = ["JobRunner", "Work"]

_log = logging.getLogger(__name__)
_PATIENCE_MS = 500
_NICENESS = 5
_CAN_WAIT = 10
"""Jobs of a higher priority were asked for by name, and are never held."""

Work = Callable[[Progress], Any]


def _step_back() -> None:
    """Let the thread that answers the user go before this one where both want a core; what it starts inherits that."""
    thread = threading.get_native_id()
    if os.getpriority(os.PRIO_PROCESS, thread) < _NICENESS:
        os.setpriority(os.PRIO_PROCESS, thread, _NICENESS)


class _Messages(QObject):
    """What threads send to the runner. It belongs to the jobs as well: one that ends late may outlive the runner."""

    progressed = pyqtSignal(object, float, str)
    ended = pyqtSignal(object, object, object)


class _Job:
    """One piece of work, with the messages that carry its progress and outcome back."""

    def __init__(self, messages: _Messages, name: str, work: Work, done: Callable[[Any], None]) -> None:
        self.messages, self.name, self.work, self.done = messages, name, work, done
        self.failed: Callable[[Exception], None] | None = None
        self.quiet = False
        self.owner: object = None
        self.stop = threading.Event()

    def progress(self, share: float, doing: str) -> None:
        if self.stop.is_set():
            raise Cancelled("Cancelled.")
        self.messages.progressed.emit(self, share, doing)

    def run(self) -> None:
        _step_back()
        try:
            self.progress(0.0, self.name)
            outcome, error = self.work(self.progress), None
        except BaseException as problem:  # whatever it is, panics of libraries included, ends the job and is told
            outcome, error = None, problem
        self.messages.ended.emit(self, outcome, error)


class JobRunner(QObject):
    """Runs jobs on a small pool of threads."""

    busy = pyqtSignal(str, float)
    """Words and share of the work that has gone on for more than half a second."""
    idle = pyqtSignal()
    failed = pyqtSignal(str)
    """A sentence on what went wrong in a job whose caller did not ask to hear."""

    def __init__(self, parent: QObject | None = None, threads: int = 2) -> None:
        super().__init__(parent)
        # A thread that computes hands over this soon to the one that answers the user.
        sys.setswitchinterval(0.001)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(threads)
        self._jobs: dict[str, _Job] = {}
        self._state: dict[str, tuple[float, str]] = {}
        self._patience = configured(QTimer(self), singleShot=True, interval=_PATIENCE_MS)
        self._patience.timeout.connect(self._report)
        self._shown = self._closed = False
        self._waiting: list[tuple[_Job, int]] | None = None
        self._messages = _Messages()
        self._messages.progressed.connect(self._progressed)
        self._messages.ended.connect(self._ended)

    def start(
        self,
        name: str,
        work: Work,
        done: Callable[[Any], None],
        *,
        failed: Callable[[Exception], None] | None = None,
        priority: int = 0,
        quiet: bool = False,
        after: int = 0,
        owner: object = None,
    ) -> None:
        """Run ``work`` and call ``done`` with its outcome. A running job of the same name is cancelled.

        ``failed`` hears errors a user can cause, a cancellation included; without it they go to that signal.
        A ``quiet`` job shows no progress. Work begins ``after`` so many milliseconds. The jobs of an ``owner`` can be
        cancelled together.
        """
        self.cancel(name)
        if self._closed:
            # Nobody is there any more to hear of it.
            return
        job = _Job(self._messages, name, work, done)
        job.failed, job.quiet, job.owner = failed, quiet, owner
        self._jobs[name] = job
        if not quiet and not self._patience.isActive():
            self._patience.start()
        if priority <= _CAN_WAIT and self._waiting is not None:
            self._waiting.append((job, priority))
        elif after:
            QTimer.singleShot(after, lambda: self._begin(job, priority))
        else:
            self._pool.start(job.run, priority)

    def hold(self) -> None:
        """Let the work on columns wait until `release`: while panes are made, it would take the time these need."""
        if self._waiting is None:
            self._waiting = []

    def release(self) -> None:
        """Begin the jobs that were held."""
        waiting, self._waiting = self._waiting or (), None
        for job, priority in waiting:
            self._begin(job, priority)

    def _begin(self, job: _Job, priority: int) -> None:
        """Begin a job that had to wait, unless it is no longer wanted."""
        if self._jobs.get(job.name) is job:
            self._pool.start(job.run, priority)

    def running(self, name: str) -> bool:
        return name in self._jobs

    def cancel(self, name: str) -> None:
        """Ask a job to stop at its next step; its outcome is no longer wanted."""
        job = self._jobs.pop(name, None)
        if job is None:
            return
        job.stop.set()
        self._state.pop(name, None)
        if job.failed is not None:
            job.failed(Cancelled("Cancelled."))
        self._report_or_rest()

    def cancel_all_of(self, owner: object) -> None:
        """Cancel every job of ``owner``, and none of another's by the same name."""
        for name in [name for name, job in self._jobs.items() if job.owner is owner]:
            self.cancel(name)

    def cancel_loud(self) -> None:
        """Cancel every job that shows progress."""
        for name in [name for name, job in self._jobs.items() if not job.quiet]:
            self.cancel(name)

    def shut_down(self) -> None:
        """Cancel everything, begin nothing more, and wait for the threads to come to rest."""
        self._closed = True
        for name in list(self._jobs):
            self.cancel(name)
        self.wait_for_threads(10_000)

    def wait_for_threads(self, most_ms: int) -> bool:
        """Wait until the threads have come to rest, ``most_ms`` at the most; whether they have."""
        return self._pool.waitForDone(most_ms)

    @property
    def at_rest(self) -> bool:
        """Whether nothing is under way, nor waits for its turn to be shown."""
        return not self._jobs and task_queue().at_rest

    def _progressed(self, job: _Job, share: float, doing: str) -> None:
        if self._jobs.get(job.name) is job and not job.quiet:
            self._state[job.name] = (share, doing)
            if self._shown:
                self._report()

    def _report(self) -> None:
        if self._state:
            self._shown = True
            share, doing = next(iter(self._state.values()))
            self.busy.emit(doing, share)

    def _report_or_rest(self) -> None:
        if not any(not job.quiet for job in self._jobs.values()):
            self._patience.stop()
            self._shown = False
            self.idle.emit()

    def _ended(self, job: _Job, outcome: Any, error: BaseException | None) -> None:
        if self._jobs.get(job.name) is not job:
            return
        del self._jobs[job.name]
        self._state.pop(job.name, None)
        self._report_or_rest()
        if error is None:
            job.done(outcome)
        elif isinstance(error, CulvixError):
            if job.failed is not None:
                job.failed(error)
            elif not isinstance(error, Cancelled):
                self.failed.emit(error.sentence)
        else:
            _log.error("job %s failed", job.name, exc_info=error)
            if job.failed is not None:
                job.failed(Cancelled("Stopped by a fault."))
            self.failed.emit(
                f"A fault in Culvix stopped “{job.name}”. The study is as it was; the log has the details."
            )
