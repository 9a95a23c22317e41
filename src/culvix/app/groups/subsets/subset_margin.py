"""The chosen subset in words and numbers, and what can be done with it."""

from PyQt6.QtCore import pyqtBoundSignal, pyqtSignal
from PyQt6.QtWidgets import QPushButton

from culvix.app.groups.text_margin import TextMargin
from culvix.app.session.configured import configured
from culvix.app.widgets.parts import label, row_of
from culvix.stats.display import count, p_value, signed
from culvix.study.groups.subsets.confirmed_subsets import ConfirmedSubset, Half, SubsetSearch

__all__ = ["SubsetMargin"]


class SubsetMargin(TextMargin):
    """Shows a `ConfirmedSubset`."""

    selected = pyqtSignal()
    """Its rows are to be selected."""
    made_column = pyqtSignal()
    """It is to become a column of its own."""
    marked = pyqtSignal()
    """Its rows are to be marked in all pictures."""
    kept = pyqtSignal()
    """It is to stand in the report."""

    def show_subset(self, subset: ConfirmedSubset, search: SubsetSearch) -> None:
        """Tell of ``subset``."""
        self.clear()
        self.body.addWidget(label("Confirmed" if subset.confirmed else "Not confirmed", "head"))
        self.body.addWidget(label(f"{subset.sentence}.", wrap=True))
        self.body.addSpacing(4)
        self.body.addWidget(label(f"{search.effect} against the rest", "head"))
        self._half("in the search", subset.searched)
        self.body.addWidget(label(f"{p_value(subset.found.adjusted)}, adjusted over all tried", "quiet", wrap=True))
        self._half("on the other half", subset.other)
        if subset.adjusted is not None:
            words = f"{p_value(subset.adjusted)}, adjusted over the {count(len(search.subsets))} found"
            self.body.addWidget(label(words, "quiet", wrap=True))
        why = (
            "The figure of the search is the best of many and too large as a rule; that of the other half, which the "
            "search has not seen, is the one to report."
        )
        self.body.addWidget(label(why, "quiet", wrap=True))
        self._act(f"Select its {count(subset.rows.size)} rows", "Here and in all pictures", self.selected)
        follows = "it follows the columns that name it"
        self._act("Make it a column", f"Yes in its rows, no in all others; {follows}", self.made_column)
        self._act("Mark its rows", f"In all pictures and the table, by a column that is made; {follows}", self.marked)
        tip = "Compared with all others, with what the search found, in the section on groups"
        self._act("Keep for the report", tip, self.kept)

    def _act(self, text: str, tip: str, signal: pyqtBoundSignal) -> None:
        button = configured(QPushButton(text))
        button.setObjectName("slim")
        button.setToolTip(tip)
        button.clicked.connect(signal)
        self.body.addLayout(row_of(button, 1))

    def _half(self, name: str, half: Half) -> None:
        value = "—" if half.effect is None else signed(half.effect, 2)
        self.body.addLayout(row_of(label(name), 1, label(value, "head")))
        ends = "" if half.low is None or half.high is None else f"{signed(half.low, 2)} to {signed(half.high, 2)}, "
        self.body.addWidget(label(f"{ends}n {count(half.n)} against {count(half.rest)}", "quiet", wrap=True))
