"""The scale of the axis of either column of a pair, chosen beside it."""

from collections.abc import Callable

from PyQt6.QtWidgets import QGridLayout

from culvix.app.session.hub import Hub
from culvix.app.session.picture_settings import change_axis_scale
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import ElidedLabel
from culvix.errors import CulvixError
from culvix.stats.shape.axis_scale import AXIS_SCALES

__all__ = ["axis_choices"]

_TIP = "The scale of the axis in all pictures of this column; what is computed stays what it is"


def axis_choices(hub: Hub, names: tuple[str, str], problem: Callable[[str], None]) -> QGridLayout:
    """A choice of the scale for each of the columns ``names``; ``problem`` hears why one cannot be had."""
    grid = QGridLayout()
    grid.setHorizontalSpacing(6)
    grid.setVerticalSpacing(2)
    for row, name in enumerate(names):
        caption = ElidedLabel("quiet")
        caption.say(f"Axis of {name}")
        grid.addWidget(caption, row, 0)
        grid.addWidget(_choice(hub, name, problem), row, 1)
    grid.setColumnStretch(0, 1)
    return grid


def _choice(hub: Hub, name: str, problem: Callable[[str], None]) -> Choice:
    box, keys = Choice(), list(AXIS_SCALES)
    box.addItems([kind.name for kind in AXIS_SCALES.values()])
    box.setAccessibleName(f"Scale of the axis of {name}")
    box.setToolTip(_TIP)

    def show() -> None:
        box.setCurrentIndex(keys.index(hub.study.settings.of(name).scale_of_axis))

    def chosen(position: int) -> None:
        try:
            change_axis_scale(hub, keys[position], name)
        except CulvixError as error:
            problem(error.sentence)
            show()

    show()
    box.activated.connect(chosen)
    return box
