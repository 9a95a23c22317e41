"""A study's report as a file, by its ending: HTML, PDF, DOCX, Markdown with a folder of pictures, or its tables."""

from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from pathlib import Path

import msgspec

from culvix.errors import WriteError
from culvix.files import write_whole
from culvix.progress import Progress, silent
from culvix.report.carried import SEAL, carried_data, sealed
from culvix.report.compose import compose
from culvix.report.documents.profile import profile_document
from culvix.report.drawing_ahead import drawing_ahead
from culvix.report.formats.docx import report_docx
from culvix.report.formats.html import report_html
from culvix.report.formats.markdown import report_markdown
from culvix.report.formats.pdf import report_pdf
from culvix.report.formats.workbook import report_workbook
from culvix.report.parts import PictureBlock, Report
from culvix.study.analysis.workspace import Workspace

__all__ = ["REPORT_FORMATS", "report_file", "write_report"]

Draw = Callable[[PictureBlock], str]

REPORT_FORMATS: dict[str, str] = {
    ".html": "HTML",
    ".pdf": "PDF",
    ".docx": "Word processor",
    ".md": "Markdown, with a folder of pictures",
    ".xlsx": "Tables and figures as a spreadsheet",
    ".json": "Numbers as data, the profile document",
}
"""What a report can be written as, by the ending of its file."""


def _html(report: Report, draw: Draw, carried: str, progress: Progress) -> bytes:
    text = report_html(report, draw, carried=carried, progress=progress)
    return text.encode("utf-8", errors="replace") + f"<!-- {SEAL} -->\n".encode()


def _pdf(report: Report, draw: Draw, carried: str, progress: Progress) -> bytes:
    return report_pdf(report, draw, carried=carried, progress=progress) + f"% {SEAL}\n".encode()


def _docx(report: Report, draw: Draw, carried: str, progress: Progress) -> bytes:
    return report_docx(report, draw, carried=carried, progress=progress)


_SEALED: dict[str, Callable[[Report, Draw, str, Progress], bytes]] = {".html": _html, ".pdf": _pdf, ".docx": _docx}


def report_file(
    workspace: Workspace, suffix: str, draw: Draw, *, written: str = "", progress: Progress = silent
) -> bytes:
    """The report of ``workspace`` as one file with that ``suffix``, which carries its data and is sealed.

    ``written`` is the day in it (ISO 8601), today where it is empty. Raises what ``draw`` and ``progress`` raise.
    """
    written = written or datetime.now(UTC).strftime("%Y-%m-%d")
    with drawing_ahead(draw) as (pictured, drawn):
        report = compose(workspace, written=written, pictured=pictured, progress=progress)
        return sealed(_SEALED[suffix](report, drawn, carried_data(workspace, report, written), progress))


def write_report(
    workspace: Workspace, path: Path, draw: Draw, *, sources: Sequence[Path] = (), progress: Progress = silent
) -> None:
    """Write the report to ``path`` in the format of its ending, over none of ``sources``. Raises WriteError."""
    sources = (*sources, workspace.table.source.path)
    suffix = path.suffix.lower()
    if suffix in _SEALED:
        write_whole(path, report_file(workspace, suffix, draw, progress=progress), sources=sources)
        return
    if suffix == ".json":
        document = msgspec.json.encode(profile_document(workspace, progress=progress))
        write_whole(path, document + b"\n", sources=sources)
        return
    report = compose(workspace, progress=progress)
    if suffix == ".xlsx":
        write_whole(path, report_workbook(report, progress=progress), sources=sources)
        return
    folder = f"{path.stem}-pictures"
    text, pictures = report_markdown(report, draw, folder, progress=progress)
    try:
        (path.parent / folder).mkdir(exist_ok=True)
    except OSError as error:
        why = (error.strerror or "unknown error").lower()
        raise WriteError(f"The folder {folder} for the pictures cannot be made: {why}.") from error
    for name, svg in pictures.items():
        write_whole(path.parent / name, svg.encode(), sources=sources)
    write_whole(path, text.encode("utf-8", errors="replace"), sources=sources)
