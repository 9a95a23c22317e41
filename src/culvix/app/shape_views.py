"""What the Shape stage can show of the column in focus: its lanes, and the views made when they are first wanted."""

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QStackedWidget, QWidget

from culvix.app.compare_pane import ComparePane
from culvix.app.groups_view import GroupsView
from culvix.app.hub import Hub
from culvix.app.lane_canvas import LaneCanvas
from culvix.app.lineup_view import LineUpView
from culvix.app.transform_view import TransformView
from culvix.charts.render import lanes_view
from culvix.charts.saving import Maker
from culvix.stats.display import count

__all__ = ["VIEWS", "ShapeViews"]

ONE = "One column"

VIEWS: dict[str, str] = {
    ONE: "All lanes of the column",
    "Rescaled": "As measured and on another scale, side by side",
    "By group": "A strip for each category on the same axis",
    "Several columns": "This column and others on one axis",
    "Line-up": "The real picture among nineteen of normal samples",
}
"""What the stage can show, in order, with what each is for."""

_MAKERS: dict[str, Callable[[Hub], QWidget]] = {
    "Rescaled": TransformView,
    "By group": GroupsView,
    "Several columns": lambda hub: ComparePane(hub, closable=False),
    "Line-up": LineUpView,
}


class ShapeViews(QStackedWidget):
    """The lanes of ``canvas`` and the other views; each works on the column in focus."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub, canvas: LaneCanvas) -> None:
        super().__init__()
        self.hub, self.canvas = hub, canvas
        self._made: dict[str, QWidget] = {}
        self.addWidget(canvas)

    def turn(self, name: str) -> None:
        """Show one of `VIEWS`."""
        self.setCurrentWidget(self.view_called(name))

    @property
    def view(self) -> str:
        """The view shown, by name."""
        return next((name for name, made in self._made.items() if made is self.currentWidget()), ONE)

    def view_called(self, name: str) -> QWidget:
        """A view, made when it is first wanted."""
        if name == ONE:
            return self.canvas
        if name not in self._made:
            view = self._made[name] = _MAKERS[name](self.hub)
            # A view that asks for more room than there is is better cut than the panes beside it.
            view.setMinimumWidth(1)
            self.addWidget(view)
            if isinstance(view, TransformView):
                view.adopted.connect(self.hub.set_focus)
            if hasattr(view, "problem"):
                view.problem.connect(self.problem)
        return self._made[name]

    @property
    def groups(self) -> GroupsView:
        return self.view_called("By group")  # type: ignore[return-value]

    @property
    def rescaled(self) -> TransformView:
        return self.view_called("Rescaled")  # type: ignore[return-value]

    @property
    def several(self) -> ComparePane:
        return self.view_called("Several columns")  # type: ignore[return-value]

    @property
    def lineup(self) -> LineUpView:
        return self.view_called("Line-up")  # type: ignore[return-value]

    def want(self) -> None:
        """See to it that the view shown is that of the column in focus as things stand."""
        focus, view = self.hub.focus, self.currentWidget()
        if focus is None or not self.hub.study.table[focus].is_numeric:
            return
        if isinstance(view, GroupsView | TransformView | LineUpView):
            view.want()
        elif isinstance(view, ComparePane):
            view.compare([focus, *(name for name in view.names if name != focus)])

    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture in view anew at any size, and its name."""
        view, analysis = self.currentWidget(), self.hub.analysis
        if analysis is None or self.isHidden():
            return None
        name = f"{self.hub.study.name} {analysis.column.name}"
        if isinstance(view, GroupsView | ComparePane | LineUpView | TransformView):
            made = view.maker()
            return None if made is None else (made, f"{name} {self.view.lower()}")
        picture, stack = self.canvas.stack.picture, self.canvas.stack
        if picture is None:
            return None
        heading = f"{self.hub.study.name} — {analysis.column.title}, n {count(picture.n)}"
        across = stack.lanes[0].view_box.viewRange()[0]
        lanes, heights = list(stack.names), dict(stack.heights)

        def make(width: int, height: int) -> QWidget:
            return lanes_view(
                picture, width, height, lanes=lanes, heights=heights, across=(across[0], across[1]), title=heading
            )

        return make, name
