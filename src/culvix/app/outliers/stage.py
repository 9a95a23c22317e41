"""The Outliers stage: what each method accepts, every value it does not, and what was decided about it."""

from dataclasses import replace

from PyQt6.QtCore import QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QMenu,
    QPushButton,
    QSizePolicy,
    QSplitter,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from culvix.app.lanes.axis_bar import AxisBar
from culvix.app.lanes.dragging import LimitDrag
from culvix.app.lanes.focus_lanes import FocusLanes
from culvix.app.lanes.lane_canvas import LaneCanvas
from culvix.app.lanes.methods_menu import MethodsButton
from culvix.app.lanes.what_if_drag import WhatIfDrag
from culvix.app.outliers.agreement_list import AgreementList
from culvix.app.outliers.chance_line import ChanceLine
from culvix.app.outliers.distances_view import DistancesView
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import ElidedLabel, by_font, label, panel, plain_tip, row_of
from culvix.errors import CulvixError
from culvix.stats.core.sample import Sample
from culvix.stats.display import count
from culvix.stats.outliers.suggestion import MethodSuggestion, suggested_method
from culvix.stats.registry import OUTLIER_METHODS
from culvix.stats.shape.transform import SCALE_NAMES, Scale
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.grouping import can_group
from culvix.study.document.choices.settings import FLAG_SCALES, MEASURED
from culvix.study.pictures.spans import groups_drawn
from culvix.tables.model.table import Role

__all__ = ["OUTLIER_LANES", "OutliersStage"]

OUTLIER_LANES = ("histogram", "points", "spans")
_WHOLE = "among all"
_VIEWS = ("One column", "Several columns")


