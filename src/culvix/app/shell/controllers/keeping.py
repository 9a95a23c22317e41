"""The study that is open keeps itself: as a draft from its first act, or in the file it was given."""

import logging
import os
import shutil
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from culvix.app.shell.controllers.context import WindowContext
from culvix.app.shell.copy_question import CopyQuestion
from culvix.errors import CulvixError, WriteError
from culvix.files import display_path, is_same_file, write_by
from culvix.progress import Progress
from culvix.stats.display import file_size, plural
from culvix.study import Change, Study
from culvix.study.carrying.fingerprint import Fingerprint, fingerprint_of
from culvix.study.document.history.history import History
from culvix.study.storage.autosave import Autosave
from culvix.study.storage.drafts import SUFFIX, is_draft, new_draft
from culvix.study.storage.study_file import StudyFile, write_study_copy
from culvix.study.storage.study_lock import StudyLock
from culvix.tables import Table

__all__ = ["Keeping"]

_SAVE_SECONDS = 10.0
_log = logging.getLogger(__name__)
_NOTHING: tuple[object, ...] = ((), 0, (), (), (), ())


def _record_source(table: Table, file: StudyFile) -> None:
    """Write down what was in ``table``."""
    try:
        file.put_source(table.source.sha256, fingerprint_of(table))
    except OSError as error:
        # A source that is gone by now has no checksum; its size tells it when the study is opened again.
        _log.warning("no checksum of the source: %s", error)


def _work_in(study: Study) -> tuple[object, ...]:
    """What was done in a study, as far as it would be missed."""
    document, history = study.document, study.history
    reviewed = (document.reviewed, document.marks, document.picks, document.noted)
    return (history.labels, history.cursor, *reviewed)


