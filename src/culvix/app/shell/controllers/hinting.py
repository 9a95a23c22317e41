"""A hint at the first look at each stage; once put away, or left with its stage, it is gone for good."""

from PyQt6.QtCore import QSettings

from culvix.app.shell.parts.overlays import Hint

__all__ = ["HINTS", "Hinting"]

HINTS: dict[str, str] = {
    "Intake": "Change a word above the rows and they follow at once; nothing is read so until you say so.",
    "Survey": "A click on a head orders the lines by it; Enter on a line opens its column.",
    "Shape": "Drag a bar's foot, an end of a span or the probe; a click or a drag on any lane selects its rows.",
    "Outliers": "N goes to the next flagged value; a digit says the cause, K keeps, E excludes, Ctrl+Z takes it back.",
    "Relations": "Choose a pair, and open it with Space; a drag in its picture selects rows here and everywhere.",
}


class Hinting:
    """Which hints were seen is remembered in ``settings``."""

    def __init__(self, hint: Hint, settings: QSettings) -> None:
        self.hint, self.settings = hint, settings
        hint.understood.clicked.connect(self.put_away)

    def show_for(self, stage: str) -> None:
        """Show the hint for ``stage``, if it was never shown."""
        self.put_away()
        key = f"hints/{stage}"
        if stage in HINTS and not self.settings.value(key, False, bool):
            self.settings.setValue(key, True)
            self.hint.say(HINTS[stage])

    def put_away(self) -> None:
        """Show none."""
        self.hint.hide()
