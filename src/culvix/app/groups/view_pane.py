"""What the views of the Groups stage have in common: words above, what is looked at below, and a margin beside."""

from abc import abstractmethod
from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import label, panel
from culvix.charts.export.picture_files import Maker

__all__ = ["ViewPane"]


class ViewPane(QWidget):
    """A view that is brought up to date whenever it is shown."""

    problem = pyqtSignal(str)

    margin: QWidget
    """What is told beside the view."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.about = label("", "quiet", wrap=True)
        """What is looked at, in a line below the words."""

    def lay_out(self, words: Sequence[QWidget | int], body: QWidget) -> None:
        """Put ``words`` to choose by above ``body``."""
        head, inside = panel(margins=(8, 5, 6, 5))
        inside.addLayout(flow_of(*words, spacing=5))  # type: ignore[attr-defined]
        inside.addWidget(self.about)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(head)
        layout.addWidget(body, 1)
        # Takes the room where there is nothing to show.
        layout.addStretch(0)

    @property
    @abstractmethod
    def data(self) -> QWidget:
        """What the keyboard works on."""

    @abstractmethod
    def request_update(self) -> None:
        """See to it that what is shown is as things stand, where it can be seen."""

    @abstractmethod
    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture anew at any size, and a name for it; None where there is none."""

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.request_update()
