"""The outline of the report: whose it is, which sections and columns it has, in which order, and how fully."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QLineEdit, QPushButton, QVBoxLayout

from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.lists.columns_button import ColumnsButton
from culvix.app.widgets.lists.ordered_list import OrderedList
from culvix.app.widgets.parts import label, row_of
from culvix.report.sections import SECTIONS, USUAL_SECTIONS
from culvix.study.document.choices.report_layout import (
    COLUMN_CHOICES,
    LEVELS,
    USUAL_LAYOUT,
    ReportLayout,
    SectionChoice,
)

__all__ = ["OutlinePane"]

_FIELDS = {"title": "Title", "author": "By", "addressee": "For", "date": "Date"}
_HINTS = {"author": "who wrote it", "addressee": "whom it is for", "date": "the day it is saved"}
_HOW = "Click a part of a page to copy it, to save it, or to write below it. Own words go into every format."


class OutlinePane(LazyPane):
    """All that is chosen here is part of the study: it is undone like any act, and travels in the recipe."""

    problem = pyqtSignal(str)
    sought = pyqtSignal(str)
    """The key of a section whose beginning is to be shown."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.fields = {key: QLineEdit() for key in _FIELDS}
        self.sections = self._list_of_sections()
        self.level = self._choice("How much this section says (+ and − in the list)", LEVELS, self._set_level)
        self.level_of = label("", "quiet")
        self.columns = self._choice(
            "Which columns have a sheet", COLUMN_CHOICES, lambda chosen: self._change(columns=chosen)
        )
        self.picked = ColumnsButton(hub, lambda: self._layout.picked)
        self.picked.column_toggled.connect(self._pick)
        self.own_summary = configured(QPushButton("First page from the study again"), objectName="slim")
        self.own_summary.setToolTip("Take back the sentences written in place of those made from the study")
        self.own_summary.clicked.connect(lambda: self._change(summary=()))
        self.usual = configured(QPushButton("As it usually is"), objectName="slim")
        self.usual.setToolTip("All sections in short, in the usual order, of all columns; own words stay")
        self.usual.clicked.connect(lambda: self._change(sections=(), columns=USUAL_LAYOUT.columns))
        self._lay_out()
        hub.report_changed.connect(self.request_refresh)
        self.refresh()

    def _lay_out(self) -> None:
        outer = QVBoxLayout(self)
        outer.setContentsMargins(10, 8, 10, 8)
        outer.setSpacing(5)
        outer.addWidget(label("Outline", "head"))
        outer.addLayout(self._head_of_the_report())
        outer.addSpacing(4)
        outer.addWidget(self.sections)
        outer.addLayout(row_of(self.level_of, 1, self.level))
        outer.addLayout(row_of(label("Sheets of", "quiet"), 1, self.columns, self.picked))
        outer.addLayout(row_of(self.usual, 1))
        outer.addWidget(self.own_summary)
        outer.addSpacing(4)
        outer.addWidget(label(_HOW, "quiet", wrap=True))
        outer.addStretch(1)

    def _head_of_the_report(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(3)
        for row, (key, name) in enumerate(_FIELDS.items()):
            field = self.fields[key]
            field.setPlaceholderText(_HINTS.get(key, ""))
            field.setAccessibleName(f"{name}, at the head of the report")
            field.editingFinished.connect(lambda key=key: self._say(key))
            grid.addWidget(label(name, "quiet"), row, 0)
            grid.addWidget(field, row, 1)
        return grid

    def _list_of_sections(self) -> OrderedList:
        made = OrderedList({key: row.title for key, row in SECTIONS.items()}, [])
        made.list.setAccessibleName("Sections of the report")
        made.list.setToolTip("Tick what is in; drag into order, or Ctrl with an arrow key")
        made.chosen.connect(lambda _: self._arrange())
        made.sized.connect(self._resize)
        made.list.currentItemChanged.connect(lambda *_: self._follow_section())
        made.list.itemClicked.connect(lambda item: self.sought.emit(item.data(Qt.ItemDataRole.UserRole)))
        return made

    def _choice(self, tip: str, names: Mapping[str, str], choose: Callable[[str], None]) -> Choice:
        """A choice among ``names``, by key; ``choose`` hears the key."""
        made = Choice()
        made.setToolTip(tip)
        made.addItems(list(names.values()))
        made.activated.connect(lambda at: choose(list(names)[at]))
        return made

    @property
    def _layout(self) -> ReportLayout:
        return self.hub.study.document.report

    # What is in force

    def refresh(self) -> None:
        """Show the layout in force."""
        layout = self._layout
        for key, field in self.fields.items():
            with QSignalBlocker(field):
                if not field.hasFocus():
                    field.setText(getattr(layout, key))
        self.fields["title"].setPlaceholderText(self.hub.study.name)
        choices = layout.ordered(USUAL_SECTIONS)
        self.sections.names = {each.key: _line(each) for each in choices}
        self.sections.show_order([each.key for each in choices], {each.key for each in choices if each.shown})
        lines, list_of = len(choices), self.sections.list
        list_of.setFixedHeight(lines * max(list_of.sizeHintForRow(0), 1) + 2 * list_of.frameWidth() + 4)
        if self.sections.current is None:
            list_of.setCurrentRow(0)
        self.columns.setCurrentIndex(list(COLUMN_CHOICES).index(layout.columns))
        self.picked.setVisible(layout.columns == "picked")
        self.own_summary.setVisible(bool(layout.summary))
        self._follow_section()

    def _follow_section(self) -> None:
        """Show how fully the section in the current line is written."""
        choice = self._current
        self.level.setEnabled(choice is not None)
        self.level_of.setText(f"{SECTIONS[choice.key].title}:" if choice else "")
        if choice is not None:
            self.level.setCurrentIndex(list(LEVELS).index(choice.level))

    @property
    def _current(self) -> SectionChoice | None:
        key = self.sections.current
        return next((each for each in self._layout.ordered(USUAL_SECTIONS) if each.key == key), None)

    # What is chosen

    def _change(self, **parts: object) -> None:
        self.hub.study.change_report(replace(self._layout, **parts))  # type: ignore[arg-type]

    def _say(self, key: str) -> None:
        self._change(**{key: self.fields[key].text().strip()})

    def _arrange(self) -> None:
        """Take over the order of the lines, and which of them are ticked."""
        known = {each.key: each for each in self._layout.ordered(USUAL_SECTIONS)}
        shown = set(self.sections.ticked)
        self._change(sections=tuple(replace(known[key], shown=key in shown) for key in self.sections.order))

    def _set_level(self, level: str) -> None:
        choice = self._current
        if choice is not None:
            choices = self._layout.ordered(USUAL_SECTIONS)
            self._change(
                sections=tuple(replace(each, level=level) if each.key == choice.key else each for each in choices)
            )

    def _resize(self, key: str, by: int) -> None:
        levels = list(LEVELS)
        choice = next(each for each in self._layout.ordered(USUAL_SECTIONS) if each.key == key)
        self._set_level(levels[min(max(levels.index(choice.level) + by, 0), len(levels) - 1)])

    def _pick(self, column: str, on: bool) -> None:
        others = tuple(name for name in self._layout.picked if name != column)
        self._change(picked=(*others, column) if on else others)

    def finish(self) -> None:
        """Take over what is still being typed."""
        for key, field in self.fields.items():
            if field.text().strip() != getattr(self._layout, key):
                self._say(key)


def _line(choice: SectionChoice) -> str:
    """A section in the list, with how fully it is written where that is not in short."""
    title = SECTIONS[choice.key].title
    return title if choice.level == "short" else f"{title} ({LEVELS[choice.level]})"
