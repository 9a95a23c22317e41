"""A study opened again: its history from its file, its table from the source, which has to be the same still."""

from pathlib import Path

from culvix.errors import ReadError
from culvix.files import display_path
from culvix.progress import Progress, silent
from culvix.study.analysis.workspace import Workspace
from culvix.study.storage.study_file import read_study, source_checksum
from culvix.study.study import Study
from culvix.tables import read_table
from culvix.tables.model.table import Source

__all__ = ["find_source", "reopen"]


def reopen(path: Path, progress: Progress = silent) -> Study:
    """The study in the file at ``path``, with its whole history, as it was left.

    Raises ReadError where the file is no study that can be read, its source is not found, or is another one by now.
    """
    history = read_study(path)
    document = history.current
    place = find_source(path, document.origin.path)
    table = read_table(place, document.origin.options, dictionary=document.dictionary, progress=progress)
    _check_source(table.source, source_checksum(path), document.origin.size)
    study = Study(Workspace.of(document, table))
    study.resume(history)
    return study


def _check_source(source: Source, sha256: str, size: int) -> None:
    """Raise ReadError where the source is not the one that the study is about."""
    if (sha256 and source.sha256 != sha256) or (not sha256 and source.size != size):
        raise ReadError(
            f"{source.name} has changed since this study was kept, so that its decisions may be about other rows; the "
            "study is left as it is. Put the earlier file back, or open the table to begin anew."
        )


def find_source(path: Path, recorded: Path) -> Path:
    """The source of the study at ``path``: where it was, or beside the study. Raises ReadError where it is neither."""
    for place in (recorded, path.absolute().parent / recorded.name):
        if place.is_file():
            return place
    name = display_path(Path(recorded.name))
    raise ReadError(
        f"{name}, which this study is about, is neither in {display_path(recorded.parent)} nor beside the study; put "
        "it there and open the study again."
    )
