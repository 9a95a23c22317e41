"""The outlier methods whose flags count, the limit of each, and the range declared for the column in focus."""

from dataclasses import replace

from PyQt6.QtWidgets import (
    QCheckBox,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QToolButton,
)

from culvix.app.session.configured import configured
from culvix.app.session.gestures import Gesture
from culvix.app.session.hub import Hub
from culvix.app.widgets.parts import label, row_of
from culvix.app.widgets.popup_form import PopupForm
from culvix.errors import CulvixError
from culvix.stats.display import as_typed, typed_number
from culvix.stats.registry import OUTLIER_METHODS, Setting

__all__ = ["VOTES", "MethodsButton"]

_SINGLE = [method.name for method in OUTLIER_METHODS.values() if method.single]
VOTES = (
    f"Agreement counts one vote a method. {' and '.join(_SINGLE)} look for one value only and have none beside others; "
    "the valid range is declared, not judged, and has none either."
)
"""How methods that are ticked count in the agreement."""


def _limit_field(limit: Setting, value: float) -> QDoubleSpinBox:
    """A field for a method's limit; levels and rates stay below 1."""
    share = limit.kind == "level"
    field = configured(QDoubleSpinBox(), decimals=3 if share else 2, singleStep=0.005 if share else 0.1)
    field.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
    field.setKeyboardTracking(False)
    field.setRange(0.001 if share else 0.1, 0.5 if share else 100.0)
    field.setValue(value)
    field.setSuffix(f"  {limit.name}")
    field.setToolTip(f"Usual: {', '.join(f'{v:g}' for v in limit.usual)}")
    return field


