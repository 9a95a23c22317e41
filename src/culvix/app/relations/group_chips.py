"""The groups of a pair by name, each with its mark and its coefficient; those pressed stand out in the picture."""

from collections.abc import Mapping

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QPushButton, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import clear_layout, label, plain_tip, shortened
from culvix.charts.plots.pair_items import STYLE_NAMES, group_icon
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

    styled = pyqtSignal(str, int)
    """A group and the mark and colour (from 0) that it is to have."""

    def __init__(self) -> None:
        super().__init__()
        self.buttons: dict[str, QPushButton] = {}
        self._styles: dict[str, int] = {}
        self._body = QVBoxLayout(self)
        self._body.setContentsMargins(0, 0, 0, 0)
        self.hide()

    def show_groups(self, groups: PairGroups | None, styles: Mapping[str, int]) -> None:
        """Name the ``groups``, those that stand out with their ``styles``; None for no groups."""
        clear_layout(self._body)
        self.buttons, self._styles = {}, dict(styles)
        self.setVisible(groups is not None)
        if groups is None:
            return
        for group in groups.groups[:_MOST_NAMED]:
            style = self._styles.get(group.name)
            button = configured(QPushButton(_words(group)), checkable=True, checked=style is not None)
            button.setObjectName("slim")
            button.setIcon(group_icon(style))
            button.setToolTip(_tip(group))
            button.clicked.connect(lambda on, name=group.name: self._toggle(name, on))
            if style is not None:
                button.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
                button.customContextMenuRequested.connect(lambda _, name=group.name: self._offer_styles(name))
            self.buttons[group.name] = button
        more = len(groups.groups) - len(self.buttons)
        beyond = [label(f"and {count(more)} smaller ones", "quiet")] if more > 0 else []
        self._body.addLayout(flow_of(*self.buttons.values(), *beyond, spacing=4))

    def _toggle(self, name: str, on: bool) -> None:
        names = [each for each in self._styles if each != name] + ([name] if on else [])
        self.chosen.emit(tuple(names[-MOST_GROUPS:]))

    def style_menu(self, name: str) -> QMenu:
        """The marks that the group ``name`` can have; one that another group has is exchanged with it."""
        menu = QMenu(self)
        for style in range(MOST_GROUPS):
            holder = next((each for each, own in self._styles.items() if own == style), None)
            words = STYLE_NAMES[style] if holder in (None, name) else f"{STYLE_NAMES[style]}, exchanged with {holder}"
            action = QAction(group_icon(style), words, menu)
            action.setCheckable(True)
            action.setChecked(holder == name)
            action.triggered.connect(lambda _, style=style: self.styled.emit(name, style))
            menu.addAction(action)
        return menu

    def _offer_styles(self, name: str) -> None:
        button = self.buttons[name]
        self.style_menu(name).popup(button.mapToGlobal(button.rect().bottomLeft()))


def _words(group: PairGroup) -> str:
    first = next(iter(group.coefficients.values()))
    return f"{shortened(group.name, 16)}  {coefficient(first.r)}  n {count(group.n)}"


def _tip(group: PairGroup) -> str:
    lines = [group.name, f"n {count(group.n)}"]
    for key, found in group.coefficients.items():
        lines.append(f"{CORRELATION_KINDS[key].name} {coefficient(found.r) if found.r is not None else found.note}")
    return plain_tip("\n".join((*lines, "Right click, or the menu key: another mark and colour")))
