"""The groups of a pair by name, each with its mark and its coefficient; those pressed stand out in the picture."""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import clear_layout, label, plain_tip, shortened
from culvix.charts.plots.pair_items import group_icon
from culvix.stats.display import coefficient, count
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.pictures.pair_pictures import MOST_GROUPS
from culvix.study.relations.pair_groups import PairGroup, PairGroups

__all__ = ["GroupChips"]

_MOST_NAMED = 12


class GroupChips(QWidget):
    """A button for each of the largest groups; pressing one more than can be told apart releases the first."""

    chosen = pyqtSignal(object)
    """The names of the groups that are to stand out."""

    def __init__(self) -> None:
        super().__init__()
        self.buttons: dict[str, QPushButton] = {}
        self._names: list[str] = []
        self._body = QVBoxLayout(self)
        self._body.setContentsMargins(0, 0, 0, 0)
        self.hide()

    def show_groups(self, groups: PairGroups | None, shown: Sequence[str]) -> None:
        """Name the ``groups``, those called ``shown`` with the marks they have; None for no groups."""
        clear_layout(self._body)
        self.buttons, self._names = {}, list(shown)
        self.setVisible(groups is not None)
        if groups is None:
            return
        for group in groups.groups[:_MOST_NAMED]:
            style = self._names.index(group.name) if group.name in self._names else None
            button = configured(QPushButton(_words(group)), checkable=True, checked=style is not None)
            button.setObjectName("slim")
            button.setIcon(group_icon(style))
            button.setToolTip(_tip(group))
            button.clicked.connect(lambda on, name=group.name: self._turn(name, on))
            self.buttons[group.name] = button
        more = len(groups.groups) - len(self.buttons)
        beyond = [label(f"and {count(more)} smaller ones", "quiet")] if more > 0 else []
        self._body.addLayout(flow_of(*self.buttons.values(), *beyond, spacing=4))

    def _turn(self, name: str, on: bool) -> None:
        names = [each for each in self._names if each != name] + ([name] if on else [])
        self.chosen.emit(tuple(names[-MOST_GROUPS:]))


def _words(group: PairGroup) -> str:
    first = next(iter(group.coefficients.values()))
    return f"{shortened(group.name, 16)}  {coefficient(first.r)}  n {count(group.n)}"


def _tip(group: PairGroup) -> str:
    lines = [group.name, f"n {count(group.n)}"]
    for key, found in group.coefficients.items():
        lines.append(f"{CORRELATION_KINDS[key].name} {coefficient(found.r) if found.r is not None else found.note}")
    return plain_tip("\n".join(lines))