class MethodsButton(QToolButton):
    """Opens a list of all methods; what is changed there holds at once.

    A method with a span may have another limit above than below; such limits are the column's own, as are all that are
    changed while the box at the foot is ticked.
    """

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.setText("Methods")
        self.setToolTip("Outlier methods and their limits")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self._menu = QMenu(self)
        self._limits: dict[str, QDoubleSpinBox] = {}
        self._above: dict[str, QDoubleSpinBox] = {}
        self._boxes: dict[str, QCheckBox] = {}
        self.range_fields: tuple[QLineEdit, QLineEdit] = (QLineEdit(), QLineEdit())
        self.own = QCheckBox("limits changed hold for this column only")
        self.common = configured(QToolButton(), text="As in all columns")
        # Most of the time nobody opens it.
        self._menu.aboutToShow.connect(self._fill)
        self.setMenu(self._menu)
        hub.settings_changed.connect(self._show_settings)
        hub.data_changed.connect(self._show_settings)
        hub.focus_changed.connect(self._show_settings)

    @property
    def limit_fields(self) -> dict[str, QDoubleSpinBox]:
        """The field of each method that has a limit, by its key: the lower one where it has two."""
        self._fill()
        return self._limits

    @property
    def upper_fields(self) -> dict[str, QDoubleSpinBox]:
        """The field of the limit above, for each method whose span has two ends."""
        self._fill()
        return self._above

    @property
    def method_boxes(self) -> dict[str, QCheckBox]:
        """The tick of each method, by its key."""
        self._fill()
        return self._boxes

    def _fill(self) -> None:
        """Put the methods into the menu, once."""
        if self._boxes:
            return
        form, settings = PopupForm(), self.hub.study.settings
        rows = QGridLayout(form)
        rows.setVerticalSpacing(3)
        rows.addWidget(label("below and above", "quiet"), 0, 1)
        rows.addWidget(label("another above", "quiet"), 0, 2)
        for at, (key, method) in enumerate(OUTLIER_METHODS.items(), start=1):
            box = QCheckBox(method.name)
            box.setToolTip(f"{method.tells}\n{method.source}")
            box.setChecked(key in settings.methods)
            box.clicked.connect(self._methods_changed)
            self._boxes[key] = box
            rows.addWidget(box, at, 0)
            if method.limit is None:
                rows.addLayout(self._range_row(), at, 1, 1, 2)
                continue
            self._limits[key] = self._connected(_limit_field(method.limit, settings.limits[key]), key, upper=False)
            rows.addWidget(self._limits[key], at, 1)
            if method.anchor is not None:
                self._above[key] = self._connected(_limit_field(method.limit, settings.limits[key]), key, upper=True)
                self._above[key].setSuffix("")
                rows.addWidget(self._above[key], at, 2)
        foot = len(OUTLIER_METHODS) + 1
        rows.addLayout(row_of(self.own, 1, self.common), foot, 0, 1, 3)
        rows.addWidget(label(VOTES, "quiet", wrap=True), foot + 1, 0, 1, 3)
        self.own.setChecked(self.hub.own_limits)
        self.own.clicked.connect(self._own_changed)
        self.common.setToolTip("Give the column the limits that hold for all columns")
        self.common.clicked.connect(self._as_in_all)
        form.put_into(self._menu)
        self._show_settings()

    def _connected(self, field: QDoubleSpinBox, key: str, *, upper: bool) -> QDoubleSpinBox:
        stepping = Gesture(field)
        field.valueChanged.connect(lambda value: self._limit_changed(key, value, upper, stepping.token()))
        return field

    def _range_row(self) -> QHBoxLayout:
        """The fields of the range declared for the column in focus."""
        for position, (field, message) in enumerate(zip(self.range_fields, ("not below", "not above"), strict=True)):
            field.setPlaceholderText(message)
            field.setToolTip(f"Values of this column are {message} this; what is, is flagged and asked about")
            field.editingFinished.connect(lambda position=position: self._range_changed(position))
        return row_of(*self.range_fields)

    def _show_settings(self, *_: object) -> None:
        study, focus = self.hub.study, self.hub.focus or ""
        settings = study.settings
        for key, box in self._boxes.items():
            box.setChecked(key in settings.methods)
        for fields, side in ((self._limits, 0), (self._above, 1)):
            for key, field in fields.items():
                limits = settings.limits_of(focus, key)
                assert limits is not None
                field.blockSignals(True)
                field.setValue(limits[side])
                field.blockSignals(False)
        self.common.setVisible(bool(settings.of(focus).limits))
        numeric = bool(focus) and focus in study.table and study.table[focus].is_numeric
        bounds = study.workspace.bounds(focus) if numeric else (None, None)
        for typed, end in zip(self.range_fields, bounds, strict=True):
            typed.setEnabled(numeric)
            if not typed.hasFocus() or not typed.isModified():
                typed.setText("" if end is None else as_typed(end))

    def _methods_changed(self) -> None:
        chosen = [key for key, box in self._boxes.items() if box.isChecked()]
        if not chosen:
            self.hub.problem.emit("At least one outlier method must stay chosen.")
            self._show_settings()
            return
        self.hub.study.change_settings(self.hub.study.settings.with_methods(chosen))

    def _own_changed(self, own: bool) -> None:
        self.hub.own_limits = own

    def _limit_changed(self, key: str, value: float, upper: bool, gesture: object) -> None:
        study, focus = self.hub.study, self.hub.focus
        settings = study.settings
        own = focus is not None and (self.hub.own_limits or settings.of(focus).own_limits(key) is not None)
        if focus is None or not (own or upper):
            study.change_settings(settings.with_limit(key, value), gesture)
            return
        before = settings.limits_of(focus, key) or (value, value)
        same_limits = before[0] == before[1] and not upper
        limits = (before[0], value) if upper else (value, value if same_limits else before[1])
        study.change_settings(settings.with_own_limits(focus, key, limits), gesture)

    def _as_in_all(self) -> None:
        study, focus = self.hub.study, self.hub.focus
        if focus is not None:
            chosen = replace(study.settings.of(focus), limits=())
            study.change_settings(study.settings.with_column(focus, chosen))

    def _range_changed(self, position: int) -> None:
        study, focus, field = self.hub.study, self.hub.focus, self.range_fields[position]
        if focus is None or not field.isModified():
            return
        field.setModified(False)
        bounds = list(study.workspace.bounds(focus))
        try:
            bounds[position] = typed_number(field.text()) if field.text().strip() else None
            study.set_valid_range(focus, (bounds[0], bounds[1]))
        except (ValueError, CulvixError) as error:
            typed = f"“{field.text()}” is not a number; type one, or nothing for an open end."
            self.hub.problem.emit(error.sentence if isinstance(error, CulvixError) else typed)
            self._show_settings()
