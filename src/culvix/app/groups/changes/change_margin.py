"""What has changed in a column, and what there is to say of both tables."""

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton

from culvix.app.groups.text_margin import TextMargin
from culvix.app.session.configured import configured
from culvix.app.widgets.parts import label, row_of, shortened
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.display import count, plural
from culvix.study.another_table.column_changes import ColumnChange
from culvix.study.another_table.comparison import TableComparison

__all__ = ["ChangeMargin"]

_MOST_CELLS = 12


class ChangeMargin(TextMargin):
    """Shows a `ColumnChange` above what is said of the tables."""

    selected = pyqtSignal(object, str)
    """Rows (from 0) are to be selected, and why."""

    def show_change(self, change: ColumnChange, found: TableComparison, values: Floats | None) -> None:
        """Tell of ``change``, and of the rows of both tables; ``values`` are those of the column, as read."""
        self.clear()
        self.body.addWidget(label(change.pair.here, "head", wrap=True))
        for note in change.notes:
            self.body.addWidget(label(note.sentence, wrap=True))
        if not change.notes:
            self.body.addWidget(label("No difference by more than chance.", wrap=True))
        if values is not None and change.codes:
            codes: Ints = np.flatnonzero(np.isin(values, change.codes))
            if codes.size:
                self._button(
                    f"Select {plural(codes.size, 'row')} with the code", codes, f"new code in {change.pair.here}"
                )
        self._rows(change, found)

    def _rows(self, change: ColumnChange, found: TableComparison) -> None:
        rows = found.rows
        self.body.addSpacing(4)
        self.body.addWidget(label("Rows", "head"))
        if rows is None:
            words = "No column tells the rows of both tables apart by the same cells, so that rows are not matched."
            self.body.addWidget(label(words, "quiet", wrap=True))
            return
        sentence = f"By {' and '.join(rows.key)}: {count(rows.both)} in both, {count(rows.added.size)} added, "
        self.body.addWidget(label(f"{sentence}{count(rows.gone.size)} gone.", wrap=True))
        if rows.repeated:
            self.body.addWidget(
                label(f"{plural(rows.repeated, 'row')} with a repeated key left out.", "quiet", wrap=True)
            )
        if rows.added.size:
            self._button(f"Select the {plural(rows.added.size, 'row')} added", rows.added, f"not in {found.there}")
        cells = [cell for cell in rows.cells if cell.column == change.pair.here]
        changed = rows.changed.get(change.pair.here, 0)
        if not changed:
            return
        for cell in cells[:_MOST_CELLS]:
            words = f"{shortened(cell.key, 24)}: {shortened(cell.there, 24)} → {shortened(cell.here, 24)}"
            self.body.addWidget(label(words, "quiet", wrap=True))
        if changed > _MOST_CELLS:
            self.body.addWidget(label(f"and {count(changed - _MOST_CELLS)} more", "quiet"))
        there = np.array(sorted({cell.row for cell in cells}), dtype=np.int64)
        self._button(f"Select {plural(there.size, 'row')} with another {change.pair.here}", there, "changed cells")

    def _button(self, words: str, rows: Ints, why: str) -> None:
        button = configured(QPushButton(words))
        button.setObjectName("slim")
        button.clicked.connect(lambda: self.selected.emit(rows, why))
        self.body.addLayout(row_of(button, 1))
