"""What the Shape stage can show of the column in focus: its lanes, and views made when there is time or need."""

from collections.abc import Callable, Iterator
from typing import Protocol

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QStackedWidget, QWidget

from culvix.app.lanes.compare_pane import ComparePane
from culvix.app.lanes.lane_canvas import LaneCanvas
from culvix.app.session.hub import Hub
from culvix.app.session.scheduler import PaintingAfterwards, task_queue
from culvix.app.shape.bars_view import BarsView, has_bars
from culvix.app.shape.groups_view import GroupsView
from culvix.app.shape.line_up_view import LineUpView
from culvix.app.shape.transform_view import TransformView
from culvix.app.widgets.parts import label, panel
from culvix.charts.export.picture_export import lanes_view
from culvix.charts.export.picture_files import Maker
from culvix.stats.display import count

__all__ = ["ONE", "VIEWS", "ShapeViews"]

ONE = "One column"


class ShapeView(Protocol):
    """A view of the column in focus besides its lanes."""

    def request_update(self) -> None:
        """See to it that the column in focus is shown as things stand."""

    def maker(self) -> Maker | None:
        """What makes the picture anew at any size, None where there is none."""

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""


VIEWS: dict[str, str] = {
    ONE: "All lanes of the column",
    "Rescaled": "As measured and on another scale, side by side",
    "By group": "A strip for each category on the same axis",
    "Several columns": "This column and others on one axis",
    "Line-up": "The real picture among nineteen of normal samples",
}
"""What the stage can show, in order, with what each is for."""

_MAKERS: dict[str, Callable[[Hub], ShapeView]] = {
    "Rescaled": TransformView,
    "By group": GroupsView,
    "Several columns": lambda hub: ComparePane(hub, closable=False),
    "Line-up": LineUpView,
}


