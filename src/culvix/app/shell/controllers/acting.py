"""What a key or a menu does with the study that is open, beside opening and saving."""

from collections.abc import Callable

from PyQt6.QtCore import Qt

from culvix.app.shell.controllers.context import WindowContext
from culvix.app.shell.controllers.hinting import Hinting
from culvix.app.shell.pages.guide_pane import GuidePane
from culvix.app.shell.parts.top_strip import TopStrip
from culvix.app.shell.stages import STAGES
from culvix.app.shell.theme import THEMES
from culvix.errors import CulvixError
from culvix.study import Study
from culvix.study.document.choices.settings import replaced
from culvix.study.document.history.history import Act
from culvix.study.document.history.messages import act_text

__all__ = ["Acting"]


class Acting:
    """Walks through stages, views and the history; does nothing while no table is open."""

    def __init__(self, context: WindowContext, strip: TopStrip, guide: GuidePane, hinting: Hinting) -> None:
        self.context, self.strip, self.guide, self.hinting = context, strip, guide, hinting

    def show_stage(self, position: int) -> None:
        """Show a stage by its place in the working order."""
        if self.context.bench is not None:
            self.context.bench.show_stage(position)
            self.strip.choose(position)
            self.hinting.show_for(self.context.bench.stage)

    def show_view(self, position: int) -> None:
        """Show a view of the Shape stage by its place."""
        if self.context.bench is not None:
            self.show_stage(STAGES.index("Shape"))
            self.context.bench.shape.stage.show_view(position)

    def turn_lanes(self) -> None:
        """Let the values of all pictures run the other way: up, or to the right."""
        if self.context.bench is not None:
            study = self.context.bench.hub.study
            study.change_settings(replaced(study.settings, upright=not study.settings.upright))

    def toggle_pane(self, pane: str) -> None:
        """Show or hide the rail, the margins or the tray."""
        if self.context.bench is None:
            return
        bench = self.context.bench
        if pane == "rail":
            bench.show_rail(not bench.rail.isVisible())
        elif pane == "tray":
            bench.tray.bar.stay.toggle()
        else:
            frame = bench.margins.parentWidget()
            if frame is not None:
                frame.setVisible(not frame.isVisible())

    def toggle_full_screen(self) -> None:
        """Let the window fill the screen, or be as it was before."""
        window = self.context.window
        window.setWindowState(window.windowState() ^ Qt.WindowState.WindowFullScreen)

    def choose_theme(self, theme: str) -> None:
        """Have the window in another of `THEMES` from its next start on."""
        self.context.settings.setValue("theme", theme)
        self.context.tell(f"Theme {THEMES[theme]}: from the next start on. What is saved stays light.")

    def ask_guide(self) -> None:
        """Open the guide at what is in view."""
        bench = self.context.bench
        self.guide.open_at("n" if bench is None else bench.page(bench.stage).guide_key)

    def leave(self) -> None:
        """Leave the guide, the question in the place of the acts, or the selection, whichever comes first."""
        if self.guide.isVisible():
            self.guide.close()
            return
        bench = self.context.bench
        if bench is not None and not bench.tray.bar.leave_question():
            bench.hub.study.select([])

    def leave_field(self) -> None:
        """Give the keyboard from a field back to the data, and nothing else."""
        if self.context.bench is not None:
            self.context.bench.tray.bar.leave_question()
            self.context.bench.focus_data()

    def undo(self) -> None:
        """Take back the latest act, and say which it was."""
        self._step("Undone", lambda study: study.undo())

    def redo(self) -> None:
        """Do the act undone last again, and say which it was."""
        self._step("Done again", lambda study: study.redo())

    def _step(self, message: str, move: Callable[[Study], Act]) -> None:
        if self.context.bench is None:
            return
        study = self.context.bench.hub.study
        try:
            self.strip.note.say(f"{message}: {act_text(study.table, move(study))}")
        except CulvixError as error:
            self.context.complain(error.sentence)
