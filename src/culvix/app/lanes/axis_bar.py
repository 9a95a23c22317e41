"""The scale of the shared axis, and whether all values or the bulk of them are in view: chosen beside the lanes."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QWidget

from culvix.app.session.hub import Hub
from culvix.app.session.picture_settings import change_axis_scale
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import plain_tip
from culvix.charts.lanes.stack import LaneStack
from culvix.errors import CulvixError
from culvix.stats.shape.axis_scale import AXIS_SCALES

__all__ = ["AxisBar"]

_TIP = "The scale of the axis in all pictures of this column; what is computed stays what it is"


class AxisBar(QWidget):
    """Two controls for the axis of ``stack``, which shows the column in focus."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub, stack: LaneStack) -> None:
        super().__init__()
        self.hub, self.stack = hub, stack
        self.scale = Choice()
        self.scale.addItems([f"{kind.name} axis" for kind in AXIS_SCALES.values()])
        self.scale.setToolTip(plain_tip(_TIP))
        self.scale.setAccessibleName("Scale of the axis")
        self.scale.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.scale.setMinimumContentsLength(10)
        self.bulk = QPushButton("Fit bulk")
        self.bulk.setToolTip("See the middle nine tenths of the values large, or all of them again (Shift+F)")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(self.scale)
        row.addWidget(self.bulk)
        self.scale.activated.connect(self._chosen)
        self.bulk.clicked.connect(self.toggle_bulk)
        stack.bulk_changed.connect(lambda on: self.bulk.setText("Fit all" if on else "Fit bulk"))
        hub.settings_changed.connect(self.show_scale)
        hub.focus_changed.connect(lambda _: self.show_scale())

    def show_scale(self) -> None:
        """Show the scale that the column in focus has."""
        key = self.hub.study.settings.of(self.hub.focus or "").scale_of_axis
        self.scale.setCurrentIndex(list(AXIS_SCALES).index(key))

    def _chosen(self, position: int) -> None:
        try:
            change_axis_scale(self.hub, list(AXIS_SCALES)[position])
        except CulvixError as error:
            self.problem.emit(error.sentence)
        self.show_scale()

    def toggle_bulk(self) -> None:
        """Show the bulk of the values, or where it is shown, all of them."""
        if self.stack.shows_bulk:
            self.stack.fit()
        else:
            self.stack.fit_bulk()
