"""The conventions of statistics, switched where the numbers stand: quartiles, confidence, trimmed share, decimals."""

from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QSpinBox, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.session.gestures import Gesture
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import label, row_of
from culvix.stats.core.quantiles import QUANTILE_TYPES
from culvix.study.document.choices.settings import Settings, replaced

__all__ = ["ConventionsBar", "DecimalsField"]


class _PerCent(QDoubleSpinBox):
    """A share as per cent, without decimals that say nothing."""

    def textFromValue(self, value: float) -> str:
        return f"{value:g}"


class DecimalsField(QSpinBox):
    """Decimals of statistics, for the whole study."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.setRange(-1, 12)
        self.setSpecialValueText("decimals as the data")
        self.setSuffix(" decimals")
        self.setToolTip("Decimals of statistics; by default as many as the data have")
        self.setKeyboardTracking(False)
        self._stepping = Gesture(self)
        self.valueChanged.connect(self._changed)

    def _changed(self, positions: int) -> None:
        study = self.hub.study
        settings = replaced(study.settings, decimals=None if positions < 0 else positions)
        study.change_settings(settings, self._stepping.token())

    def show_settings(self, settings: Settings) -> None:
        """Show what holds now."""
        self.blockSignals(True)
        self.setValue(-1 if settings.decimals is None else settings.decimals)
        self.blockSignals(False)


class ConventionsBar(QWidget):
    """What is chosen holds for the whole study, at once."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.quartiles = Choice()
        self.quartiles.addItems([f"{k}: {name.split(' (type')[0]}" for k, name in QUANTILE_TYPES.items()])
        self.quartiles.setMinimumContentsLength(10)
        self.quartiles.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.quartiles.setToolTip("The definition of quartiles and percentiles, for the whole study")
        self.quartiles.activated.connect(self._quartiles_chosen)
        self.confidence = self._per_cent("confidence", "confidence", (50.0, 99.9), "The confidence of intervals")
        self.trim = self._per_cent("trim", "trimmed", (0.0, 45.0), "The share cut from each end for trimmed means")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 2, 0, 0)
        layout.setSpacing(3)
        types = row_of(label("quartile type", "quiet"), self.quartiles)
        types.setStretch(1, 1)
        layout.addLayout(types)
        layout.addLayout(row_of(self.confidence, self.trim))

    def _per_cent(self, key: str, name: str, ends: tuple[float, float], tip: str) -> QDoubleSpinBox:
        field = configured(_PerCent(), decimals=1, minimum=ends[0], maximum=ends[1], singleStep=1.0)
        field.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        field.setKeyboardTracking(False)
        field.setPrefix(f"{name} ")
        field.setSuffix(" %")
        field.setObjectName("slim")
        field.setToolTip(f"{tip}, for the whole study")
        stepping = Gesture(field)

        def changed(value: float) -> None:
            study = self.hub.study
            study.change_settings(replaced(study.settings, **{key: value / 100}), stepping.token())

        field.valueChanged.connect(changed)
        return field

    def _quartiles_chosen(self, position: int) -> None:
        study = self.hub.study
        study.change_settings(replaced(study.settings, quantile_type=list(QUANTILE_TYPES)[position]))

    def show_settings(self, settings: Settings) -> None:
        """Show what holds now."""
        self.quartiles.setCurrentIndex(list(QUANTILE_TYPES).index(settings.quantile_type))
        for field, share in ((self.confidence, settings.confidence), (self.trim, settings.trim)):
            field.blockSignals(True)
            field.setValue(100 * share)
            field.blockSignals(False)
