"""The chosen pair in a picture: in which form, with which parts, by which groups; what is drawn around is selected."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QPainter, QPixmap, QShowEvent
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from culvix.app.relations.group_chips import GroupChips
from culvix.app.relations.pairs.pair_canvas import PairCanvas
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.scheduler import paint_afterwards, task_queue
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import label
from culvix.charts.export.picture_export import pair_view
from culvix.charts.export.picture_files import Maker
from culvix.charts.palette import SHADES, brush
from culvix.charts.plots.outline import rows_within
from culvix.charts.plots.scatter import part_pen
from culvix.progress import Progress
from culvix.stats.core.arrays import Ints
from culvix.stats.display import count
from culvix.study.analysis.grouping import can_group
from culvix.study.document.row_sets import union
from culvix.study.pictures.column_pictures import ShapePicture, shape_picture, with_bars
from culvix.study.pictures.pair_pictures import (
    PARTS,
    PairPicture,
    group_styles,
    pair_picture,
    shown_groups,
    with_selected,
)
from culvix.study.relations.pair_analysis import PairAnalysis
from culvix.study.relations.pair_details import PairDetails, pair_details
from culvix.study.relations.pair_forms import PAIR_FORMS, can_agree

__all__ = ["DrawnPair", "PairPane"]

LATER = ("without", "smooth", "density")
"""Parts of the picture that take long at many rows."""

_LANES = "lanes"
_NOTHING = np.zeros(0, dtype=np.int64)
_NO_GROUPS = "no groups"
_PART_TIPS = {
    "line": "The least-squares line through all rows in use; of each group its own",
    "band": "Where the mean lies at each place of the line, at the confidence of the study",
    "without": "The line without the flagged rows, dashed",
    "smooth": "A smooth curve that follows the rows without being straight, and is not drawn by far ones",
    "density": "How many rows lie where: the more, the darker",
    _LANES: "The bars of both columns on the same axes",
}
_FORM_TIP = (
    "What stands on the axes: the values; their ranks; how far each row lies off the line, at the height of the line; "
    "or the difference of both columns at their mean, where they measure the same"
)


def _part_icon(key: str) -> QIcon:
    """A short stretch of what a part of the picture looks like."""
    image = QPixmap(18, 12)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if key == "band":
        painter.fillRect(0, 2, 18, 8, brush(SHADES.reference, 0.4))
    elif key == "density":
        for step in range(6):
            painter.fillRect(3 * step, 2, 3, 8, brush(SHADES.data, 0.1 + 0.1 * step))
    elif key == _LANES:
        for step, high in enumerate((3, 7, 10, 6, 2)):
            painter.fillRect(1 + 3 * step, 11 - high, 2, high, brush(SHADES.data, 0.7))
    else:
        painter.setPen(part_pen(key))
        painter.drawLine(1, 6, 17, 6)
    painter.end()
    return QIcon(image)


@dataclass(frozen=True, eq=False)
class DrawnPair:
    """The ``details`` of a pair, with the pictures of both columns for their ``lanes``, no row selected in them."""

    details: PairDetails
    lanes: tuple[ShapePicture, ShapePicture]


class PairPane(QWidget):
    """Draws the `DrawnPair` it is given; another form or other groups are worked out in the background."""

    details_changed = pyqtSignal(object)
    """A `PairDetails` that is drawn now."""

    def __init__(self, hub: Hub, canvas: PairCanvas) -> None:
        super().__init__()
        self.hub = hub
        self.details: PairDetails | None = None
        self.complete = False
        """Whether all that takes long is known of the pair."""
        self._picture: PairPicture | None = None
        self._lanes: tuple[ShapePicture, ShapePicture] | None = None
        self._drawn: tuple[str, str, str] | None = None
        self._to_draw, self._to_refit, self._to_mark = False, False, False
        self.canvas = canvas
        self.form, self.by = Choice(), Choice()
        self.form.setToolTip(_FORM_TIP)
        self.by.setToolTip("Groups that stand out, each with a line of its own")
        self.form.activated.connect(lambda _: self._chosen())
        self.by.activated.connect(lambda _: self._chosen())
        self.free = configured(QPushButton("Free shape"), checkable=True)
        self.free.setObjectName("slim")
        self.free.setToolTip("Dragging over the points draws a free shape around rows instead of a rectangle")
        self.free.toggled.connect(self._set_free)
        self.chips = GroupChips()
        self.chips.chosen.connect(self._groups_chosen)
        self.chips.styled.connect(self._restyle)
        self.about = label("", "quiet", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(4, 2, 2, 2)
        layout.setSpacing(3)
        words = (label("As", "quiet"), self.form, label("by", "quiet"), self.by)
        layout.addLayout(flow_of(*words, *self._make_parts(), self.free, spacing=4))
        layout.addWidget(self.chips)
        layout.addWidget(self.about)
        layout.addWidget(self.canvas, 1)
        self.canvas.laid_out.connect(self._paint_once)
        self.canvas.plot.picked.connect(self._picked)
        self.canvas.plot.outlined.connect(self._outlined)
        self.canvas.along_picked.connect(lambda _, rows, modifiers: self._picked(rows, modifiers))
        self.canvas.along_dragged.connect(self._dragged)
        hub.selection_changed.connect(lambda: task_queue().soon(self.mark_selected))

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self._to_draw:
            task_queue().soon(self._draw_asked)
        elif self._to_mark:
            task_queue().soon(self.mark_selected)

    def _make_parts(self) -> list[QPushButton]:
        """The buttons for what is drawn with the points, each in the shade of what it draws."""
        self.part_buttons = {}
        for key, words in {**PARTS, _LANES: "lanes"}.items():
            button = configured(QPushButton(words), checkable=True)
            button.setObjectName("slim")
            button.setToolTip(_PART_TIPS[key])
            button.setIcon(_part_icon(key))
            button.clicked.connect(self._choose_parts)
            self.part_buttons[key] = button
        return list(self.part_buttons.values())

    # The pair shown

    def asked(self) -> Callable[[PairAnalysis], DrawnPair]:
        """What draws a pair, in the form and by the groups that are chosen; may be called on any thread."""
        study = self.hub.study
        view, settings, working = study.document.view, study.settings, study.working
        column = next((each for each in study.table if each.name == view.pair_by), None)

        def draw(pair: PairAnalysis) -> DrawnPair:
            found = pair_details(pair, form=view.pair_form, by=column, confidence=settings.confidence)
            x, y = (shape_picture(each, working, _NOTHING, settings) for each in (pair.x, pair.y))
            return DrawnPair(found, (x, y))

        return draw

    def put(self, made: DrawnPair) -> None:
        """Draw what was ``made``; another pair, or another form, moves both axes to its rows."""
        details = made.details
        self.details, self._lanes, self.complete = details, made.lanes, False
        drawn, self._drawn = self._drawn, (details.pair.view.x, details.pair.view.y, details.form.key)
        self._to_draw, self._to_refit = True, self._to_refit or drawn != self._drawn
        if self.isVisible():
            task_queue().take(self._draw_asked)

    def _draw_asked(self) -> None:
        """Draw what was put, with what can be chosen of it; what nobody sees waits until it is shown."""
        if self.details is None or not self._to_draw or not self.isVisible():
            return
        self._offer()
        self.chips.show_groups(self.details.groups, self._styles())
        self.about.setText(self._about())
        self.about.setVisible(bool(self.about.text()))
        task_queue().soon(self._draw_put)

    def _draw_put(self) -> None:
        refit = self._to_refit
        self._to_draw, self._to_refit, self._to_mark = False, False, False
        self._draw(refit=refit)

    def complete_with(self, details: PairDetails) -> None:
        """Draw what takes long of ``details``, worked out now."""
        if details is self.details:
            self.complete = True
            if not set(LATER) & set(self.hub.study.document.view.pair_parts) or self._to_draw:
                return
            if self.isVisible():
                self._draw(refit=False)
            else:
                self._to_draw = True

    def _about(self) -> str:
        """What the form leaves out, in few words."""
        assert self.details is not None
        groups = self.details.groups
        if groups is None:
            return self.details.note
        shown, many = len(self._shown_names()), len(groups.groups)
        rest = f"{shown} of {many} groups of {groups.by} stand out" if shown < many else f"{many} groups of {groups.by}"
        return f"{rest}; {groups.missing} rows have none" if groups.missing else rest

    def _offer(self) -> None:
        """List the forms and the columns that make groups, and show the chosen ones."""
        assert self.details is not None
        view, pair = self.hub.study.document.view, self.details.pair
        self._forms = [key for key in PAIR_FORMS if key != "differences" or can_agree(pair)]
        self.form.clear()
        self.form.addItems([PAIR_FORMS[key] for key in self._forms])
        self.form.setCurrentIndex(self._forms.index(view.pair_form) if view.pair_form in self._forms else 0)
        names = [name for name in can_group(self.hub.study.table) if name not in (pair.view.x, pair.view.y)]
        self.by.clear()
        self.by.addItems([_NO_GROUPS, *names])
        self.by.setCurrentIndex(names.index(view.pair_by) + 1 if view.pair_by in names else 0)

    def _chosen(self) -> None:
        """Another form or other groups: worked out in the background."""
        by = "" if self.by.currentIndex() <= 0 else self.by.currentText()
        view = self.hub.study.document.view
        shown = view.pair_groups if by == view.pair_by else ()
        form = self._forms[max(self.form.currentIndex(), 0)]
        self.hub.study.change_view(
            pair_form=form, pair_by=by, pair_groups=shown, pair_styles=view.pair_styles if by == view.pair_by else {}
        )
        if self.details is None:
            return
        pair, draw = self.details.pair, self.asked()

        def work(progress: Progress) -> DrawnPair:
            progress(0.0, f"looking at {pair.view.x} and {pair.view.y}")
            return draw(pair)

        def done(found: DrawnPair) -> None:
            if self.details is not None and found.details.pair is self.details.pair:
                self.put(found)
                self.details_changed.emit(found.details)

        self.hub.start("look at a pair", work, done, priority=8)

    def _shown_names(self) -> list[str]:
        groups = self.details.groups if self.details else None
        if groups is None:
            return []
        return [group.name for group in shown_groups(groups, self.hub.study.document.view.pair_groups)]

    def _styles(self) -> dict[str, int]:
        """The mark and colour of each group that stands out."""
        return group_styles(self._shown_names(), self.hub.study.document.view.pair_styles)

    def _restyle(self, name: str, style: int) -> None:
        """Give the group ``name`` another mark; the group that has it takes the one it had."""
        styles = self._styles()
        before = styles[name]
        exchanged = {each: before for each, own in styles.items() if own == style}
        self.hub.study.change_view(pair_styles={**styles, **exchanged, name: style})
        self._redraw_groups()

    def _groups_chosen(self, names: tuple[str, ...]) -> None:
        # A group keeps its mark while others come and go.
        chosen = {name: style for name, style in self._styles().items() if name in names}
        self.hub.study.change_view(pair_groups=names, pair_styles=chosen)
        self._redraw_groups()

    def _redraw_groups(self) -> None:
        if self.details is not None:
            self.chips.show_groups(self.details.groups, self._styles())
            self.about.setText(self._about())
            self._draw(refit=False)

    def _choose_parts(self) -> None:
        shown = tuple(key for key, button in self.part_buttons.items() if button.isChecked())
        self.hub.study.change_view(pair_parts=shown)
        self._draw(refit=False)

    # What is drawn

    def _draw(self, *, refit: bool) -> None:
        if self.details is None:
            return
        study, details = self.hub.study, self.details
        chosen, names = study.document.view.pair_parts, (details.pair.view.x, details.pair.view.y)
        for key, button in self.part_buttons.items():
            button.setChecked(key in chosen)
        picture = self._picture = pair_picture(
            details.pair,
            study.selection.rows,
            parts=[key for key in chosen if self.complete or key not in LATER],
            confidence=study.settings.confidence,
            form=details.form,
            groups=() if details.groups is None else details.groups.named(self._shown_names()),
            styles=self._styles(),
            excluded=union(*(study.working.excluded(name) for name in names)),
            corrected=union(*(study.working.corrected(name).rows for name in names)),
        )
        self.canvas.show_pair(picture, refit=refit)
        # One after the other: in one go they would hold up the window.
        task_queue().soon(self._draw_lanes)

    def _draw_lanes(self) -> None:
        details, study = self.details, self.hub.study
        if details is None or self._lanes is None:
            return
        if details.form.key != "values" or _LANES not in study.document.view.pair_parts:
            self.canvas.show_lanes(None)
            return
        x, y = (
            each if each.histogram is None else with_bars(each, each.histogram, study.selection.in_column(name))
            for each, name in zip(self._lanes, (details.pair.view.x, details.pair.view.y), strict=True)
        )
        self.canvas.show_lanes((x, y))

    def mark_selected(self) -> None:
        """Mark the rows that are selected now; everything else stays as it is."""
        self._to_mark = not self.isVisible()
        if self.details is None or self._picture is None or self._to_mark or self._to_draw:
            return
        self._picture = with_selected(self._picture, self.details.form, self.hub.study.selection.rows)
        self.canvas.plot.show_selected(self._picture)
        task_queue().soon(self._draw_lanes)

    def _paint_once(self) -> None:
        """Paint the pair when the layout has found all its sizes, and the window has answered."""
        if not self.canvas.painting_pending:
            paint_afterwards(self.canvas)

    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture anew at any size, and a name for it."""
        if self.details is None or self._picture is None:
            return None
        picture, pair = self._picture, self.details.pair
        heading = f"{self.hub.study.name} — {pair.view.y} by {pair.view.x}, n {count(pair.view.rows.size)}"
        if self.details.groups is not None:
            heading += f", groups of {self.details.groups.by}"
        across, up = self.canvas.plot.view_box.viewRange()

        def make(width: int, height: int) -> QWidget:
            seen = (across[0], across[1]), (up[0], up[1])
            view: QWidget = pair_view(picture, width, height, title=heading, seen=seen)
            return view

        return make, f"{self.hub.study.name} {pair.view.x} {pair.view.y}"

    # What is selected

    def _set_free(self, free: bool) -> None:
        self.canvas.plot.view_box.free = free

    def _picked(self, rows: Ints, modifiers: Qt.KeyboardModifier) -> None:
        self._select(rows, "", modifiers)

    def _outlined(self, corners: list[tuple[float, float]], modifiers: Qt.KeyboardModifier) -> None:
        if self.details is None:
            return
        form = self.details.form
        how = "a shape drawn" if self.free.isChecked() else "a rectangle drawn"
        origin = f"{how} over {form.titles[0]} and {form.titles[1]}"

        def work(progress: Progress) -> Ints:
            values = form.view.x_values, form.view.y_values
            positions = (on.positions(v) for on, v in zip(form.scales, values, strict=True))
            return form.view.rows[rows_within(corners, *positions)]

        self.hub.start("rows in a shape", work, lambda rows: self._select(rows, origin, modifiers), priority=9)

    def _dragged(self, which: int, low: float, high: float, modifiers: Qt.KeyboardModifier) -> None:
        """The rows of a column between two places of its lane, whether they have a value in the other one or not."""
        if self.details is None:
            return
        analysis = (self.details.pair.x, self.details.pair.y)[which]
        scale, sample = analysis.axis.scale, analysis.sample
        at = scale.positions(sample.sorted)
        first, last = int(np.searchsorted(at, low, "left")), int(np.searchsorted(at, high, "right"))
        ends = [analysis.style.value(float(v)) for v in (scale.value(low), scale.value(high))]
        rows, name = np.sort(sample.rows[first:last]), analysis.column.name
        self._select(rows, f"{name} from {ends[0]} to {ends[1]}", modifiers, column=name)

    def _select(self, rows: Ints, origin: str, modifiers: Qt.KeyboardModifier, *, column: str | None = None) -> None:
        """Select ``rows``; beside those selected with Shift, and with Ctrl those of both that are not in both."""
        study, before = self.hub.study, self.hub.study.selection.rows
        if modifiers & Qt.KeyboardModifier.ControlModifier:
            rows = np.setxor1d(before, rows, assume_unique=True)
        elif modifiers & Qt.KeyboardModifier.ShiftModifier:
            rows = union(before, rows)
        study.select(rows, origin, column=column)
