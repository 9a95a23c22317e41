"""What is said of one or several columns at once: label, unit, valid range, codes for missing, role."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFormLayout, QLineEdit, QWidget

from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import label
from culvix.errors import CulvixError
from culvix.stats.display import as_typed, typed_number
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Column, Role

__all__ = ["ColumnFields"]

_BY_CONTENT = "as judged"
_VARIOUS = "various"
_CODES = "missing codes"
_ENDS = {"smallest": 0, "largest": 1}


class ColumnFields(QWidget):
    """A form; each field that is changed is said of every column shown, the others are left as they are."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.names: tuple[str, ...] = ()
        form = QFormLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        self.fields: dict[str, QLineEdit] = {}
        self._shown: dict[str, str] = {}
        for name in ("label", "unit", *_ENDS, _CODES):
            field = QLineEdit()
            field.setToolTip(f"What is said of the {name} of the columns chosen")
            field.editingFinished.connect(lambda name=name: self._edited(name))
            form.addRow(label(name, "quiet"), field)
            self.fields[name] = field
        self.role = Choice()
        self.role.addItems([_BY_CONTENT, *Role])
        self.role.activated.connect(lambda _: self._role_edited())
        form.addRow(label("role", "quiet"), self.role)

    def show_columns(self, columns: Sequence[Column], *, anew: bool) -> None:
        """Show what is said of ``columns``; unless ``anew``, a field that is being typed in is left alone."""
        self.names = tuple(column.name for column in columns)
        declared = [self.hub.study.dictionary.of(name) for name in self.names]
        hints = {
            "label": [column.label or column.name for column in columns],
            "unit": [column.unit or "none" for column in columns],
            "smallest": ["any"],
            "largest": ["any"],
            _CODES: ["as -9 NA"],
        }
        for name, field in self.fields.items():
            texts = {_text_of(entry, name) for entry in declared}
            alike = len(texts) == 1
            text = texts.pop() if alike else ""
            hint = hints[name][0] if alike and len(set(hints[name])) == 1 else _VARIOUS
            if anew or not field.hasFocus():
                field.setText(text)
                self._shown[name] = text
            field.setPlaceholderText(hint)
        self.fields["label"].setEnabled(len(self.names) == 1)
        roles = {_BY_CONTENT if entry.role is None else str(entry.role) for entry in declared}
        self.role.setCurrentText(roles.pop() if len(roles) == 1 else "")
        if len(roles) > 0:
            self.role.setCurrentIndex(-1)
            self.role.setPlaceholderText(_VARIOUS)

    def _edited(self, name: str) -> None:
        text = self.fields[name].text().strip()
        if text == self._shown.get(name, "").strip() or not self.names:
            return
        try:
            change = self._change(name, text)
        except CulvixError as error:
            self.problem.emit(error.sentence)
            return
        self._shown[name] = text
        self.hub.edit_columns(self.names, change)

    def _role_edited(self) -> None:
        chosen = self.role.currentText()
        role = None if chosen == _BY_CONTENT else Role(chosen)
        self.hub.edit_columns(self.names, lambda entry: replace(entry, role=role))

    def _change(self, name: str, text: str) -> Callable[[ColumnEntry], ColumnEntry]:
        if name in _ENDS:
            end, value = _ENDS[name], _number(name, text)

            def ranged(entry: ColumnEntry) -> ColumnEntry:
                low, high = entry.valid_range
                return replace(entry, valid_range=(value, high) if end == 0 else (low, value))

            return ranged
        declared: dict[str, Any] = {name: text or None}
        if name == _CODES:
            declared = {"missing_codes": tuple(text.split())}
        return lambda entry: replace(entry, **declared)


def _text_of(entry: ColumnEntry, name: str) -> str:
    if name in _ENDS:
        end = entry.valid_range[_ENDS[name]]
        return "" if end is None else as_typed(end)
    if name == _CODES:
        return " ".join(entry.missing_codes)
    return getattr(entry, name) or ""


def _number(end: str, text: str) -> float | None:
    if not text:
        return None
    try:
        return typed_number(text)
    except ValueError:
        raise CulvixError(f"The {end} valid value must be a number, not “{text}”.") from None
