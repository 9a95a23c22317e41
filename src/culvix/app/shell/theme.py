"""How the window looks: the palette as a style sheet and an application palette.

The sheet belongs to the window, not to the application: there, a pane is dressed once, when it is put in. Under a sheet
of the application it would be dressed again, with all that is in it, at every step of being put together.
"""

from dataclasses import asdict
from pathlib import Path
from string import Template

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QIcon, QPalette
from PyQt6.QtWidgets import QApplication, QWidget

from culvix.charts.palette import DARK, DARK_CONTRAST, LIGHT, LIGHT_CONTRAST, SHADES, Palette
from culvix.charts.paper import letters_times

__all__ = ["THEMES", "apply_theme", "dress", "palette_of"]

THEMES: dict[str, str] = {
    "desktop": "as the desktop",
    "light": "light",
    "dark": "dark",
    "light_contrast": "light, more contrast",
    "dark_contrast": "dark, more contrast",
}
"""What can be chosen, and what each is called."""

_PALETTES = {"light": LIGHT, "dark": DARK, "light_contrast": LIGHT_CONTRAST, "dark_contrast": DARK_CONTRAST}

_SIZES = (8.0, 16.0)
"""The smallest and the largest size of letters in which every pane has room for its words, in points."""

_USUAL_SIZE = 9.0
"""The size of letters for which the letters of pictures are chosen."""

_SMALL, _LARGE = 0.89, 1.28
"""The sizes of small words and of titles, as shares of that of all others."""

_HERE = Path(__file__).parent


def palette_of(theme: str, application: QApplication) -> Palette:
    """The palette of one of `THEMES`."""
    hints = application.styleHints()
    if theme == "desktop" and hints is not None:
        theme = "dark" if hints.colorScheme() == Qt.ColorScheme.Dark else "light"
        wishes = hints.accessibility()
        if wishes is not None and wishes.contrastPreference() == Qt.ContrastPreference.HighContrast:
            theme += "_contrast"
    return _PALETTES.get(theme, LIGHT)


def apply_theme(application: QApplication, palette: Palette = LIGHT) -> None:
    """Give the whole application the font and the colours of ``palette``."""
    SHADES.palette = palette
    application.setStyle("Fusion")
    font = QFont(application.font())
    font.setPointSizeF(min(max(font.pointSizeF(), _SIZES[0]), _SIZES[1]))
    font.setFeature(QFont.Tag("tnum"), 1)
    application.setFont(font)
    letters_times(font.pointSizeF() / _USUAL_SIZE)
    colours = QPalette()
    for role, name in (
        (QPalette.ColorRole.Window, palette.ground),
        (QPalette.ColorRole.Base, palette.panel),
        (QPalette.ColorRole.AlternateBase, palette.ground),
        (QPalette.ColorRole.Button, palette.panel),
        (QPalette.ColorRole.Text, palette.ink),
        (QPalette.ColorRole.WindowText, palette.ink),
        (QPalette.ColorRole.ButtonText, palette.ink),
        (QPalette.ColorRole.ToolTipBase, palette.panel),
        (QPalette.ColorRole.ToolTipText, palette.ink),
        (QPalette.ColorRole.Highlight, palette.raised),
        (QPalette.ColorRole.HighlightedText, palette.ink),
        (QPalette.ColorRole.PlaceholderText, palette.muted),
    ):
        colours.setColor(role, QColor(name))
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText, QPalette.ColorRole.WindowText):
        colours.setColor(QPalette.ColorGroup.Disabled, role, QColor(palette.reference))
    application.setPalette(colours)


def dress(window: QWidget) -> None:
    """Put the style sheet in the shades in use on a window; what opens from it wears it too."""
    palette = SHADES.palette
    sheet = Template((_HERE / "sheet.qss").read_text(encoding="utf-8"))
    size = window.font().pointSizeF()
    sizes = {"small": f"{_SMALL * size:.1f}pt", "large": f"{_LARGE * size:.1f}pt"}
    window.setWindowIcon(QIcon(str(_HERE / "icons" / "culvix.svg")))
    window.setStyleSheet(sheet.substitute(asdict(palette), **sizes, icons=(_HERE / "icons").as_posix()))
