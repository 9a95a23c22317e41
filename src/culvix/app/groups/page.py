"""The Groups on the workbench."""

from collections.abc import Iterator

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QToolButton, QWidget

from culvix.app.groups.changes.another_table_pane import AnotherTablePane
from culvix.app.groups.compare.every_column_pane import EveryColumnPane
from culvix.app.groups.compare.groups_pane import GroupsPane
from culvix.app.groups.compare.two_categories_pane import TwoCategoriesPane
from culvix.app.groups.stage import GroupsStage
from culvix.app.groups.subsets.new_columns_pane import NewColumnsPane
from culvix.app.groups.subsets.subsets_pane import SubsetsPane
from culvix.app.session.stage_page import StagePage, StageRow
from culvix.app.widgets.parts import scrolled

__all__ = ["GROUPS", "GroupsPage"]


class GroupsPage(StagePage):
    """The column in focus by groups, and two categories against each other."""

    stage: GroupsStage

    def make(self, settings: QSettings) -> Iterator[None]:
        groups = GroupsPane(self.hub)
        yield
        every, subsets = EveryColumnPane(self.hub), SubsetsPane(self.hub)
        yield
        other, crossed = AnotherTablePane(self.hub), TwoCategoriesPane(self.hub)
        yield
        columns = NewColumnsPane(self.hub)
        yield
        self.stage = GroupsStage(self.hub, groups, every, subsets, other, crossed, columns)
        yield
        self.stage.add_picture_button()
        yield
        self.place(self.stage)
        yield
        self.place_margin(scrolled(self.stage.margins))
        self.stage.problem.connect(self.requests.problem)
        yield
        self.stage.follow()
        yield

    @property
    def data(self) -> QWidget:
        return self.stage.data

    @property
    def picture_button(self) -> QToolButton:
        return self.stage.picture_button

    @property
    def guide_key(self) -> str:
        return "welch_t"


GROUPS = StageRow("Groups", GroupsPage)
