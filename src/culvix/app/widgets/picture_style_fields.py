"""What pictures for paper look like, in fields: kept in the study, the same for all its pictures."""

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QCheckBox, QDoubleSpinBox, QFontComboBox, QWidget

from culvix.app.session.configured import configured
from culvix.app.session.gestures import Gesture
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.study.document.choices.picture_style import PICTURE_PALETTES, PictureStyle
from culvix.study.document.choices.settings import replaced

__all__ = ["PictureStyleFields"]

_USUAL_FONT = "usual letters"


class PictureStyleFields:
    """Each field holds as soon as it is changed, and is undone like any act."""

    def __init__(self, hub: Hub) -> None:
        self.hub = hub
        self.font = QFontComboBox()
        self.font.insertItem(0, _USUAL_FONT)
        self.font.setMinimumContentsLength(12)
        self.font.setSizeAdjustPolicy(QFontComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.points = configured(QDoubleSpinBox(), minimum=5.0, maximum=24.0, singleStep=0.5, decimals=1, suffix=" pt")
        self.lines = configured(QDoubleSpinBox(), minimum=0.25, maximum=6.0, singleStep=0.25, prefix="× ")
        self.palette = Choice()
        self.palette.addItems(list(PICTURE_PALETTES.values()))
        self.grid, self.transparent, self.probe = QCheckBox("grid"), QCheckBox("no ground"), QCheckBox("the probe")
        self._stepping = Gesture(self.points)
        self.font.activated.connect(lambda _: self._change())
        self.palette.activated.connect(lambda _: self._change())
        for number in (self.points, self.lines):
            number.valueChanged.connect(lambda _: self._change())
        for tick in (self.grid, self.transparent, self.probe):
            tick.clicked.connect(lambda _: self._change())
        hub.settings_changed.connect(self.show_style)
        self.show_style()

    @property
    def rows(self) -> Sequence[tuple[str, QWidget]]:
        """The fields with their names, in the order in which they are read."""
        named = [("letters", self.font), ("size", self.points), ("lines", self.lines), ("shades", self.palette)]
        return [*named, ("with", self.grid), ("", self.transparent), ("", self.probe)]

    @property
    def style(self) -> PictureStyle:
        """The style of the study."""
        return self.hub.study.settings.picture_style

    def show_style(self) -> None:
        """Show what holds now."""
        style = self.style
        fields = (self.font, self.points, self.lines, self.palette)
        for field in fields:
            field.blockSignals(True)
        if style.font:
            self.font.setCurrentFont(QFont(style.font))
        else:
            self.font.setCurrentIndex(0)
        self.points.setValue(style.points)
        self.lines.setValue(style.lines)
        self.palette.setCurrentIndex(list(PICTURE_PALETTES).index(style.palette))
        for field in fields:
            field.blockSignals(False)
        for tick, on in ((self.grid, style.grid), (self.transparent, style.transparent), (self.probe, style.probe)):
            tick.setChecked(on)

    def _change(self) -> None:
        study, usual = self.hub.study, self.font.currentIndex() == 0
        style = replace(
            self.style,
            font="" if usual else self.font.currentText(),
            points=self.points.value(),
            lines=self.lines.value(),
            palette=list(PICTURE_PALETTES)[self.palette.currentIndex()],
            grid=self.grid.isChecked(),
            transparent=self.transparent.isChecked(),
            probe=self.probe.isChecked(),
        )
        if style != self.style:
            study.change_settings(replaced(study.settings, picture_style=style), self._stepping.token())