class OutliersStage(QWidget):
    """Span lanes with draggable limits above the agreement list."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub, canvas: LaneCanvas) -> None:
        super().__init__()
        self.hub = hub
        self.canvas, self.stack = canvas, canvas.stack
        self._suggested: tuple[Sample, MethodSuggestion] | None = None
        self._distances: DistancesView | None = None
        self._position = 0
        self.lanes_shown = FocusLanes(hub, canvas, self)
        self.limits = LimitDrag(hub, self.stack, self)
        self.list = AgreementList(hub)
        self.axis = AxisBar(hub, self.stack)
        self._build_head()
        picture, inside = panel(margins=(2, 2, 2, 2))
        self.message = label("", "quiet", wrap=True)
        self.message.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.pages = QStackedWidget()
        # Less than their panes would like, so that both have room in a low window.
        self.pages.setMinimumHeight(by_font(130))
        self.list.setMinimumHeight(by_font(120))
        self.pages.addWidget(canvas)
        self.pages.addWidget(self.message)
        inside.addWidget(self.pages)
        self.chance = ChanceLine(hub)
        inside.addWidget(self.chance)
        self.hand = WhatIfDrag(hub, self.stack, self, self._hint)
        below, inside = panel(margins=(0, 0, 0, 0))
        inside.addWidget(self.list)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.addWidget(picture)
        self.split.addWidget(below)
        self.split.setSizes([360, 240])
        self.split.setHandleWidth(6)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self.head)
        layout.addWidget(self.split, 1)
        self._connect()

    def _build_head(self) -> None:
        self.head, inside = panel(margins=(10, 4, 8, 4))
        self.title, self.facts = ElidedLabel("title"), label("", "quiet")
        self.title.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Preferred)
        self.methods = MethodsButton(self.hub)
        self.within, self.scale = Choice(), Choice()
        for box, tip in (
            (self.within, "Judge each value among all, or among those of its own group"),
            (self.scale, "Look for flags on another scale; limits come back to the column's own"),
        ):
            box.setToolTip(plain_tip(tip))
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(9)
        self.scale.addItems(["as measured", *FLAG_SCALES.values()])
        self.another = QPushButton("Another pass")
        self.another.setToolTip("Let flags refer to the values as they are now, instead of those at the beginning")
        self.suggestion = label("", "quiet", wrap=True)
        self.take = QPushButton("Use it")
        self.take.setToolTip("Add the suggested method to those whose flags count")
        self.take.setObjectName("slim")
        self.add_column = self._add_column_button()
        tools = (self.within, self.scale, self.methods, self.add_column, self.another)
        self.views = [configured(QPushButton(name), checkable=True, autoExclusive=True) for name in _VIEWS]
        for position, button in enumerate(self.views):
            button.setObjectName("stage")
            button.clicked.connect(lambda _, position=position: self.show_view(position))
        self.views[0].setChecked(True)
        self.trying = configured(QPushButton("What if"), checkable=True)
        self.trying.setToolTip("Drag the selected value along the axis and watch every number and limit (W)")
        self.trying.toggled.connect(lambda on: self.hand.set_active(on))
        row = flow_of(self.title, self.facts, *self.views, 0, self.axis, *tools, self.trying)
        inside.addLayout(row)  # type: ignore[attr-defined]
        advice = row_of(self.suggestion, self.take)
        advice.setStretchFactor(self.suggestion, 1)
        inside.addLayout(advice)  # type: ignore[attr-defined]
        self.suggestion.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        inside.setSpacing(1)

    def _add_column_button(self) -> QToolButton:
        button = configured(QToolButton(), text="Add column")
        button.setToolTip("Add standardised values, or the number of methods that flag, as a column of its own")
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(button)
        for key in ("standard", "robust_standard"):
            menu.addAction(SCALE_NAMES[key], lambda key=key: self.add_as_column(key))
        menu.addAction("how many methods flag each value", lambda: self.add_as_column(None))
        button.setMenu(menu)
        return button

    @property
    def distances(self) -> DistancesView:
        """The view of several columns, made when it is first wanted."""
        if self._distances is None:
            self._distances = DistancesView(self.hub)
            # A view that asks for more room than there is is better cut than the window made wider.
            self._distances.setMinimumWidth(1)
            self._distances.problem.connect(self.problem)
            self._distances.found_anew.connect(self._show_distances)
            self.pages.addWidget(self._distances)
        return self._distances

    def _show_distances(self) -> None:
        """Rows far from the middle of several columns join the list."""
        found = self.distances.found
        self.list.distances = None if found is None else (self.distances.names, found)
        self.list.request_refresh()

    def show_view(self, position: int) -> None:
        """Show the lanes of one column (0), or several columns together (1)."""
        self.views[position].setChecked(True)
        self._position = position
        self.chance.setVisible(position == 0)
        for tool in (self.within, self.scale, self.trying):
            tool.setEnabled(position == 0)
        self._scroll_page()
        self._show_suggestion()

    def _scroll_page(self) -> None:
        message = self.message.text()
        page = self.distances if self._position else self.message if message else self.canvas
        self.pages.setCurrentWidget(page)

    def _hint(self, message: str) -> None:
        """Say what to do in the place of the suggestion."""
        if message:
            self.suggestion.setText(message)
            self.take.hide()
        else:
            self._show_suggestion()

    def _connect(self) -> None:
        hub = self.hub
        hub.focus_changed.connect(self._focused)
        hub.settings_changed.connect(self._show_settings)
        hub.columns_changed.connect(self._show_settings)
        hub.data_changed.connect(self._show_settings)
        self.lanes_shown.drawn.connect(self._drawn)
        self.lanes_shown.ready.connect(lambda: self._say(""))
        self.limits.problem.connect(self.problem)
        self.hand.problem.connect(self.problem)
        self.within.activated.connect(self._scope_chosen)
        self.scale.activated.connect(self._scope_chosen)
        self.another.clicked.connect(self.begin_pass)
        self.take.clicked.connect(self._take_suggestion)

    def follow(self) -> None:
        """Take up the column in focus, where one was before this stage was made."""
        if self.hub.focus is not None:
            self._focused(self.hub.focus)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.lanes_shown.redraw_when_shown()

    def _focused(self, name: str) -> None:
        column = self.hub.study.table[name]
        self.title.say(name)
        self.facts.setText("")
        self._show_settings()
        if not column.is_numeric:
            self._say(f"{name} is read as {column.role}: {column.reason}.\nNothing in it can be far from the rest.")
        elif self.hub.preview is None:
            self._say("Working out the flags …")
        else:
            self.lanes_shown.redraw()

    def _say(self, message: str) -> None:
        self.message.setText(message)
        self._scroll_page()
        if message:
            self.lanes_shown.forget()
            self.suggestion.setText("")
            self.take.hide()

    def _drawn(self, preview: ColumnPreview, _: bool) -> None:
        self._say("")
        groups = next((result.groups for result in preview.flags.results.values() if result.groups), {})
        drawn = len(groups_drawn(preview))
        few = drawn < len(groups)
        self.facts.setText(f"{drawn} of {count(len(groups))} groups" if few else f"n {count(preview.flag_basis.n)}")
        self.facts.setToolTip("Spans are drawn for the groups that flag most; the list has all" if few else "")
        if self._suggested is None or self._suggested[0] is not preview.flag_basis:
            codes = preview.column.role in (Role.ORDERED, Role.YES_NO)
            self._suggested = (preview.flag_basis, suggested_method(preview.flag_basis, codes=codes))
        self._show_suggestion()
        self.hand.show_handle()

    def _show_suggestion(self) -> None:
        if self._suggested is None or self.hand.on:
            return
        self.suggestion.setVisible(not self._position)
        if self._position:
            self.take.hide()
            return
        found = self._suggested[1]
        name = f"Suggested: {OUTLIER_METHODS[found.key].name}. " if found.key else ""
        self.suggestion.setText(f"{name}{found.reason}")
        self.take.setVisible(found.key is not None and found.key not in self.hub.study.settings.methods)

    def _take_suggestion(self) -> None:
        study = self.hub.study
        if self._suggested is not None and self._suggested[1].key is not None:
            study.change_settings(study.settings.with_methods([*study.settings.methods, self._suggested[1].key]))

    # Scope and passes

    def _show_settings(self) -> None:
        study, focus = self.hub.study, self.hub.focus
        self.another.setText(
            f"Pass {study.document.pass_number} · another" if study.document.pass_number > 1 else "Another pass"
        )
        if focus is None:
            return
        chosen = study.settings.of(focus)
        names = [name for name in can_group(study.table) if name != focus]
        shown = [_WHOLE, *(f"within {name}" for name in names)]
        if [self.within.itemText(position) for position in range(self.within.count())] != shown:
            self.within.clear()
            self.within.addItems(shown)
        self.within.setCurrentIndex(names.index(chosen.flag_within) + 1 if chosen.flag_within in names else 0)
        scales = [MEASURED, *FLAG_SCALES]
        self.scale.setCurrentIndex(scales.index(chosen.flag_scale))
        self._show_suggestion()

    def _scope_chosen(self) -> None:
        study, focus = self.hub.study, self.hub.focus
        if focus is None:
            return
        within = self.within.currentText().removeprefix("within ") if self.within.currentIndex() else None
        scale = [MEASURED, *FLAG_SCALES][self.scale.currentIndex()]
        chosen = replace(study.settings.of(focus), flag_within=within, flag_scale=scale)
        try:
            study.change_settings(study.settings.with_column(focus, chosen))
        except CulvixError as error:
            self.problem.emit(error.sentence)
            self._show_settings()

    def add_as_column(self, key: str | None) -> None:
        """Add the column in focus on the scale called ``key``, or its flags, as a column; it is in the rail at once."""
        study, preview = self.hub.study, self.hub.preview
        if preview is None:
            return
        try:
            name = study.add_flag_counts(preview) if key is None else study.derive(preview.column.name, Scale(key))
        except CulvixError as error:
            self.problem.emit(error.sentence)
            return
        self.hub.message.emit(f"Added the column {name}. Ctrl+Z takes it away again.")

    def begin_pass(self) -> None:
        """Begin another pass, with the caution that goes with it."""
        try:
            self.hub.study.begin_pass()
        except CulvixError as error:
            self.problem.emit(error.sentence)
            return
        number = self.hub.study.document.pass_number
        self.hub.message.emit(
            f"Pass {number} begins: flags now refer to the values as decided so far. Each pass narrows the spread and "
            "finds new values at its edge; stop where the reasons stop. It is recorded, and Ctrl+Z takes it back."
        )

    def remember(self, settings: QSettings) -> None:
        """Write the room of the list down."""
        settings.setValue("outliers/split", self.split.saveState())
        settings.setValue("outliers/heights", self.stack.heights)

    def recall(self, settings: QSettings) -> None:
        """Take up the room of the list written down last."""
        state = settings.value("outliers/split")
        if state is not None:
            self.split.restoreState(state)
        self.stack.size_lanes(settings.value("outliers/heights", {}, dict) or {})
