"""`culvix demo`: the example study in a window, or run whole without a display."""

import os
from collections.abc import Sequence
from pathlib import Path

from culvix.cli.outputs import REPORTS, write_report_files
from culvix.cli.parsing import Parser, study_of
from culvix.cli.profile import profile
from culvix.cli.report import report_parser
from culvix.errors import WriteError
from culvix.progress import silent

__all__ = ["demo", "demo_parser"]


def demo_parser(*, add_help: bool = True) -> Parser:
    about = "Open the example study, or run it whole without a display. Its files come into culvix-demo/ here."
    return Parser(prog="culvix demo", description=about, add_help=add_help)


def demo(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    demo_parser().parse_args(arguments)
    from culvix.app.shell.start import has_display, run_window
    from culvix.demo import write_demo
    from culvix.study.example_study import write_example_study

    folder = Path("culvix-demo")
    try:
        path = write_demo(folder)
    except OSError as error:
        raise WriteError(f"{folder} cannot be written: {(error.strerror or 'unknown error').lower()}.") from error
    study = write_example_study(path)
    if has_display() and os.environ.get("QT_QPA_PLATFORM") != "offscreen":
        return run_window(study)
    return _demo_without_display(path, study, folder)


def _demo_without_display(path: Path, study: Path, folder: Path) -> int:
    from culvix.app.shell.picture_views import picture_views

    document = folder / "spring_cohort.profile.json"
    write_ups = [folder / f"spring_cohort.report{suffix}" for suffix in (*REPORTS, ".xlsx")]
    profile([str(path), "-o", str(document)])
    # Read once for all of them.
    options = report_parser().parse_args([str(study), "-o", str(write_ups[0])])
    write_report_files(study_of(options, silent), write_ups, silent, sources=(study,))
    pictures = picture_views(path, folder)
    print(f"No display, so the example was run without one. In {folder.resolve()} are now:")
    for made, what in (
        (path, "the example table, with last year's beside it"),
        (study, "the example study, with some decisions made"),
        (document, "the profile document of the table as it was read"),
        *((write_up, "the report of the study") for write_up in write_ups),
        *((picture, f"a picture of the {picture.stem} view") for picture in pictures),
    ):
        print(f"  {made.name:28} {what}")
    return 0
