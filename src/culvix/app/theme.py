"""How the window looks: the palette as a style sheet and an application palette."""

from pathlib import Path

from PyQt6.QtGui import QColor, QFont, QPalette
from PyQt6.QtWidgets import QApplication

from culvix.charts.palette import LIGHT, Palette

__all__ = ["apply_theme"]

_ICONS = (Path(__file__).parent / "icons").as_posix()


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


def _sheet(p: Palette) -> str:
    return f"""
    QMainWindow, QMenuBar {{ background: {p.ground}; }}
    QMenuBar {{ color: {p.ink}; padding: 1px 6px; }}
    QMenuBar::item {{ padding: 3px 8px; background: transparent; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {p.raised}; color: {p.ink}; }}
    QMenu {{ background: {p.panel}; border: 1px solid {p.rule}; }}
    QMenu::item {{ padding: 4px 24px; }}
    QFrame[panel="true"] {{ background: {p.panel}; border: 1px solid {p.rule}; border-radius: 4px; }}
    QLabel {{ color: {p.ink}; background: transparent; }}
    QLabel[quiet="true"] {{ color: {p.muted}; }}
    QLabel[small="true"] {{ color: {p.muted}; font-size: 8pt; }}
    QLabel[head="true"] {{ font-weight: 600; }}
    QLabel[title="true"] {{ font-weight: 600; font-size: 11.5pt; }}
    QLabel[probe="true"] {{ color: {p.probe}; font-weight: 600; }}
    QPushButton, QToolButton, QComboBox, QLineEdit, QPlainTextEdit, QDoubleSpinBox, QSpinBox {{
        background: {p.panel}; color: {p.ink}; border: 1px solid {p.rule}; border-radius: 3px; padding: 3px 7px;
    }}
    QComboBox::drop-down {{ border: none; width: 15px; }}
    QComboBox::down-arrow {{ image: url("{_ICONS}/down.svg"); width: 10px; height: 10px; }}
    QPushButton:hover, QToolButton:hover, QComboBox:hover {{ background: {p.raised}; }}
    QPushButton:pressed, QToolButton:pressed, QPushButton:checked {{ background: {p.rule}; }}
    QPushButton:disabled {{ color: {p.reference}; background: {p.ground}; }}
    QPushButton:focus, QToolButton:focus, QComboBox:focus, QLineEdit:focus, QDoubleSpinBox:focus {{
        border: 1px solid {p.data};
    }}
    QLineEdit[slim="true"] {{ padding: 0px 5px; }}
    QToolButton[slim="true"], QPushButton[slim="true"], QDoubleSpinBox[slim="true"] {{ padding: 1px 6px; }}
    QLabel[several="true"] {{ border-bottom: 1px dotted {p.muted}; }}
    QPushButton[link="true"] {{ text-align: left; border: none; padding: 1px 0px; background: transparent; }}
    QToolButton::menu-indicator {{ width: 0; }}
    QPushButton[stage="true"] {{
        background: transparent; border: none; border-bottom: 2px solid transparent; border-radius: 0;
        color: {p.muted}; padding: 7px 14px 5px 14px;
    }}
    QPushButton[stage="true"]:hover {{ color: {p.ink}; }}
    QPushButton[stage="true"]:checked {{ color: {p.ink}; border-bottom: 2px solid {p.data}; }}
    QPushButton[stage="true"]:focus {{ border-bottom: 2px solid {p.probe}; }}
    QFrame[card="grave"] {{ background: {p.ground}; border: none; border-left: 3px solid {p.flagged}; }}
    QFrame[card="mild"] {{ background: {p.ground}; border: none; border-left: 3px solid {p.caution}; }}
    QFrame[card="settled"] {{ background: {p.ground}; border: none; border-left: 3px solid {p.settled}; }}
    QFrame[card] QPushButton {{ padding: 2px 8px; }}
    QFrame[verdict="against"] {{ background: #F3E7D3; border: none; border-radius: 3px; }}
    QFrame[verdict="for"] {{ background: #E6ECDF; border: none; border-radius: 3px; }}
    QFrame[verdict="none"] {{ background: {p.raised}; border: none; border-radius: 3px; }}
    QFrame[banner="true"] {{ background: #F6DFD8; border: 1px solid {p.flagged}; border-radius: 3px; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
    QListView, QTableView {{
        background: {p.panel}; border: none; selection-background-color: {p.raised}; selection-color: {p.ink};
        outline: none;
    }}
    QTableView {{ gridline-color: {p.ground}; }}
    QHeaderView {{ background: {p.panel}; border: none; }}
    QHeaderView::section {{
        background: {p.panel}; color: {p.muted}; border: none; border-bottom: 1px solid {p.rule}; padding: 3px 6px;
    }}
    QTableCornerButton::section {{ background: {p.panel}; border: none; }}
    QSplitter::handle {{ background: {p.ground}; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 9px; margin: 0; }}
    QScrollBar::handle {{ background: {p.rule}; border-radius: 4px; min-width: 24px; min-height: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QProgressBar {{ background: {p.raised}; border: none; border-radius: 3px; max-height: 6px; }}
    QProgressBar::chunk {{ background: {p.data}; border-radius: 3px; }}
    """
