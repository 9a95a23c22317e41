"""The outlier methods whose flags count, and the limit of each."""

from PyQt6.QtWidgets import QCheckBox, QDoubleSpinBox, QFormLayout, QMenu, QToolButton, QWidget, QWidgetAction

from culvix.app.hub import Hub
from culvix.app.parts import label
from culvix.stats.methods import OUTLIER_METHODS, Setting

__all__ = ["MethodsButton"]


def _limit_field(limit: Setting, value: float) -> QDoubleSpinBox:
    """A field for a method's limit; levels and rates stay below 1."""
    share = limit.default < 0.5
    field = QDoubleSpinBox(decimals=3 if share else 2, singleStep=0.005 if share else 0.1)
    field.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
    field.setKeyboardTracking(False)
    field.setRange(0.001 if share else 0.1, 0.5 if share else 100.0)
    field.setValue(value)
    field.setSuffix(f"  {limit.name}")
    field.setToolTip(f"Usual: {', '.join(f'{v:g}' for v in limit.usual)}")
    return field


class MethodsButton(QToolButton):
    """Opens a list of all methods; what is changed there holds at once."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.setText("Methods")
        self.setToolTip("Outlier methods and their limits")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu, form = QMenu(self), QWidget()
        rows = QFormLayout(form)
        self.limit_fields: dict[str, QDoubleSpinBox] = {}
        self.method_boxes: dict[str, QCheckBox] = {}
        for key, method in OUTLIER_METHODS.items():
            box = QCheckBox(method.name)
            box.setToolTip(f"{method.tells}\n{method.source}")
            box.setChecked(key in hub.study.settings.methods)
            box.clicked.connect(self._methods_changed)
            self.method_boxes[key] = box
            if method.limit is None:
                rows.addRow(box, label("the range declared for the column", "quiet"))
                continue
            field = _limit_field(method.limit, hub.study.settings.limits[key])
            field.valueChanged.connect(lambda value, key=key: self._limit_changed(key, value))
            rows.addRow(box, field)
            self.limit_fields[key] = field
        action = QWidgetAction(menu)
        action.setDefaultWidget(form)
        menu.addAction(action)
        self.setMenu(menu)
        hub.settings_changed.connect(self._show_settings)

    def _show_settings(self) -> None:
        settings = self.hub.study.settings
        for key, box in self.method_boxes.items():
            box.setChecked(key in settings.methods)
        for key, field in self.limit_fields.items():
            field.blockSignals(True)
            field.setValue(settings.limits[key])
            field.blockSignals(False)

    def _methods_changed(self) -> None:
        chosen = [key for key, box in self.method_boxes.items() if box.isChecked()]
        if not chosen:
            self.hub.problem.emit("At least one outlier method must stay chosen.")
            self._show_settings()
            return
        self.hub.study.change_settings(self.hub.study.settings.with_methods(chosen))

    def _limit_changed(self, key: str, value: float) -> None:
        self.hub.study.change_settings(self.hub.study.settings.with_limit(key, value))
