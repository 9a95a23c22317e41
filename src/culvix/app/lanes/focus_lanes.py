"""The lanes of the column in focus, drawn anew whenever something they show has changed and they can be seen."""

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QWidget

from culvix.app.lanes.lane_canvas import LaneCanvas
from culvix.app.lanes.selecting import Selecting
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import hidden
from culvix.app.session.scheduler import paint_afterwards, task_queue
from culvix.app.widgets.parts import shortened
from culvix.stats.display import count
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.pictures.column_pictures import ShapePicture, shape_picture

__all__ = ["FocusLanes"]


_SHOWING_MS = 12


class FocusLanes(QObject):
    """Draws into ``canvas`` while ``stage``, the stage around it, can be seen; what is clicked there is selected."""

    drawn = pyqtSignal(object, bool)
    """What the lanes show now (a `ColumnPreview`), and whether it is another column."""

    ready = pyqtSignal()
    """The column in focus is drawn now, or as soon as the stage is shown."""

    def __init__(self, hub: Hub, canvas: LaneCanvas, stage: QWidget) -> None:
        super().__init__(stage)
        self.hub, self.canvas, self.stage, self.stack = hub, canvas, stage, canvas.stack
        self._column: str | None = None
        self._corrected: frozenset[float] = frozenset()
        self._state: tuple[object, ...] | None = None
        self._of_news = False
        """Whether data or analysis are other ones than those drawn."""

        self._another = False
        self._in_two = False
        """Whether the lanes, shown just now, are drawn in one step and painted in the next."""

        self.stack.row_text = self._row_text
        Selecting(hub, self.stack, lambda: hub.preview, self)
        # Work in the background that follows from the same news begins before the lanes are drawn.
        self._delay = configured(QTimer(self), singleShot=True)
        self._delay.timeout.connect(lambda: task_queue().take(self.redraw, ahead=True))
        canvas.hold_painting()
        canvas.laid_out.connect(self._paint_once)
        hub.previewed.connect(self.redraw_soon)
        hub.analysed.connect(lambda name: self.redraw_soon() if name == hub.focus else None)
        hub.whole.arrived.connect(self.redraw)
        hub.selection_changed.connect(self.redraw)
        hub.settings_changed.connect(self.redraw)

    def _paint_once(self) -> None:
        """Paint the lanes when the layout has found all its sizes."""
        if not self.canvas.painting_pending:
            paint_afterwards(self.canvas)
        elif self._state is not None:
            # What was prepared was for another size.
            task_queue().soon(self.canvas.prepare_painting, ahead=True)

    def redraw_soon(self, *_: object) -> None:
        """Redraw as soon as what has just been asked for is done, and paint when the window has answered again."""
        self._of_news = True
        self._delay.start(0)

    def redraw_when_shown(self) -> None:
        """Redraw and paint once the stage, shown just now, has been laid out: the window answers in between."""
        self._in_two = True
        self.canvas.hold_painting()
        self._delay.start(_SHOWING_MS)

    def forget(self) -> None:
        """Draw anew the next time, whatever is shown."""
        self._state = None

    def redraw(self) -> None:
        """Draw the column in focus as things stand, once it can be seen; only another column moves the axis."""
        if self._in_two:
            paint_afterwards(self.canvas)
        self._in_two = False
        preview = self.hub.preview
        if preview is None:
            return
        if hidden(self.stage):
            self.ready.emit()
            return
        study = self.hub.study
        state = (preview.request, study.working, study.selection, study.settings, self.hub.whole.survey)
        if self._state is not None and all(old is new for old, new in zip(self._state, state, strict=True)):
            # Told twice of the same: what the lanes show is there before the tests are.
            return
        self._state, another = state, self._column != preview.column.name
        apart, self._of_news = another or self._of_news, False
        self._column = preview.column.name
        if another:
            self.ready.emit()
        if apart:
            self.canvas.hold_painting()
        self.canvas.take_size()
        name = preview.column.name
        selected, whole = study.selection.in_column(name), self.hub.whole.of(name)
        picture = shape_picture(preview, study.working, selected, study.settings, whole=whole)
        self.stack.show_picture(picture, refit=another or self._left_view(picture))
        self.canvas.setAccessibleDescription(picture.sentence)
        self.stack.apply_pending()
        self._another = another
        if apart:
            # What follows from it would hold up the window together with the drawing.
            task_queue().soon(self._finish, ahead=True)
        else:
            self._tell(preview)

    def _finish(self) -> None:
        """Tell of what is drawn, and paint it."""
        if self.hub.preview is not None and self.shown is not None:
            self._tell(self.hub.preview)
        self.canvas.paint_deferred()

    def _tell(self, preview: ColumnPreview) -> None:
        self.drawn.emit(preview, self._another)
        self.stack.apply_pending()

    def _left_view(self, picture: ShapePicture) -> bool:
        """Whether a value corrected just now lies outside the view: the axis goes with it."""
        corrected = frozenset(picture.corrected.values.tolist())
        new, self._corrected = corrected - self._corrected, corrected
        low, high = self.stack.lanes[0].view_box.viewRange()[0] if self.stack.lanes else (0.0, 0.0)
        return any(not low <= value <= high for value in new)

    @property
    def shown(self) -> str | None:
        """The column whose lanes are shown, None while they are being worked out."""
        preview = self.hub.preview
        drawn = self._state is not None and preview is not None and self._state[0] is preview.request
        return preview.column.name if preview is not None and drawn else None

    def _row_text(self, row: int) -> str:
        """A row by its number, its label and its value as read."""
        table, focus = self.hub.study.table, self.hub.focus
        parts = [f"row {count(table.number_of(row))}"]
        if table.label_column is not None:
            parts.append(shortened(table.label_column.cell(row), 24))
        if focus is not None:
            parts.append(f"{shortened(focus, 24)} {table[focus].cell(row)}")
        return " · ".join(parts)
