"""A study that keeps itself: its history is written as it changes, on a thread that does nothing else."""

import logging
from collections.abc import Callable
from threading import Condition, Thread

from culvix.errors import CulvixError
from culvix.study.document.history.history import History
from culvix.study.storage.study_file import StudyFile

__all__ = ["Autosave"]

_log = logging.getLogger(__name__)


class Autosave:
    """Writes the latest history to a file; what comes while it writes is written next, in one go."""

    def __init__(
        self, open_file: Callable[[History], StudyFile], history: History, failed: Callable[[str], object]
    ) -> None:
        """``open_file`` makes or opens the file with the first history; ``failed`` hears a sentence, on any thread."""
        self._open_file, self._failed = open_file, failed
        self._changed = Condition()
        self._latest: History | None = history
        self._also: list[Callable[[StudyFile], object]] = []
        self._busy, self._ending = False, False
        self._thread = Thread(target=self._run, name="autosave", daemon=True)
        self._thread.start()

    def record(self, history: History) -> None:
        """See to it that ``history`` is written; returns at once."""
        with self._changed:
            self._latest = history
            self._changed.notify_all()

    def also(self, act: Callable[[StudyFile], object]) -> None:
        """Do ``act`` with the file, too, once everything before is written."""
        with self._changed:
            self._also.append(act)
            self._changed.notify_all()

    def wait(self, seconds: float) -> bool:
        """Wait until everything is written, ``seconds`` at the most; whether it is."""
        with self._changed:
            return self._changed.wait_for(lambda: not (self._latest or self._also or self._busy), seconds)

    def close(self, seconds: float = 10.0) -> bool:
        """Write what is left and end; whether everything was written in time."""
        with self._changed:
            self._ending = True
            self._changed.notify_all()
        self._thread.join(seconds)
        return not self._thread.is_alive()

    def _run(self) -> None:
        file: StudyFile | None = None
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._latest is not None or self._also or self._ending)
                history, self._latest = self._latest, None
                also, self._also = self._also, []
                if history is None and not also:
                    break
                self._busy = True
            try:
                if file is not None and history is not None:
                    file.record(history)
                elif history is not None:
                    file = self._open_file(history)
                if file is not None:
                    for act in also:
                        act(file)
            except CulvixError as error:
                self._failed(error.sentence)
            except Exception as error:  # whatever it is, the analyst has to hear that nothing is written
                _log.error("writing a study failed", exc_info=error)
                self._failed(f"A fault in Culvix ({type(error).__name__}) stopped the writing of the study.")
            with self._changed:
                self._busy = False
                self._changed.notify_all()
        if file is not None:
            file.close()
