"""What new studies begin with, and what is remembered of earlier work: seen, taken over and erased in one place."""

from collections.abc import Callable
from datetime import timedelta

from culvix.app.shell.controllers.context import WindowContext
from culvix.app.shell.dialogs.preferences_dialog import PreferencesDialog
from culvix.app.shell.dialogs.remembered_dialog import RememberedDialog
from culvix.errors import CulvixError
from culvix.stats.display import plural
from culvix.study.storage.preferences import Preferences, load_preferences, reset_preferences, save_preferences
from culvix.study.storage.remembered import erase

__all__ = ["Preferring"]


class Preferring:
    """Keeps the conventions for new studies."""

    def __init__(self, context: WindowContext) -> None:
        self.context = context

    @property
    def current(self) -> Preferences:
        """What new studies begin with; a file of it that makes no sense is told, and the usual conventions are used."""
        try:
            return load_preferences()
        except CulvixError as error:
            self.context.complain(error.sentence)
            return Preferences()

    @property
    def of_study(self) -> Preferences | None:
        """What the study in hand would give to new ones, None where there is none."""
        if self.context.bench is None:
            return None
        study = self.context.bench.hub.study
        return Preferences.of(study.settings, study.document.initials)

    def ask(self) -> None:
        """Show the conventions, to be taken over or reset."""
        PreferencesDialog(self.context.window, self.current, self.of_study, self.take, self.reset).exec()

    def ask_remembered(self) -> None:
        """Show what the program remembers of its user's work, to be erased."""

        def erased(kinds: tuple[str, ...], age: timedelta | None) -> str:
            bench = self.context.bench
            keep = () if bench is None else (bench.hub.study.table.source.path,)
            try:
                return f"{plural(erase(kinds, age, keep=keep), 'entry', 'entries')} erased."
            except CulvixError as error:
                return error.sentence

        RememberedDialog(self.context.window, erased).exec()

    def take(self) -> Preferences:
        """Let new studies begin like the one in hand."""
        of_study = self.of_study
        if of_study is not None:
            self._tried(lambda: save_preferences(of_study))
        return self.current

    def reset(self) -> Preferences:
        """Let new studies begin with the usual conventions."""
        self._tried(reset_preferences)
        return self.current

    def _tried(self, act: Callable[[], None]) -> None:
        try:
            act()
        except CulvixError as error:
            self.context.complain(error.sentence)
