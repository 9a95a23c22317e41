"""The Groups stage: where a column differs between groups, and whether that is real."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QStackedWidget, QVBoxLayout, QWidget

from culvix.app.groups.changes.another_table_pane import AnotherTablePane
from culvix.app.groups.compare.every_column_pane import EveryColumnPane
from culvix.app.groups.compare.groups_pane import GroupsPane
from culvix.app.groups.compare.two_categories_pane import TwoCategoriesPane
from culvix.app.groups.subsets.new_columns_pane import NewColumnsPane
from culvix.app.groups.subsets.subsets_pane import SubsetsPane
from culvix.app.groups.view_pane import ViewPane
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import panel
from culvix.app.widgets.picture_button import PictureButton
from culvix.charts.export.picture_files import Maker

__all__ = ["VIEWS", "GroupsStage"]

VIEWS = {
    "Compare": "The column in focus by groups: where they lie, how they differ, and whether that is more than chance",
    "All columns": "Which columns differ between the groups, all of them on one page",
    "Subsets": "Where the column in focus is distributed otherwise: searched for, and confirmed on rows not seen",
    "Another table": "Last year's table, or the same one a month ago: what has changed, column by column, row by row",
    "Two categories": "How many rows have each pair of two categories, against what chance alone would give",
    "New columns": "Columns made from others: conditions, ratios, classes, parts of dates, levels joined",
}
"""The ways in which groups are looked at, with what each is for."""


class GroupsStage(QWidget):
    """One view at a time, each with a part of the margin."""

    problem = pyqtSignal(str)

    picture_button: PictureButton

    def __init__(
        self,
        hub: Hub,
        groups: GroupsPane,
        every: EveryColumnPane,
        subsets: SubsetsPane,
        other: AnotherTablePane,
        crossed: TwoCategoriesPane,
        columns: NewColumnsPane,
    ) -> None:
        """The panes are made before: all in one go would hold up the window. `add_picture_button` completes it."""
        super().__init__()
        self.hub = hub
        self.groups, self.every, self.subsets = groups, every, subsets
        self.other, self.crossed, self.columns = other, crossed, columns
        every.one_asked.connect(self._compare_alone)
        # A stack would be as high as the highest of its pages.
        self.margins = QWidget()
        below = QVBoxLayout(self.margins)
        below.setContentsMargins(0, 0, 0, 0)
        self.views = QStackedWidget()
        self._panes: tuple[ViewPane, ...] = (groups, every, subsets, other, crossed, columns)
        for view in self._panes:
            self.views.addWidget(view)
            # What is wider than the margin is squeezed, as high as it is then.
            view.margin.setMinimumWidth(1)
            below.addWidget(view.margin)
            view.problem.connect(self.problem)
        below.addStretch(1)
        head, inside = panel(margins=(10, 4, 8, 4))
        self.view_buttons = []
        for position, (name, tip) in enumerate(VIEWS.items()):
            button = configured(QPushButton(name), checkable=True, autoExclusive=True)
            button.setObjectName("stage")
            button.setToolTip(tip)
            button.clicked.connect(lambda _, position=position: self.show_view(position))
            self.view_buttons.append(button)
        self._tools = flow_of(*self.view_buttons, 0)
        inside.addLayout(self._tools)  # type: ignore[attr-defined]
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(head)
        layout.addWidget(self.views, 1)

    def add_picture_button(self) -> None:
        """Make the button that saves the picture in view."""
        self.picture_button = PictureButton(self.hub, self._maker, lambda: (self.hub.study.table.source.path,))
        self.picture_button.problem.connect(self.problem)
        self.picture_button.message_ready.connect(self.hub.message)
        self._tools.addWidget(self.picture_button)

    def _maker(self) -> tuple[Maker, str] | None:
        return self._panes[self.views.currentIndex()].maker()

    @property
    def data(self) -> QWidget:
        """What the keyboard works on in the view shown."""
        return self._panes[self.views.currentIndex()].data

    def follow(self) -> None:
        """Show groups in the way that was chosen."""
        names, chosen = list(VIEWS), self.hub.study.document.view.groups_view
        self._show_page(names.index(chosen) if chosen in names else 0)

    def show_view(self, position: int) -> None:
        """Show one of `VIEWS` by its place."""
        self.hub.study.change_view(groups_view=list(VIEWS)[position])
        self._show_page(position)

    def _compare_alone(self, name: str) -> None:
        """Compare one column of all, by the same groups."""
        self.hub.set_focus(name)
        self.show_view(list(VIEWS).index("Compare"))

    def _show_page(self, position: int) -> None:
        self.view_buttons[position].setChecked(True)
        self.views.setCurrentIndex(position)
        for at, view in enumerate(self._panes):
            view.margin.setVisible(at == position)
        if self.isVisible():
            # The keyboard would go to whatever comes next after what is hidden now.
            self.data.setFocus()
