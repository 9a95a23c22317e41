"""What the window writes and loads beside the table itself: report, survey and dictionary."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QFileDialog

from culvix.app.shell.controllers.context import WindowContext
from culvix.errors import CulvixError
from culvix.files import write_whole
from culvix.progress import Progress
from culvix.report.documents.cleaned_data import cleaned_frame, flagged_frame
from culvix.report.formats.report_files import REPORT_FORMATS, write_report
from culvix.report.formats.survey_files import survey_file
from culvix.report.formats.table_files import frame_file
from culvix.stats.display import plural
from culvix.study.recipes.recipe import Recipe, recipe_of
from culvix.study.recipes.recipe_format import encode_recipe
from culvix.study.whole.cleaned_whole import CLEANED_WHOLE
from culvix.tables.model.dictionary import Dictionary, load_data_package, write_data_package
from culvix.tables.model.options.read_options import ReadOptions

if TYPE_CHECKING:
    import polars as pl


__all__ = ["Saving"]

FrameMaker = Callable[..., "pl.DataFrame"]


class Saving:
    """Asks for files and writes them in the background."""

    def __init__(self, context: WindowContext, read_again: Callable[[ReadOptions, Dictionary | None], None]) -> None:
        """``read_again`` reads the file in hand again in another way or under another dictionary."""
        self.context, self.read_again = context, read_again

    def ask_report(self) -> None:
        """Let the analyst choose where the report goes."""
        if self.context.bench is None:
            return
        source = self.context.bench.hub.study.table.source.path
        kinds = ";;".join(f"{name} (*{suffix})" for suffix, name in REPORT_FORMATS.items())
        proposed = str(source.with_name(f"{source.stem}-report.html"))
        name, kind = QFileDialog.getSaveFileName(self.context.window, "Save report", proposed, kinds)
        if name:
            path = Path(name)
            chosen = next((suffix for suffix in REPORT_FORMATS if f"(*{suffix})" in kind), ".html")
            self.save_report(path if path.suffix.lower() in REPORT_FORMATS else path.with_name(path.name + chosen))

    def save_report(self, path: Path) -> None:
        """Write the report of the study as it stands to ``path``, in the background."""
        if self.context.bench is None:
            return
        workspace = self.context.bench.hub.study.workspace

        def work(progress: Progress) -> None:
            write_report(workspace, path, self.context.pictures.draw, progress=progress)

        def done(_: None) -> None:
            decisions = plural(len(workspace.document.decisions), "decision")
            columns = plural(len(workspace.table.numeric), "column")
            self.context.tell(
                f"Report saved as {path.name}: {columns}, {decisions}.",
                "Open it",
                lambda: QDesktopServices.openUrl(QUrl.fromLocalFile(str(path))),
            )

        self.context.jobs.start("report", work, done, failed=self.context.refused, priority=5)

    def ask_survey(self) -> None:
        """Let the analyst choose where the lines of the survey are written to."""
        if self.context.bench is None:
            return
        kinds = "Spreadsheet (*.xlsx);;Delimited text (*.csv)"
        proposed = str(self.context.bench.hub.study.table.source.path.with_suffix("")) + "-survey.xlsx"
        name, _ = QFileDialog.getSaveFileName(self.context.window, "Save the survey", proposed, kinds)
        if name:
            self.save_survey(Path(name))

    def save_survey(self, path: Path) -> None:
        """Write the lines of the survey as they are shown to ``path``, a spreadsheet or delimited text."""
        if self.context.bench is None:
            return
        rows, fields = list(self.context.bench.survey.stage.lines.rows), self.context.bench.survey.stage.fields
        source = self.context.bench.hub.study.table.source.path
        self.context.jobs.start(
            "survey",
            lambda _: write_whole(path, survey_file(rows, fields, path.suffix), sources=(source,)),
            lambda _: self.context.tell(f"Survey saved as {path.name}: {plural(len(rows), 'line')}."),
            failed=self.context.refused,
        )

    def ask_cleaned(self, *, trace: bool = False) -> None:
        """Let the analyst choose where the working set is written to, with a ``trace`` of what was decided or not."""
        self._ask_frame("cleaned", partial(cleaned_frame, trace=trace))

    def ask_cleaned_whole(self) -> None:
        """Let the analyst choose where the whole, of which the table is a sample, is written to as it was decided."""
        if self.context.bench is None:
            return
        hub = self.context.bench.hub
        sample = hub.study.table.source.sample
        if sample is None:
            self.context.complain("This table is no sample of a larger one; “Save cleaned data” writes all of it.")
            return
        proposed = str(hub.study.table.source.path.with_name(f"{sample.table}-cleaned.parquet"))
        kinds = "Parquet (*.parquet);;Delimited text (*.csv)"
        name, _ = QFileDialog.getSaveFileName(self.context.window, "Save the cleaned whole", proposed, kinds)
        if name:
            path = Path(name)
            right = path.suffix.lower() in CLEANED_WHOLE
            hub.whole.write_cleaned(path if right else path.with_name(f"{path.name}{CLEANED_WHOLE[0]}"))

    def ask_rows_beyond(self) -> None:
        """Let the analyst choose where the rows of the whole beyond the fences are written to."""
        if self.context.bench is None:
            return
        hub = self.context.bench.hub
        proposed = str(hub.study.table.source.path.with_suffix("")) + "-beyond.csv"
        kinds = "Delimited text (*.csv);;Parquet (*.parquet);;Spreadsheet (*.xlsx)"
        name, _ = QFileDialog.getSaveFileName(self.context.window, "Save rows of the whole", proposed, kinds)
        if name:
            hub.whole.write_beyond(Path(name))

    def ask_flagged(self) -> None:
        """Let the analyst choose where the list of flagged values is written to."""
        self._ask_frame("flagged", flagged_frame)

    def _ask_frame(self, what: str, make: FrameMaker) -> None:
        if self.context.bench is None:
            return
        kinds = "Delimited text (*.csv);;Parquet (*.parquet);;Spreadsheet (*.xlsx)"
        proposed = str(self.context.bench.hub.study.table.source.path.with_suffix("")) + f"-{what}.csv"
        name, _ = QFileDialog.getSaveFileName(self.context.window, f"Save the {what} values", proposed, kinds)
        if name:
            self.save_frame(Path(name), make)

    def save_frame(self, path: Path, make: FrameMaker) -> None:
        """Write what ``make`` makes of the study as it stands to ``path``, in the background."""
        if self.context.bench is None:
            return
        workspace = self.context.bench.hub.study.workspace

        def work(progress: Progress) -> int:
            frame = make(workspace, progress=progress)
            write_whole(path, frame_file(frame, path.suffix), sources=(workspace.table.source.path,))
            return frame.height

        def done(rows: int) -> None:
            message = f"{path.name} has {plural(rows, 'row')}."
            if path.suffix.lower() == ".csv":
                message += (
                    " Text that begins with = + - @ or an apostrophe stands behind one more, and so is no formula."
                )
            self.context.tell(message)

        self.context.jobs.start(f"writing {path.name}", work, done, failed=self.context.refused, priority=12)

    def ask_recipe(self) -> None:
        """Let the analyst choose where the recipe of the study is written to."""
        if self.context.bench is None:
            return
        source = self.context.bench.hub.study.table.source.path
        name, _ = QFileDialog.getSaveFileName(
            self.context.window,
            "Save the recipe",
            str(source.with_name(f"{source.stem}.recipe.json")),
            "Recipe (*.json)",
        )
        if name:
            self.save_recipe(Path(name))

    def save_recipe(self, path: Path) -> None:
        """Write what was said of the table, to be said again of the next, to ``path`` in the background."""
        if self.context.bench is None:
            return
        study = self.context.bench.hub.study
        workspace, history = study.workspace, study.history

        def work(_: Progress) -> Recipe:
            made = recipe_of(workspace, history)
            write_whole(path, encode_recipe(made), sources=(workspace.table.source.path,))
            return made

        def done(made: Recipe) -> None:
            decisions, columns = plural(len(made.steps), "decision"), plural(len(made.reference), "column")
            left = f" Left out: {' '.join(made.left_out)}" if made.left_out else ""
            self.context.tell(f"Recipe saved as {path.name}: {columns}, {decisions}.{left}")

        self.context.jobs.start(f"writing {path.name}", work, done, failed=self.context.refused, priority=12)

    def ask_dictionary(self) -> None:
        """Let the analyst choose a dictionary and read the file under it."""
        name, _ = QFileDialog.getOpenFileName(
            self.context.window, "Load a dictionary", "", "Data package (*.json);;All files (*)"
        )
        if name:
            self.load_dictionary(Path(name))

    def load_dictionary(self, path: Path) -> None:
        """Read the file in hand under the dictionary at ``path``."""
        try:
            source = self.context.bench.hub.study.table.source if self.context.bench is not None else None
            if source is not None:
                self.read_again(replace(source.options, dialect=source.dialect), load_data_package(path))
        except CulvixError as error:
            self.context.complain(error.sentence)

    def ask_save_dictionary(self) -> None:
        """Let the analyst choose where the dictionary is written to."""
        if self.context.bench is not None:
            proposed = str(self.context.bench.hub.study.table.source.path.with_name("datapackage.json"))
            name, _ = QFileDialog.getSaveFileName(
                self.context.window, "Save the dictionary", proposed, "Data package (*.json)"
            )
            if name:
                self.save_dictionary(Path(name))

    def save_dictionary(self, path: Path) -> None:
        """Write what is said of the columns to ``path``."""
        if self.context.bench is None:
            return
        study = self.context.bench.hub.study
        source = study.table.source
        try:
            package = write_data_package(study.table.columns, source, source.dialect, study.dictionary)
            write_whole(path, package, sources=(source.path,))
        except CulvixError as error:
            self.context.complain(error.sentence)
            return
        self.context.tell(f"Dictionary saved as {path.name}: {plural(len(study.table.columns), 'column')}.")
