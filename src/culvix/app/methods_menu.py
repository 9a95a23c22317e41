"""The outlier methods whose flags count, and the limit of each."""

from PyQt6.QtWidgets import QCheckBox, QDoubleSpinBox, QFormLayout, QMenu, QToolButton, QWidget, QWidgetAction

from culvix.app.gestures import Gesture
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
        self._menu = QMenu(self)
        self._limits: dict[str, QDoubleSpinBox] = {}
        self._boxes: dict[str, QCheckBox] = {}
        # Most of the time nobody opens it.
        self._menu.aboutToShow.connect(self._fill)
        self.setMenu(self._menu)
        hub.settings_changed.connect(self._show_settings)

    @property
    def limit_fields(self) -> dict[str, QDoubleSpinBox]:
        """The field of each method that has a limit, by its key."""
        self._fill()
        return self._limits

    @property
    def method_boxes(self) -> dict[str, QCheckBox]:
        """The tick of each method, by its key."""
        self._fill()
        return self._boxes

    def _fill(self) -> None:
        """Put the methods into the menu, once."""
        if self._boxes:
            return
        form, settings = QWidget(), self.hub.study.settings
        rows = QFormLayout(form)
        for key, method in OUTLIER_METHODS.items():
            box = QCheckBox(method.name)
            box.setToolTip(f"{method.tells}\n{method.source}")
            box.setChecked(key in settings.methods)
            box.clicked.connect(self._methods_changed)
            self._boxes[key] = box
            if method.limit is None:
                rows.addRow(box, label("the range declared for the column", "quiet"))
                continue
            field = _limit_field(method.limit, settings.limits[key])
            stepping = Gesture(field)
            field.valueChanged.connect(
                lambda value, key=key, stepping=stepping: self._limit_changed(key, value, stepping.token())
            )
            rows.addRow(box, field)
            self._limits[key] = field
        action = QWidgetAction(self._menu)
        action.setDefaultWidget(form)
        self._menu.addAction(action)

    def _show_settings(self) -> None:
        settings = self.hub.study.settings
        for key, box in self._boxes.items():
            box.setChecked(key in settings.methods)
        for key, field in self._limits.items():
            field.blockSignals(True)
            field.setValue(settings.limits[key])
            field.blockSignals(False)

    def _methods_changed(self) -> None:
        chosen = [key for key, box in self._boxes.items() if box.isChecked()]
        if not chosen:
            self.hub.problem.emit("At least one outlier method must stay chosen.")
            self._show_settings()
            return
        self.hub.study.change_settings(self.hub.study.settings.with_methods(chosen))

    def _limit_changed(self, key: str, value: float, gesture: object) -> None:
        self.hub.study.change_settings(self.hub.study.settings.with_limit(key, value), gesture)
