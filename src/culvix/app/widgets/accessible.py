"""Names by which a screen reader tells controls that have no words of their own."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QComboBox,
    QGraphicsView,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)

__all__ = ["name_controls", "spoken_name"]

_NAMED = (QAbstractButton, QComboBox, QLineEdit, QAbstractSpinBox, QPlainTextEdit, QAbstractItemView, QGraphicsView)


def spoken_name(control: QWidget) -> str:
    """What is told of ``control``: its name, its words, or what its tip or hint says it is for; empty for none.

    Parts of a control, such as the field of a spin box, are told as the whole.
    """
    whole = control.parentWidget()
    if isinstance(whole, QAbstractSpinBox | QGraphicsView) and not control.accessibleName():
        return spoken_name(whole)
    words = control.text().replace("&", "") if isinstance(control, QAbstractButton) else ""
    hint = control.placeholderText() if isinstance(control, QLineEdit | QPlainTextEdit) else ""
    tip = control.toolTip().split("\n")[-1].split(";")[0].removeprefix("<qt>").removesuffix("</qt>")
    return (control.accessibleName() or words or tip or hint).strip()


def name_controls(pane: QWidget) -> None:
    """Give each control in ``pane`` that can have the keyboard and has no words a name: what it is for."""
    for control in (pane, *pane.findChildren(QWidget)):
        if not isinstance(control, _NAMED) or control.focusPolicy() == Qt.FocusPolicy.NoFocus:
            continue
        if not control.accessibleName() and not (isinstance(control, QAbstractButton) and control.text()):
            name = spoken_name(control)
            if name:
                control.setAccessibleName(name)