class Keeping(QObject):
    """Writes what is done to a file, act by act, and says where the study lives."""

    changed = pyqtSignal()
    """The study lives elsewhere now, or cannot be written any more."""

    _failed = pyqtSignal(str)
    """A sentence from the thread that writes."""

    def __init__(self, context: WindowContext) -> None:
        super().__init__(context.window)
        self.context = context
        self.study: Study | None = None
        self.path: Path | None = None
        self._autosave: Autosave | None = None
        self._ending: list[Autosave] = []
        """Those that are still writing what is left of studies shown before."""
        self._trouble = self.note = ""
        """``note`` says why a study is not gone on with in its own file, empty where it is."""
        self._lock: StudyLock | None = None
        self._unknown: Table | None = None
        """The table whose checksums the file has not got yet."""
        self._known: tuple[object, ...] | None = _NOTHING
        """The work that needs no draft; None where there is none such."""
        self._failed.connect(self._tell_failure)

    def follow(self, study: Study, path: Path | None = None, *, carried: bool = False) -> None:
        """Keep ``study`` from now on: in the file at ``path``, which it was read from, or as a draft.

        A draft begins with the first act, or at once for one whose work was ``carried`` over from another.
        """
        # Only the same file has to be complete before it is gone on with; others are finished meanwhile.
        self.stop(_SAVE_SECONDS if path is not None else 0.0)
        self.study, self.path, self._trouble = study, None, ""
        self.note = "" if path is None else self._obstacle(path)
        # What stands in a file that is left alone is no reason for a draft.
        self._known = _work_in(study) if self.note else None if carried else _NOTHING
        study.listen(partial(self._study_changed, study))
        if path is not None and not self.note:
            self.path = path
            self._autosave = Autosave(partial(StudyFile.open, path), study.history, self._failed.emit)
            found = study.table.source.path
            if found != study.document.origin.path:
                # It was named by hand, or found elsewhere: it need not be asked for again.
                self._autosave.also(lambda file: file.put_place(found))
        elif self._is_worth_keeping(study):
            self._begin_draft(study)
        self.changed.emit()

    def _obstacle(self, path: Path) -> str:
        """Why nothing can be written to the study at ``path``, in a sentence; empty where it can, and is held then."""
        name, instead = display_path(Path(path.name)), "what is done here goes into a draft of its own."
        if not (os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)):
            return f"{name} stands where nothing can be written, and is left as it is; {instead}"
        self._lock = StudyLock.take(path)
        return "" if self._lock is not None else f"{name} is open in another window, and is left to it; {instead}"

    def stop(self, seconds: float = _SAVE_SECONDS) -> bool:
        """Write what is left and let go of the file; whether all of it was written within so many ``seconds``."""
        if self._autosave is not None:
            if self._unknown is not None:
                self._autosave.also(partial(_record_source, self._unknown))
            self._ending.append(self._autosave)
        self._unknown = None
        self.study = self._autosave = None
        if self._lock is not None:
            self._lock.release()
            self._lock = None
        self._ending = [autosave for autosave in self._ending if not autosave.close(seconds)]
        return not self._ending

    def _study_changed(self, study: Study, change: Change) -> None:
        if study is not self.study or change is Change.SELECTION:
            return
        if self._autosave is not None:
            self._autosave.record(study.history)
        elif not self._trouble and self._is_worth_keeping(study):
            self._begin_draft(study)

    def _is_worth_keeping(self, study: Study) -> bool:
        """Whether anything was done that would be missed."""
        return _work_in(study) != self._known

    def _begin_draft(self, study: Study) -> None:
        try:
            self.path = new_draft(study.name)
        except CulvixError as error:
            self._tell_failure(error.sentence)
            return
        self._write_to(self.path, study)

    def _write_to(self, path: Path, study: Study) -> None:
        """Begin a file at ``path``."""
        self._lock = StudyLock.take(path)
        self._autosave = autosave = Autosave(
            partial(StudyFile.create, path, private=is_draft(path)), study.history, self._failed.emit
        )
        table = study.table.as_read

        self._unknown = table

        def known(found: tuple[str, Fingerprint]) -> None:
            if self._unknown is table:
                self._unknown = None
                autosave.also(lambda file: file.put_source(*found))

        def unknown(error: Exception) -> None:
            _log.warning("no checksum of the source: %s", error)

        # It takes a while for a long table, and acts are not to wait for it.
        self.context.jobs.start(
            "checksums of the table",
            lambda _: (table.source.sha256, fingerprint_of(table)),
            known,
            failed=unknown,
            priority=2,
            quiet=True,
        )
        self.changed.emit()

    def _tell_failure(self, sentence: str) -> None:
        self._trouble = sentence
        self.context.complain(f"{sentence} What is done from now on is not kept; save the study elsewhere.")
        self.changed.emit()

    @property
    def is_safe(self) -> bool:
        """Whether nothing would be lost with the window."""
        return not self._trouble

    @property
    def text(self) -> str:
        """Where the study lives, in a word or two; empty while nothing was done."""
        if self._trouble:
            return "not kept"
        if self.path is None:
            return ""
        return "kept as a draft" if self.is_draft else f"kept in {self.path.name}"

    def also(self, act: Callable[[StudyFile], object]) -> None:
        """Have ``act`` done with the file that the study is kept in, where it is in one."""
        if self._autosave is not None:
            self._autosave.also(act)

    @property
    def is_draft(self) -> bool:
        """Whether the study has no place of its own yet."""
        return self.path is not None and is_draft(self.path)

    def ask_save_as(self) -> None:
        """Let the analyst choose a place for the study."""
        if self.study is None:
            return
        proposed = str(self.study.table.source.path.with_suffix(SUFFIX))
        name, _ = QFileDialog.getSaveFileName(self.context.window, "Save the study", proposed, f"Study (*{SUFFIX})")
        if name:
            self.save_as(Path(name) if name.endswith(SUFFIX) else Path(name + SUFFIX))

    def save_as(self, path: Path) -> None:
        """Let the study live at ``path`` from now on; a draft of it goes."""
        study, before, was_draft = self.study, self.path, self.is_draft
        if study is None or path == before:
            return
        try:
            if is_same_file(path, study.table.source.path):
                raise WriteError("The study cannot take the place of its source.")
            self._move(study, before, path)
        except (CulvixError, OSError) as error:
            self.context.complain(
                error.sentence if isinstance(error, CulvixError) else f"{display_path(path)}: {error}."
            )
            return
        if was_draft and before is not None:
            before.unlink(missing_ok=True)
        self.context.tell(f"The study lives in {path.name} now, and keeps itself there.")

    def ask_copy(self) -> None:
        """Let the analyst say what a copy of the study is to hold, and where it goes."""
        if self.study is None:
            return
        source = self.study.table.source
        acts = plural(len(self.study.history.labels), "act")
        question = CopyQuestion(self.context.window, acts, source.name, file_size(source.size))
        if not question.exec():
            return
        proposed = str(source.path.with_name(f"{source.path.stem}-copy{SUFFIX}"))
        name, _ = QFileDialog.getSaveFileName(self.context.window, "Save a copy", proposed, f"Study (*{SUFFIX})")
        if name:
            path = Path(name) if name.endswith(SUFFIX) else Path(name + SUFFIX)
            self.save_copy(path, with_history=question.with_history, with_source=question.with_source)

    def save_copy(self, path: Path, *, with_history: bool = True, with_source: bool = False) -> None:
        """Write the study as it stands to ``path``, in the background; it goes on living where it lives."""
        study = self.study
        if study is None:
            return
        if any(is_same_file(path, other) for other in (self.path, study.table.source.path) if other is not None):
            self.context.complain(f"{display_path(path)} is in use by this study; choose another name for the copy.")
            return
        history = study.history if with_history else History((study.document,))
        table = study.table.as_read

        def work(_: Progress) -> None:
            source = table.source.path if with_source else None
            write_study_copy(path, history, table.source.sha256, fingerprint_of(table), source)

        self.context.jobs.start(
            f"writing {path.name}",
            work,
            lambda _: self.context.tell(f"A copy of the study is in {path.name}."),
            failed=self.context.refused,
            priority=12,
        )

    def _move(self, study: Study, before: Path | None, path: Path) -> None:
        safe = self.is_safe
        complete = self.stop()
        self.study, self._trouble = study, ""
        if not complete:
            raise WriteError("The study is still being written where it was; try again in a moment.")
        if before is not None and safe:
            write_by(path, lambda unfinished: shutil.copyfile(before, unfinished))
            self._lock = StudyLock.take(path)
            self._autosave = Autosave(partial(StudyFile.open, path), study.history, self._failed.emit)
        else:
            path.unlink(missing_ok=True)
            self._write_to(path, study)
        self.path = path
        self.changed.emit()
