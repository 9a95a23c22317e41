"""The chosen pair with a category in numbers: each group with its size, mean, SD and median."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from culvix.app.widgets.parts import ElidedLabel, clear_layout, label
from culvix.stats.display import NumberStyle, count, plural
from culvix.study.pictures.groups.groups import Split

__all__ = ["CategoryMargin"]

_MOST_NAMED = 30
_RIGHT = Qt.AlignmentFlag.AlignRight


class CategoryMargin(QWidget):
    """Says what `CategoriesPane` shows."""

    def __init__(self) -> None:
        super().__init__()
        self._body = QVBoxLayout(self)
        self._body.setContentsMargins(0, 0, 0, 0)
        self._body.setSpacing(5)

    def say(self, head: str, answer: str, lost: int) -> None:
        """Say of a pair how much it has in common."""
        clear_layout(self._body)
        self._body.addWidget(label(head, "head", wrap=True))
        self._body.addWidget(label(answer, wrap=True))
        if lost:
            rows = plural(lost, "row has", "rows have")
            self._body.addWidget(label(f"{rows} only one of both values.", "quiet", wrap=True))

    def add_groups(self, divided: Split, style: NumberStyle) -> None:
        """Add the numbers of each group of ``divided``."""
        table = QGridLayout()
        table.setHorizontalSpacing(9)
        table.setVerticalSpacing(2)
        heads = ("", "n", "mean", "SD", "median")
        rows = [
            (
                group.name,
                count(group.sample.n),
                style.statistic(group.description.mean),
                style.statistic(group.description.sd),
                style.statistic(group.description.median),
            )
            for group in divided.groups[:_MOST_NAMED]
        ]
        for row, cells in enumerate((heads, *rows)):
            for column, words in enumerate(cells):
                shown = label(words, None if row else "quiet") if column or not row else _named(words)
                if column:
                    table.addWidget(shown, row, column, _RIGHT)
                else:
                    table.addWidget(shown, row, column)
        table.setColumnStretch(0, 1)
        self._body.addLayout(table)
        more = len(divided.groups) - len(rows)
        if more:
            self._body.addWidget(label(f"and {plural(more, 'group')} more", "quiet"))


def _named(name: str) -> ElidedLabel:
    """The name of a group, as much of it as there is room for."""
    made = ElidedLabel("")
    made.say(name)
    return made
