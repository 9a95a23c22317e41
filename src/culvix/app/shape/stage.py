"""The Shape stage: the lanes of the column in focus, their settings on the picture, and the probe."""

import numpy as np
from PyQt6.QtCore import QSettings, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from culvix.app.lanes.adjust_pane import AdjustPane
from culvix.app.lanes.axis_bar import AxisBar
from culvix.app.lanes.dragging import BandwidthDrag, BinDrag, LimitDrag
from culvix.app.lanes.focus_lanes import FocusLanes
from culvix.app.lanes.lane_canvas import LaneCanvas
from culvix.app.lanes.methods_menu import MethodsButton
from culvix.app.lanes.probe import Probe
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import hidden
from culvix.app.session.picture_settings import change_picture
from culvix.app.session.scheduler import task_queue
from culvix.app.shape.views import ONE, VIEWS, ShapeViews
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.lists.ordered_choice import OrderedChoice
from culvix.app.widgets.parts import ElidedLabel, by_font, label, panel, plain_tip, row_of
from culvix.app.widgets.picture_button import PictureButton
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.lanes.stack import DEFAULT_LANES, LANES
from culvix.errors import CulvixError
from culvix.stats.display import count, rounded, typed_number
from culvix.stats.shape.histogram import BIN_RULES, Histogram
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.document.choices.settings import SCALES
from culvix.tables.model.table import Column

__all__ = ["ShapeStage"]

_LARGER = 1.2
_LEAST_LANES = 150
"""The least height of all lanes together, in pixels."""
_BY_HAND = "chosen by hand"
_LANES_TIP = "Choose the lanes and their order (L): drag them, or Space, Ctrl with an arrow, and + or − for their size"


