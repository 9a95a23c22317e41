"""A study opened again: its history from its file, its table from the source, wherever that is by now."""

import os
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from culvix.errors import ReadError
from culvix.files import display_path
from culvix.progress import Progress, silent
from culvix.study.analysis.workspace import Workspace
from culvix.study.carrying.fingerprint import Fingerprint
from culvix.study.carrying.source_changes import SourceChanges, changes_of_source
from culvix.study.carrying.to_changed_source import to_changed_source
from culvix.study.document.history.history import History
from culvix.study.document.row_check import check_rows
from culvix.study.storage.salvage import salvage
from culvix.study.storage.source_record import has_source, read_fingerprint, unpack_source
from culvix.study.storage.study_reading import (
    Reading,
    opened_study,
    read_place,
    read_reading,
    read_source_checksum,
    read_study,
)
from culvix.study.study import Study
from culvix.tables import Table, read_table
from culvix.tables.model.table import Source

__all__ = ["SourceChanged", "SourceMissing", "find_source", "reopen", "reopen_damaged", "reopen_on_kept_source"]


class SourceMissing(ReadError):
    """The table that a study is about is not found; another place can be named for it."""


class SourceChanged(ReadError):
    """The table that a study is about is another one by now; the study can be taken over to it as it is.

    ``changes`` say how it differs, None where that is not known. ``has_kept_source``: the one of then is in the study.
    """

    def __init__(
        self, sentence: str, history: History, table: Table, changes: SourceChanges | None, *, has_kept_source: bool
    ) -> None:
        super().__init__(sentence)
        self.history, self.table, self.changes, self.has_kept_source = history, table, changes, has_kept_source

    def taken_over(self) -> Study:
        """The study on the table as it is now. Raises ReadError where it is not known how that differs."""
        if self.changes is None:
            raise ReadError(f"{self.table.source.name} has changed, and it is not known in what.")
        return to_changed_source(self.history, self.table, self.changes)


def reopen(path: Path, progress: Progress = silent, *, source: Path | None = None) -> Study:
    """The study in the file at ``path``, with its whole history, as it was left; on the table at ``source`` if given.

    Raises SourceMissing or SourceChanged, and ReadError where the file is no study that can be read.
    """
    with opened_study(path) as (connection, version):
        sha256, reading, known = read_source_checksum(connection), read_reading(connection), read_place(connection)
        has_source_inside = version > 1 and has_source(connection)
    history = read_study(path) if reading is None else None
    if reading is None:
        assert history is not None
        reading = Reading(history.current.origin, history.current.dictionary)
    try:
        location = find_source(path, reading.origin.path, known) if source is None else source
    except SourceMissing:
        if not has_source_inside:
            raise
        return reopen_on_kept_source(path, progress)
    # A history of thousands of acts takes as long as half a table does.
    with ThreadPoolExecutor(1, "history") as beside:
        later = beside.submit(lambda: history or read_study(path))
        table = _read(location, reading, progress)
        history = later.result()
    document = history.current
    if (document.dictionary, document.origin) != (reading.dictionary, reading.origin):
        table = _read(location, Reading(document.origin, document.dictionary), progress)
    if not _is_the_same(table.source, sha256, document.origin.size):
        raise _changed(history, table, _fingerprint(path), has_kept_source=has_source_inside)
    return _resumed(history, table)


def _read(place: Path, reading: Reading, progress: Progress) -> Table:
    return read_table(
        place, reading.origin.options, dictionary=reading.dictionary, progress=progress, checksum_first=True
    )


def _fingerprint(path: Path) -> Fingerprint | None:
    """The fingerprint of the source in the study at ``path``, None where it has none."""
    with opened_study(path) as (connection, version):
        return read_fingerprint(connection) if version > 1 else None


def reopen_on_kept_source(path: Path, progress: Progress = silent) -> Study:
    """The study in the file at ``path`` on the table that stands in it. Raises ReadError where there is none."""
    history = read_study(path)
    document = history.current
    with opened_study(path) as (connection, version):
        if version < 2 or not has_source(connection):
            raise ReadError(f"{display_path(Path(path.name))} has no table in it.")
        sha256 = read_source_checksum(connection)
        location = unpack_source(connection, document.origin.size, sha256)
    table = read_table(location, document.origin.options, dictionary=document.dictionary, progress=progress)
    if not _is_the_same(table.source, sha256, document.origin.size):
        raise ReadError(f"The table that stands in {display_path(Path(path.name))} is not the one it is about.")
    return _resumed(history, table)


def reopen_damaged(path: Path, progress: Progress = silent) -> tuple[Study, str]:
    """What can be read of the damaged study in the file at ``path``, and a sentence on what is not.

    Raises ReadError where nothing can be, SourceMissing and SourceChanged as `reopen`.
    """
    found = salvage(path)
    document = found.history.current
    reading = Reading(document.origin, document.dictionary)
    table = _read(find_source(path, document.origin.path), reading, progress)
    if not _is_the_same(table.source, found.sha256, document.origin.size):
        raise _changed(found.history, table, None, has_kept_source=False)
    return _resumed(found.history, table), found.sentence


def _resumed(history: History, table: Table) -> Study:
    check_rows(history.documents, table.rows)
    study = Study(Workspace.of(history.current, table))
    study.resume(history)
    return study


def _is_the_same(source: Source, sha256: str, size: int) -> bool:
    return source.sha256 == sha256 if sha256 else source.size == size


def _changed(
    history: History, table: Table, fingerprint: Fingerprint | None, *, has_kept_source: bool
) -> SourceChanged:
    """What is to be said of a source that is another one by now."""
    name = table.source.name
    if fingerprint is None:
        sentence = (
            f"{name} has changed since this study was kept, so that its decisions may be about other rows; the study "
            "is left as it is. Put the earlier file back, or open the table to begin anew."
        )
        return SourceChanged(sentence, history, table, None, has_kept_source=has_kept_source)
    changes = changes_of_source(fingerprint, table)
    sentence = f"{name} has changed since this study was kept. {' '.join(changes.sentences)}"
    return SourceChanged(sentence, history, table, changes, has_kept_source=has_kept_source)


def find_source(path: Path, recorded: Path, known: Path | None = None) -> Path:
    """The source of the study at ``path``: where it was, beside the study, or where it was ``known`` to be last.

    Raises SourceMissing.
    """
    for location in (recorded, path.absolute().parent / recorded.name, known):
        if location is not None and os.path.isfile(location):
            return location
    name = display_path(Path(recorded.name))
    raise SourceMissing(
        f"{name}, which this study is about, is neither in {display_path(recorded.parent)} nor beside the study; put "
        "it there and open the study again."
    )
