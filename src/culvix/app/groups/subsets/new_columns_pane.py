"""Columns made from others by a rule in words: described, looked at, added, changed and taken away."""

import numpy as np
from PyQt6.QtCore import QModelIndex, QTimer
from PyQt6.QtWidgets import QLineEdit, QPushButton, QVBoxLayout, QWidget

from culvix.app.groups.subsets.rule_fields import FIELDS, RuleFields
from culvix.app.groups.text_margin import TextMargin
from culvix.app.groups.view_pane import ViewPane
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import hidden
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.lists.sorted_list import ListHead, SortedList, SortedView, number_head
from culvix.app.widgets.parts import label, panel
from culvix.charts.export.picture_files import Maker
from culvix.errors import CulvixError
from culvix.progress import Progress
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.display import count, style_for
from culvix.tables.model.derived.column_rule import KINDS, Cells, ColumnRule
from culvix.tables.model.table import Column

__all__ = ["NewColumnsPane"]

_DELAY_MS = 250
_MOST_NAMED = 12

_HEADS = (
    ListHead("column", 150, lambda c: c.name, lambda c: c.name.casefold(), right=False),
    ListHead("made by", 430, lambda c: c.derivation.words, lambda c: c.derivation.words.casefold(), right=False),
    number_head("n", 70, lambda c: c.rows - c.missing),
    number_head("missing", 70, lambda c: c.missing),
)


