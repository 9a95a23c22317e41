"""`culvix report`: the report as one self-contained file."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from culvix.cli.parsing import add_study_options, file_parser, progress_shown, study_of
from culvix.progress import Progress

if TYPE_CHECKING:
    from culvix.study import Study

__all__ = ["report"]


def report(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    parser = file_parser("report", "Write the report of FILE as one self-contained HTML file.")
    add_study_options(parser, "html")
    options = parser.parse_args(arguments)
    with progress_shown() as progress:
        study = study_of(options, lambda share, doing: progress(0.3 * share, doing))
        _write(study, options.file, options.output, lambda share, doing: progress(0.3 + 0.7 * share, doing))
    return 0


def _write(study: "Study", given: Path, path: Path, progress: Progress) -> None:
    from culvix.app.shell.start import make_application
    from culvix.files import write_whole
    from culvix.report.formats.html import report_html
    from culvix.report.render_process import draw_here

    make_application(offscreen=True)
    text = report_html(study.workspace, draw_here, progress=progress)
    write_whole(path, text.encode("utf-8", errors="replace"), sources=(given, study.table.source.path))