class ShapeViews(QStackedWidget):
    """The lanes of ``canvas`` and the other views; each works on the column in focus.

    Every view is a page of its own, as large as all others whatever stands around it, so that turning back to one
    does not lay it out anew. ``lanes`` is the page around the canvas.
    """

    problem = pyqtSignal(str)
    view_chosen = pyqtSignal(int)
    """Another view is wanted, by its place."""

    def __init__(self, hub: Hub, canvas: LaneCanvas, lanes: QWidget) -> None:
        super().__init__()
        self.hub, self.canvas = hub, canvas
        self._painting = PaintingAfterwards(self)
        self.view = ONE
        """The view wanted, by name; it is shown unless there is something to say instead."""
        self._made: dict[str, ShapeView] = {}
        self.bars: BarsView | None = None
        """The bars of categories and ranks, made when they are first wanted."""
        self.codes_as_lanes = False
        """Whether ranks have lanes, as measurements have, instead of bars."""
        self._pages = {ONE: lanes}
        self.addWidget(lanes)
        self._text = label("", "quiet", wrap=True)
        self._text.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._message_panel, inside = panel()
        inside.addWidget(self._text)
        self.addWidget(self._message_panel)

    def minimumSizeHint(self) -> QSize:
        """The room that the page shown can do with: one that is not may ask for more."""
        page = self.currentWidget()
        if page is None:
            return super().minimumSizeHint()
        least, inside = page.minimumSizeHint(), page.layout()
        if inside is not None and inside.hasHeightForWidth() and page.width() > 0:
            least.setHeight(max(least.height(), inside.minimumHeightForWidth(page.width())))
        return least

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        # At another width the page shown can do with another height.
        self.updateGeometry()

    def hasHeightForWidth(self) -> bool:
        # All pages together would ask for what the highest of them likes.
        return False

    def show_bars(self) -> None:
        """Show the bars of the column in focus."""
        if self.bars is None:
            self.bars = BarsView(self.hub)
            self.bars.setMinimumWidth(1)
            self.bars.problem.connect(self.problem)
            self._bars_panel, inside = panel(margins=(2, 2, 2, 2))
            inside.addWidget(self.bars)
            self.addWidget(self._bars_panel)
        self._text.setText("")
        self.bars.request_update()
        self._show()

    @property
    def shows_bars(self) -> bool:
        """Whether the column in focus is one that is shown as bars now."""
        if self.hub.focus is None:
            return False
        column = self.hub.study.table[self.hub.focus]
        as_lanes = column.is_numeric and (self.codes_as_lanes or self.view != ONE)
        return has_bars(column) and not as_lanes

    def show_view(self, name: str) -> None:
        """Show one of `VIEWS`."""
        there = name == ONE or name in self._made
        if name != ONE:
            self.view_called(name)
        self.view = name
        if there:
            self._show_chosen()
        else:
            # Made in one step, laid out in the next, and painted in a third.
            task_queue().soon(self._show_chosen)

    def _show_chosen(self) -> None:
        self._painting.hold()
        self._show()

    def say(self, message: str) -> None:
        """Show ``message`` in place of the view; none bring it back."""
        self._text.setText(message)
        self._show()

    def _show(self) -> None:
        page = self._bars_panel if self.shows_bars and self.bars is not None else self._pages[self.view]
        self.setCurrentWidget(self._message_panel if self._text.text() else page)

    def view_called(self, name: str) -> ShapeView:
        """A view besides the lanes, made when it is first asked for."""
        if name not in self._made:
            view = self._made[name] = _MAKERS[name](self.hub)
            assert isinstance(view, QWidget)
            # A view that asks for more room than there is is better cut than the panes beside it.
            view.setMinimumWidth(1)
            self._pages[name], inside = panel(margins=(2, 2, 2, 2))
            inside.addWidget(view)
            self.addWidget(self._pages[name])
            for signal, heard in (("adopted", self._adopted), ("problem", self.problem)):
                if hasattr(view, signal):
                    getattr(view, signal).connect(heard)
        return self._made[name]

    def make_rest(self) -> Iterator[None]:
        """Make the views beforehand, one a step, so that the first turn to one does not wait for it."""
        for name in _MAKERS:
            self.view_called(name)
            yield

    def _adopted(self, name: str) -> None:
        """A new column is looked at by itself."""
        self.hub.set_focus(name)
        self.view_chosen.emit(list(VIEWS).index(ONE))

    @property
    def data(self) -> QWidget:
        """What the keyboard works on in the view shown."""
        if self.shows_bars and self.bars is not None:
            return self.bars.data
        return self.canvas if self.view == ONE else self._made[self.view].data

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

    def request_update(self) -> None:
        """See to it that the view shown is that of the column in focus as things stand."""
        focus = self.hub.focus
        if self.shows_bars:
            self.show_bars()
        if focus is not None and self.hub.study.table[focus].is_numeric and self.view != ONE:
            self._made[self.view].request_update()

    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture in view anew at any size, and its name."""
        if self.shows_bars and self.bars is not None:
            made = self.bars.maker()
            return None if made is None else (made, f"{self.hub.study.name} {self.hub.focus}")
        analysis = self.hub.analysis
        if analysis is None or self._text.text():
            return None
        name = f"{self.hub.study.name} {analysis.column.name}"
        if self.view != ONE:
            other = self._made[self.view].maker()
            return None if other is None else (other, f"{name} {self.view.lower()}")
        picture, stack = self.canvas.stack.picture, self.canvas.stack
        if picture is None:
            return None
        heading = f"{self.hub.study.name} — {analysis.column.title}, n {count(picture.n)}"
        across = stack.lanes[0].view_box.viewRange()[0]
        lanes, heights = list(stack.names), dict(stack.heights)
        probe = stack.probed if self.hub.study.settings.picture_style.probe else None

        def make(width: int, height: int) -> QWidget:
            view: QWidget = lanes_view(
                picture,
                width,
                height,
                lanes=lanes,
                heights=heights,
                across=(across[0], across[1]),
                title=heading,
                probe=probe,
            )
            return view

        return make, name
