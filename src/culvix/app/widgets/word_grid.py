"""A grid of words whose labels are kept: numbers that change often are written into them, not laid out anew."""

from dataclasses import dataclass

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QLabel, QWidget

from culvix.app.widgets.parts import ElidedLabel, label, plain_tip

__all__ = ["Line", "WordGrid"]


@dataclass(frozen=True)
class Line:
    """A name and ``cells``; with none the name takes the whole width. ``bold`` says which cells stand out."""

    name: str
    cells: tuple[str, ...] = ()
    bold: tuple[bool, ...] = ()
    tip: str = ""


class WordGrid(QWidget):
    """Shows lines of words; cells line up at the right."""

    def __init__(self, columns: int) -> None:
        super().__init__()
        self.columns = columns
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setHorizontalSpacing(4)
        self.grid.setVerticalSpacing(1)
        self.grid.setColumnStretch(0, 1)
        self._names: list[ElidedLabel] = []
        self._wide: dict[int, QLabel] = {}
        """The label over the whole width, of lines that have had one."""

        self._cells: list[list[QLabel]] = []

    def put(self, lines: list[Line]) -> None:
        """Show ``lines`` from above."""
        hidden, grows = self.isHidden(), len(self._names) < len(lines)
        if grows:
            # Out of sight, it is laid out once at the end rather than with every label.
            self.hide()
        while len(self._names) < len(lines):
            self._add(lines[len(self._names)])
        for at, (name, cells) in enumerate(zip(self._names, self._cells, strict=True)):
            line = lines[at] if at < len(lines) else Line("")
            self._span(at, line.name if at < len(lines) and not line.cells else "")
            name.setVisible(bool(line.cells))
            name.say(line.name if line.cells else "")
            name.setToolTip(plain_tip(line.tip or line.name))
            for position, cell in enumerate(cells):
                shown = position < len(line.cells)
                cell.setVisible(shown)
                if shown:
                    self.write(at, position, line.cells[position])
                    _stand_out(cell, bool(line.bold) and line.bold[position])
        if grows:
            self.setHidden(hidden)

    def write(self, line: int, position: int, message: str) -> None:
        """Put ``message`` into one cell."""
        cell = self._cells[line][position]
        if cell.text() != message:
            cell.setText(message)

    def _span(self, at: int, message: str) -> None:
        """Show ``message`` over the whole width of a line, or no such label where it is empty."""
        wide = self._wide.get(at)
        if wide is None and message:
            wide = self._wide[at] = label("", "quiet", wrap=True)
            self.grid.addWidget(wide, at, 0, 1, self.columns + 1)
        if wide is not None:
            wide.setVisible(bool(message))
            wide.setText(message)

    def _add(self, line: Line) -> None:
        at = len(self._names)
        # Where there is no room for all, names give way, not numbers.
        name = ElidedLabel("quiet")
        # Styled from the start: a label dressed anew takes as long as one made anew.
        cells = [
            label("", "head" if any(line.bold[position : position + 1]) else None) for position in range(self.columns)
        ]
        self.grid.addWidget(name, at, 0)
        for position, cell in enumerate(cells, start=1):
            self.grid.addWidget(cell, at, position, Qt.AlignmentFlag.AlignRight)
        self._names.append(name)
        self._cells.append(cells)


def _stand_out(cell: QLabel, requested: bool) -> None:
    name = "head" if requested else ""
    if cell.objectName() != name:
        cell.setObjectName(name)
        style = cell.style()
        assert style is not None
        style.unpolish(cell)
        style.polish(cell)
