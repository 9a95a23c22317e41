"""What a study is written as, by the ending of the file: study, report, profile document, or cleaned table."""

import os
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from types import MappingProxyType
from typing import TYPE_CHECKING

from culvix.errors import WriteError
from culvix.files import display_path, write_whole
from culvix.places import scratch_folder
from culvix.progress import Progress

if TYPE_CHECKING:
    from culvix.study import Study

__all__ = ["KINDS", "REPORTS", "check_outputs", "write_output", "write_report_files"]


def _study_file(study: "Study", progress: Progress) -> bytes:
    from culvix.study.carrying.fingerprint import fingerprint_of
    from culvix.study.storage.study_file import write_study_copy

    with scratch_folder() as folder:
        path = folder / "study"
        write_study_copy(path, study.history, study.table.source.sha256, fingerprint_of(study.table))
        return path.read_bytes()


def write_report_files(study: "Study", paths: Sequence[Path], progress: Progress, *, sources: tuple[Path, ...]) -> None:
    """Write the report of ``study`` to each of ``paths`` as its ending says, over none of ``sources``.

    Raises WriteError.
    """
    from culvix.app.shell.start import make_application
    from culvix.report.formats.report_files import write_report
    from culvix.report.remembered_pictures import RememberedPictures
    from culvix.report.render_process import Drawing, RenderProcess

    make_application(offscreen=True)
    if len(paths) * len(study.table.numeric) < _MANY:
        drawing = Drawing()
        for path in paths:
            write_report(study.workspace, path, drawing.draw, sources=sources, progress=progress)
        return
    renderer = RenderProcess()
    draw = renderer.draw if len(paths) == 1 else RememberedPictures(renderer.draw).draw
    try:
        for path in paths:
            write_report(study.workspace, path, draw, sources=sources, progress=progress)
    finally:
        renderer.close()


def _profile(study: "Study", progress: Progress) -> bytes:
    import msgspec

    from culvix.report.documents.profile import profile_document

    return msgspec.json.encode(profile_document(study.workspace, progress=progress)) + b"\n"


def _cleaned(suffix: str) -> "Callable[[Study, Progress], bytes]":
    def make(study: "Study", progress: Progress) -> bytes:
        from culvix.report.documents.cleaned_data import cleaned_frame
        from culvix.report.formats.table_files import frame_file

        return frame_file(cleaned_frame(study.workspace, progress), suffix)

    return make


KINDS: "Mapping[str, Callable[[Study, Progress], bytes]]" = MappingProxyType(
    {
        ".culvix": _study_file,
        ".json": _profile,
        **{suffix: _cleaned(suffix) for suffix in (".csv", ".parquet", ".xlsx")},
    }
)
"""What is written besides reports, by the ending of the file."""

_MANY = 40
"""So many pictures are worth a process that draws them while the rest is worked out."""

REPORTS = (".html", ".pdf", ".docx", ".md")
"""The endings of reports."""


def check_outputs(paths: list[Path], kinds: "tuple[str, ...]" = (*REPORTS, *KINDS)) -> None:
    """Raise WriteError for a file whose ending does not say what it is to be, before any work is done."""
    for path in paths:
        if path.suffix.lower() not in kinds:
            name = display_path(Path(path.name))
            raise WriteError(f"{name} ends in none of {', '.join(kinds)}, so that it is not known what to write.")
        if not os.path.isdir(path.absolute().parent):
            raise WriteError(f"{display_path(path)} cannot be written: there is no folder {display_path(path.parent)}.")


def write_output(
    study: "Study", path: Path, progress: Progress, *, sources: tuple[Path, ...], kind: str | None = None
) -> None:
    """Write ``study`` to ``path`` as ``kind`` or else its ending says, over none of ``sources``. Raises WriteError."""
    kind = kind or path.suffix.lower()
    if kind in REPORTS:
        write_report_files(study, [path], progress, sources=sources)
        return
    write_whole(path, KINDS[kind](study, progress), sources=(*sources, study.table.source.path))
