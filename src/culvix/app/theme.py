"""How the window looks: the palette as a style sheet and an application palette."""

from dataclasses import asdict
from pathlib import Path
from string import Template

from PyQt6.QtGui import QColor, QFont, QPalette
from PyQt6.QtWidgets import QApplication

from culvix.charts.palette import LIGHT, Palette

__all__ = ["apply_theme"]

_HERE = Path(__file__).parent


def apply_theme(application: QApplication, palette: Palette = LIGHT) -> None:
    """Dress the whole application."""
    application.setStyle("Fusion")
    font = QFont(application.font())
    font.setPointSizeF(9.0)
    font.setFeature(QFont.Tag("tnum"), 1)
    application.setFont(font)
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
    application.setStyleSheet(_sheet(palette))


def _sheet(palette: Palette) -> str:
    """The style sheet in the shades of ``palette``."""
    sheet = Template((_HERE / "sheet.qss").read_text(encoding="utf-8"))
    return sheet.substitute(asdict(palette), icons=(_HERE / "icons").as_posix())