class NewColumnsPane(ViewPane):
    """What a rule makes is worked out in the background while it is described."""

    margin: TextMargin

    def __init__(self, hub: Hub) -> None:
        super().__init__(hub)
        self.changing: str | None = None
        """The column that is being changed; None where a new one is described."""

        self.margin = TextMargin()
        self.name = configured(QLineEdit(), placeholderText="name of the new column")
        self.name.setAccessibleName("Name of the new column")
        self.kind = Choice()
        self.kind.setToolTip("What kind of column it is")
        self.kind.addItems(list(KINDS.values()))
        self.fields: dict[str, RuleFields] = {key: made() for key, made in FIELDS.items()}
        for each in self.fields.values():
            each.changed.connect(self._schedule_preview)
        self.kind.activated.connect(self._show_page)
        self.add, self.put_aside = configured(QPushButton("Add it")), configured(QPushButton("Describe a new one"))
        self.change, self.drop = configured(QPushButton("Change")), configured(QPushButton("Take away"))
        for button, act in (
            (self.add, self._add),
            (self.put_aside, self._begin_anew),
            (self.change, self._change),
            (self.drop, self._drop),
        ):
            button.setObjectName("slim")
            button.clicked.connect(act)
        self.model: SortedList[Column] = SortedList(_HEADS, self)
        self.table = SortedView(self.model, "Columns made by a rule")
        self.table.selectionModel().currentRowChanged.connect(self._row)  # type: ignore[union-attr]
        head, inside = panel(margins=(8, 6, 8, 6))
        inside.addLayout(flow_of(self.name, label("is", "quiet"), self.kind, spacing=5))  # type: ignore[attr-defined]
        for each in self.fields.values():
            inside.addWidget(each)
        inside.addLayout(flow_of(self.add, self.put_aside, spacing=5))  # type: ignore[attr-defined]
        below, inside = panel(margins=(4, 4, 4, 4))
        inside.addWidget(self.table)
        inside.addLayout(flow_of(self.change, self.drop, spacing=5))  # type: ignore[attr-defined]
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(head)
        layout.addWidget(below, 1)
        self._delay = configured(QTimer(self), singleShot=True, interval=_DELAY_MS)
        self._delay.timeout.connect(self.look)
        self._show_page(0)
        hub.columns_changed.connect(self.request_update)
        hub.data_changed.connect(self._schedule_preview)

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.name

    def maker(self) -> tuple[Maker, str] | None:
        """There is no picture here."""
        return None

    def request_update(self) -> None:
        """List the columns there are now, where that can be seen."""
        if hidden(self):
            return
        table = self.hub.study.table
        for each in self.fields.values():
            each.offer(table)
        self.model.put([column for column in table if column.derivation is not None and column.derivation.rule])
        chosen = self.table.currentIndex().isValid()
        for button in (self.change, self.drop):
            button.setEnabled(chosen)
        self.add.setText("Add it" if self.changing is None else f"Change {self.changing}")
        self.put_aside.setVisible(self.changing is not None)
        self._schedule_preview()

    # The description

    def _show_page(self, position: int) -> None:
        for at, each in enumerate(self.fields.values()):
            each.setVisible(at == position)
        self._schedule_preview()

    def _described(self) -> tuple[str, ColumnRule]:
        """The first column and the rule. Raises CulvixError for what cannot be read."""
        return self.fields[list(KINDS)[self.kind.currentIndex()]].rule()

    def _schedule_preview(self, *_: object) -> None:
        if not hidden(self):
            self._delay.start()

    def look(self) -> None:
        """Show what the rule makes of the values in use."""
        study = self.hub.study
        try:
            source, rule = self._described()
            columns = {column.name: column for column in study.table}
            rule.check(columns, source)
        except CulvixError as problem:
            self.margin.say(str(problem))
            return
        working, orders = study.working, {each: study.dictionary.of(each).date_order for each in rule.sources(source)}

        def work(progress: Progress) -> tuple[Floats, dict[str, str]]:
            progress(0.0, "making a column")
            cells = Cells(columns, lambda name: working.sample(columns[name]).values, orders)
            return rule.values(source, cells), rule.words(columns, source)

        def arrived(found: tuple[Floats, dict[str, str]]) -> None:
            self._tell(rule.sentence(source), *found)

        self.hub.start(
            "a column to be made",
            work,
            arrived,
            failed=lambda error: self.margin.say(str(error)),
            priority=8,
            quiet=True,
        )

    def _tell(self, sentence: str, values: Floats, words: dict[str, str]) -> None:
        self.margin.clear()
        self.margin.body.addWidget(label("It would be", "head"))
        self.margin.body.addWidget(label(sentence, wrap=True))
        there = values[np.isfinite(values)]
        if words:
            for code, word in list(words.items())[:_MOST_NAMED]:
                many = int(np.count_nonzero(there == float(code)))
                self.margin.body.addWidget(
                    label(f"{word}: {count(many)} ({100 * many / max(there.size, 1):.1f} %)", wrap=True)
                )
        elif there.size:
            sample = Sample(there)
            style = style_for(sample, sample.moments.sd if sample.moments else None)
            shown = (("mean", sample.moments.mean if sample.moments else None), ("median", sample.median))
            for name, value in (*shown, ("from", float(sample.sorted[0])), ("to", float(sample.sorted[-1]))):
                self.margin.body.addWidget(label(f"{name} {style.statistic(value)}"))
        self.margin.body.addWidget(label(f"n {count(there.size)}, missing {count(values.size - there.size)}", "quiet"))

    # Acts

    def _add(self) -> None:
        study = self.hub.study
        try:
            source, rule = self._described()
            if self.changing is not None:
                study.change_column(self.changing, source, rule)
            else:
                name = study.add_column(self.name.text(), source, rule)
                self.name.clear()
                self.hub.set_focus(name)
        except CulvixError as problem:
            self.problem.emit(str(problem))
            return
        self._begin_anew()

    def _begin_anew(self) -> None:
        """Describe a new column from now on."""
        self.changing = None
        self.name.setEnabled(True)
        self.request_update()

    @property
    def chosen(self) -> Column | None:
        """The column chosen in the list."""
        index = self.table.currentIndex()
        return self.model.items[index.row()] if index.isValid() and index.row() < len(self.model.items) else None

    def _row(self, index: QModelIndex) -> None:
        for button in (self.change, self.drop):
            button.setEnabled(index.isValid())

    def _change(self) -> None:
        """Show the rule of the chosen column, to be changed."""
        column = self.chosen
        if column is None or column.derivation is None or column.derivation.rule is None:
            return
        rule = column.derivation.rule
        self.kind.setCurrentIndex(list(KINDS).index(rule.kind))
        self._show_page(self.kind.currentIndex())
        self.changing = column.name
        self.name.setText(column.name)
        self.name.setEnabled(False)
        self.request_update()
        self.fields[rule.kind].show_rule(column.derivation.source, rule)
        self._schedule_preview()

    def _drop(self) -> None:
        column = self.chosen
        if column is None:
            return
        try:
            self.hub.study.drop_column(column.name)
        except CulvixError as problem:
            self.problem.emit(str(problem))
