"""What the program remembers of its user's work, in one place, to be erased by kind and age."""

from collections.abc import Callable
from datetime import timedelta

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QDialog, QGridLayout, QLabel, QPushButton, QSpinBox, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.widgets.parts import label, row_of
from culvix.stats.display import file_size, plural
from culvix.study.storage.remembered import KINDS, remembered

__all__ = ["RememberedDialog"]

_MOST_DAYS = 3650
_ABOUT = (
    "All of it lies on this machine, in folders that only you can look into. Studies that you saved and your tables "
    "are never erased here, nor is what is open in a window. A draft without its pasted or unpacked table "
    "asks for it."
)


class RememberedDialog(QDialog):
    """Lists each kind with how much there is of it; what is ticked can be erased."""

    def __init__(self, parent: QWidget, erase: Callable[[tuple[str, ...], timedelta | None], str]) -> None:
        """``erase`` takes kinds and an age away, and says in a sentence what came of it."""
        super().__init__(parent)
        self.setWindowTitle("What Culvix remembers")
        self._erase = erase
        self.ticks = {kind: QCheckBox(words[0].upper() + words[1:]) for kind, words in KINDS.items()}
        self._amounts = {kind: (QLabel(), QLabel(), QLabel()) for kind in KINDS}
        self.days = configured(QSpinBox(), minimum=0, maximum=_MOST_DAYS, suffix=" days", specialValueText="any age")
        self.days.setAccessibleName("Only what is older than")
        self.erase = QPushButton("Erase what is ticked")
        self.outcome = label("", "quiet", wrap=True)
        close = QPushButton("Close")
        layout, grid = QVBoxLayout(self), QGridLayout()
        layout.setSpacing(10)
        layout.addWidget(label(_ABOUT, "quiet", wrap=True))
        grid.setHorizontalSpacing(18)
        for row, kind in enumerate(KINDS):
            grid.addWidget(self.ticks[kind], row, 0)
            for column, shown in enumerate(self._amounts[kind], 1):
                grid.addWidget(shown, row, column, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.ticks[kind].toggled.connect(self._offer)
        layout.addLayout(grid)
        layout.addLayout(row_of(label("Only what is older than"), self.days, 1))
        layout.addWidget(self.outcome)
        layout.addLayout(row_of(self.erase, 1, close))
        self.erase.clicked.connect(self._erase_ticked)
        close.clicked.connect(self.accept)
        self.show_amounts()

    def show_amounts(self) -> None:
        """Say how much there is of each kind by now."""
        for row in remembered():
            many, size, oldest = self._amounts[row.kind]
            many.setText(plural(row.many, "entry", "entries") if row.many else "none")
            size.setText(file_size(row.size) if row.many else "")
            oldest.setText(f"since {row.oldest.astimezone():%d %b %Y}" if row.oldest is not None else "")
            self.ticks[row.kind].setEnabled(row.many > 0)
            if not row.many:
                self.ticks[row.kind].setChecked(False)
        self._offer()

    def _offer(self) -> None:
        self.erase.setEnabled(any(tick.isChecked() for tick in self.ticks.values()))

    def _erase_ticked(self) -> None:
        kinds = tuple(kind for kind, tick in self.ticks.items() if tick.isChecked())
        age = timedelta(days=self.days.value()) if self.days.value() else None
        self.outcome.setText(self._erase(kinds, age))
        self.show_amounts()