class ShapeStage(QWidget):
    """Draws the analysis in focus and turns what is done on the picture into selections and settings."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub, canvas: LaneCanvas | None = None, adjust: AdjustPane | None = None) -> None:
        """``canvas`` and ``adjust`` may be made beforehand, as they take a while."""
        super().__init__()
        self.hub = hub
        self.canvas = canvas or LaneCanvas()
        self.stack = self.canvas.stack
        self.canvas.setMinimumHeight(by_font(_LEAST_LANES))
        self.axis = AxisBar(hub, self.stack)
        self._build_head()
        self.probe = Probe(hub, self.stack)
        self.bins = BinDrag(hub, self.stack, self)
        self.by_hand = (self.bins, BandwidthDrag(hub, self.stack, self), LimitDrag(hub, self.stack, self))
        self.lanes_shown = FocusLanes(hub, self.canvas, self)
        self.adjust_pane = adjust or AdjustPane(hub)
        self.views = ShapeViews(hub, self.canvas, self._lanes_page())
        self.views.problem.connect(self.problem)
        self.views.view_chosen.connect(self.show_view)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self.head)
        layout.addWidget(self.views, 1)
        self._connect()

    def _lanes_page(self) -> QWidget:
        """The lanes with what can be set by typing beside them, and the probe below."""
        page = QWidget()
        picture, inside = panel(margins=(2, 2, 2, 2))
        inside.addWidget(self.canvas)
        self.adjust_frame, beside = panel(margins=(0, 0, 0, 0))
        beside.addWidget(self.adjust_pane)
        self.adjust_frame.setFixedWidth(by_font(292))
        self.adjust_frame.hide()
        middle = row_of(picture, self.adjust_frame, spacing=4)
        middle.setStretchFactor(picture, 1)
        layout = QVBoxLayout(page)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(middle, 1)
        layout.addWidget(self.probe.bar)
        return page

    def _build_head(self) -> None:
        self.head, inside = panel(margins=(10, 4, 8, 4))
        self.title = ElidedLabel("title")
        self.title.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Preferred)
        self.facts = label("", "quiet")
        self.rule = configured(
            Choice(), sizeAdjustPolicy=QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.rule.setMinimumContentsLength(13)
        self.rule.addItems(list(BIN_RULES.values()))
        self.rule.setToolTip("The rule for the width of the bins")
        self.bin_width = QLineEdit()
        self.bin_width.setFixedWidth(by_font(80))
        self.bin_width.setToolTip("Bin width in the column's unit; empty for the rule's own")
        self.scale = Choice()
        self.scale.addItems(list(SCALES.values()))
        self.methods = MethodsButton(self.hub)
        self.adjust = configured(QPushButton("Adjust"), checkable=True)
        self.adjust.setToolTip("Bins, density, box and dots by typing, and the frequency table (A)")
        self.lanes = OrderedChoice("Lanes", _LANES_TIP, {name: name for name in LANES}, DEFAULT_LANES)
        self.reviewed = configured(QPushButton("Reviewed"), checkable=True)
        self.reviewed.setToolTip("Tick this column as reviewed (R)")
        self.tools = (self.rule, self.bin_width, self.scale, self.lanes, self.methods, self.adjust, self.reviewed)
        self._make_view_buttons()
        bars = (self.rule, self.bin_width, self.scale)
        self.as_lanes = configured(QPushButton("As lanes"), checkable=True)
        self.as_lanes.setToolTip("Show these ranks in lanes on a value axis, as measurements are")
        self.as_lanes.toggled.connect(self._show_as_lanes)
        others = (self.lanes, self.methods, self.adjust, self.as_lanes, self.picture_button, self.reviewed)
        row = flow_of(self.title, self.facts, *self.view_buttons, 0, self.axis, *bars, *others)
        inside.addLayout(row)  # type: ignore[attr-defined]

    def _make_view_buttons(self) -> None:
        self.view_buttons = []
        for position, (name, tip) in enumerate(VIEWS.items()):
            button = configured(QPushButton(name), checkable=True, autoExclusive=True)
            button.setObjectName("stage")
            button.setToolTip(f"{tip} (Alt+{position + 1})")
            button.clicked.connect(lambda _, position=position: self.show_view(position))
            self.view_buttons.append(button)
        self.view_buttons[0].setChecked(True)
        self.picture_button = PictureButton(
            self.hub, lambda: self.views.maker(), lambda: (self.hub.study.table.source.path,)
        )
        self.picture_button.problem.connect(self.problem)
        self.picture_button.message_ready.connect(self.hub.message)

    def show_view(self, position: int) -> None:
        """Show one of `VIEWS` by its place."""
        self.view_buttons[position].setChecked(True)
        self.views.show_view(list(VIEWS)[position])
        for tool in (self.lanes, self.adjust, self.axis.bulk):
            tool.setEnabled(position == 0)
        if self.hub.focus is not None:
            self._show_tools(self.hub.study.table[self.hub.focus])
        # A view made just now is shown before it is filled.
        task_queue().soon(self.views.request_update)

    def _connect(self) -> None:
        hub = self.hub
        hub.focus_changed.connect(self._focused)
        self.lanes_shown.drawn.connect(self._drawn)
        self.lanes_shown.ready.connect(lambda: self._say(""))
        hub.analysed.connect(self._analysed)
        hub.review_changed.connect(self._tick)
        self.lanes.chosen.connect(self._choose_lanes)
        self.lanes.sized.connect(self._size_lane)
        for hand in self.by_hand:
            hand.problem.connect(self.problem)
        self.bins.shown.connect(self._bars_dragged)
        self.adjust_pane.problem.connect(self.problem)
        self.axis.problem.connect(self.problem)
        self.stack.pin_moved.connect(self.probe.pin)
        hub.settings_changed.connect(self._show_settings)
        self.probe.bar.refused.connect(self.problem)
        self.rule.activated.connect(self._column_changed)
        self.scale.activated.connect(self._column_changed)
        self.bin_width.editingFinished.connect(self._column_changed)
        self.adjust.toggled.connect(self.adjust_frame.setVisible)
        self.reviewed.clicked.connect(self._review)

    # Showing

    def follow(self) -> None:
        """Take up the column in focus, where one was before this stage was made."""
        if self.hub.focus is not None:
            self._focused(self.hub.focus)

    def _focused(self, name: str) -> None:
        column = self.hub.study.table[name]
        self.title.say(name)
        self._show_settings()
        self._tick()
        self._facts(column)
        self._show_tools(column)
        if not column.is_numeric:
            self.lanes_shown.forget()
            self.probe.bar.show_reading(None, None)
            self.views.show_bars()
        elif self.hub.preview is None:
            self._say("Working out the picture …")
        else:
            self.redraw()
            if self.views.shows_bars:
                self.views.show_bars()

    def _show_tools(self, column: Column) -> None:
        """Show what can be set of the picture in view: bars need none of what lanes do."""
        for tool in (*self.tools[:-1], self.axis):
            tool.setVisible(column.is_numeric and not self.views.shows_bars)
        for button in self.view_buttons:
            button.setVisible(column.is_numeric)
        self.as_lanes.setVisible(column.has_few_ranks and self.views.view == ONE)

    def _show_as_lanes(self, as_lanes: bool) -> None:
        self.views.codes_as_lanes = as_lanes
        self.show_view(list(VIEWS).index(self.views.view))

    def _show_settings(self) -> None:
        """Show in the fields what holds for the column in focus; the lanes follow when its analysis is there."""
        if self.hub.focus is None:
            return
        chosen = self.hub.study.settings.of(self.hub.focus)
        by_hand = chosen.bin_width is not None or chosen.bin_count is not None
        self._show_rule(list(BIN_RULES).index(chosen.bin_rule), by_hand=by_hand)
        self.scale.setCurrentIndex(list(SCALES).index(chosen.scale))
        self.bin_width.setText("" if chosen.bin_width is None else f"{chosen.bin_width:g}")
        self.adjust_pane.show_settings()

    def _show_rule(self, position: int, *, by_hand: bool) -> None:
        """Show the rule at ``position``, or that the bins were chosen by hand."""
        if by_hand and self.rule.currentIndex() == len(BIN_RULES):
            return
        if self.rule.count() == len(BIN_RULES):
            self.rule.addItem(_BY_HAND)
        self.rule.setCurrentIndex(len(BIN_RULES) if by_hand else position)
        if not by_hand:
            self.rule.removeItem(len(BIN_RULES))

    def _bars_dragged(self, bars: Histogram) -> None:
        self.bin_width.setText(f"{bars.width:g}")
        self._show_rule(0, by_hand=True)
        if self.probe.value is not None:
            lane = self.stack.lane(HistogramLane)
            lane.answer(lane.reading(self.probe.value))
        analysis = self.hub.preview
        if self.adjust_frame.isVisible() and analysis is not None:
            self.adjust_pane.table.show_bars(bars, analysis.axis, analysis.column.words_of_numbers)

    def _say(self, text: str) -> None:
        if text:
            self.lanes_shown.forget()
        self.views.say(text)
        if text:
            self.probe.bar.show_reading(None, None)

    def _facts(self, column: Column) -> None:
        analysis = self.hub.preview
        used = analysis.sample.n if analysis is not None else column.rows - column.missing
        self.facts.setText("" if column.is_numeric and analysis is None else f"n {count(used)}")
        self.facts.setToolTip(plain_tip(f"{column.role}: {column.reason}"))

    def _analysed(self, name: str) -> None:
        if name == self.hub.focus:
            # Views other than the lanes are made of the whole analysis.
            self.views.request_update()

    def redraw(self) -> None:
        """Draw the column in focus as things stand, once the stage can be seen."""
        if self.hub.preview is not None and not hidden(self):
            self._say("")
            self.lanes_shown.redraw()

    def _drawn(self, preview: ColumnPreview, _: bool) -> None:
        """The lanes were drawn anew: show beside them what follows from it."""
        self._say("")
        self._facts(preview.column)
        self.adjust_pane.request_refresh()
        bars = preview.axis.histogram
        width = bars.width if bars else None
        self.bin_width.setPlaceholderText("" if width is None else f"width {rounded(width)}")
        self.probe.show()
        self.views.request_update()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.lanes_shown.redraw_when_shown()

    @property
    def shown(self) -> str | None:
        """The column whose lanes are shown, None while they are being worked out."""
        return self.lanes_shown.shown

    def _choose_lanes(self, names: list[str]) -> None:
        if not names:
            self.problem.emit("At least one lane must stay.")
            self.lanes.show_names(self.stack.names)
            return
        self.stack.choose(names)
        self._say_hidden()

    def _say_hidden(self) -> None:
        """Say on the button which of the usual lanes are hidden, as they may have been for another table."""
        hidden_lanes = [name for name in DEFAULT_LANES if name not in self.stack.names]
        self.lanes.setText(f"Lanes ({len(hidden_lanes)} hidden)" if hidden_lanes else "Lanes")
        without = f"Hidden as chosen before: {', '.join(hidden_lanes)}\n" if hidden_lanes else ""
        self.lanes.setToolTip(f"{without}{_LANES_TIP}")

    def _size_lane(self, name: str, by: int) -> None:
        """Make one lane larger (1) or smaller (−1) than it is, and the others share what is left."""
        heights = {lane.name: max(lane.pixels[1], 1.0) for lane in self.stack.lanes}
        heights[name] *= _LARGER**by
        self.stack.size_lanes(heights)

    def remember(self, settings: QSettings) -> None:
        """Write the lanes and their order down."""
        settings.setValue("shape/lanes", self.stack.names)
        settings.setValue("shape/heights", self.stack.heights)
        settings.setValue("shape/adjust", self.adjust.isChecked())
        self.picture_button.remember(settings)

    def recall(self, settings: QSettings) -> None:
        """Take up the lanes written down last."""
        names = [name for name in settings.value("shape/lanes", [], list) or [] if name in LANES]
        if names:
            self.stack.choose(names)
            self.lanes.show_names(names)
            self._say_hidden()
        self.stack.size_lanes(settings.value("shape/heights", {}, dict) or {})
        self.adjust.setChecked(settings.value("shape/adjust", False, bool))
        self.picture_button.recall(settings)

    # Selecting

    def select_flagged(self) -> None:
        """Select every flagged row of the column in focus that is not decided yet."""
        analysis = self.hub.preview
        if analysis is not None:
            name = analysis.column.name
            decided = self.hub.study.working.decided(name)
            rows = np.setdiff1d(analysis.flags.rows, decided, assume_unique=True)
            self.hub.study.select(rows, f"flagged on {name}", column=name)

    # Settings

    def _column_changed(self) -> None:
        study, focus = self.hub.study, self.hub.focus
        if focus is None:
            return
        typed = self.bin_width.text().strip()
        try:
            width = typed_number(typed) if typed else None
        except ValueError:
            self.problem.emit(f"“{typed}” is not a bin width; type a number, or nothing for the rule's own.")
            return
        position = self.rule.currentIndex()
        rule = list(BIN_RULES)[position] if position < len(BIN_RULES) else study.settings.of(focus).bin_rule
        scale = list(SCALES)[self.scale.currentIndex()]
        if self.sender() is self.rule and position == len(BIN_RULES):
            return
        if self.sender() is self.rule:
            width = None
            self.bin_width.clear()
        # Another rule takes the place of what was set by hand.
        by_hand = {"bin_start": None, "bin_end": None, "bin_count": None} if self.sender() is self.rule else {}
        if width is not None and width != study.settings.of(focus).bin_width:
            by_hand["bin_count"] = None
        try:
            change_picture(self.hub, bin_rule=rule, bin_width=width, scale=scale, **by_hand)
        except CulvixError as error:
            self.problem.emit(error.sentence)
            self._show_settings()

    def _review(self) -> None:
        if self.hub.focus is not None:
            self.hub.study.set_reviewed(self.hub.focus, self.reviewed.isChecked())

    def toggle_reviewed(self) -> None:
        """Tick the column in focus as reviewed, or take the tick away."""
        self.reviewed.setChecked(not self.reviewed.isChecked())
        self._review()

    def _tick(self) -> None:
        done = self.hub.focus in self.hub.study.document.reviewed
        self.reviewed.setChecked(done)
        self.reviewed.setText("✓ Reviewed" if done else "Reviewed")
