"""The form by which a table is chosen that stays where it is: address, table or query, and the size of the sample."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QDialog,
    QFileDialog,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QRadioButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from culvix.app.session.configured import configured
from culvix.app.shell.dialogs.whole_list import whole_list
from culvix.app.widgets.lists.sorted_list import ListHead, SortedList, SortedView, number_head
from culvix.app.widgets.parts import label, row_of
from culvix.stats.display import DASH, count
from culvix.study.whole.column_figures import ColumnOfWhole
from culvix.study.whole.samples import SampleOf
from culvix.tables.engines import ServerTable, is_address

__all__ = ["ConnectDialog", "WholeRequest"]


def _estimate(rows: int | None) -> str:
    return DASH if rows is None else count(rows)


_HEADS = (
    ListHead("table", 210, lambda t: t.title, lambda t: t.title.casefold(), lambda t: t.title, right=False),
    ListHead("kind", 120, lambda t: t.kind, lambda t: t.kind, right=False),
    number_head("about rows", 90, lambda t: t.rows, _estimate, lambda _: "The server's estimate, where it has one"),
    ListHead("comment", 270, lambda t: t.comment, lambda t: t.comment.casefold(), lambda t: t.comment, right=False),
)
_ABOUT = (
    "A database server, or a folder of Parquet, Arrow or delimited files. The whole is counted where it lies; the rows "
    "of a sample are what you look at and decide on. Nothing is ever written there."
)
_SECRET = "Passwords are taken from PGPASSWORD or a password file, and not kept."


@dataclass(frozen=True)
class WholeRequest:
    """The table at ``address`` that is meant, or the ``query`` that makes one, and what sample is to be drawn."""

    address: str
    table: str
    query: str
    of: SampleOf


class ConnectDialog(QDialog):
    """Stays open until a table is surveyed: what is wrong is said in it.

    tables_asked (str): what the server at an address has is to be listed. survey_asked (WholeRequest): go on with it.
    """

    tables_asked = pyqtSignal(str)
    survey_asked = pyqtSignal(object)
    figures_known = pyqtSignal(object)
    """Of a survey that goes on, columns as far as they are known; may be emitted from the thread that surveys."""

    def __init__(self, parent: QWidget, address: str = "") -> None:
        super().__init__(parent)
        self.setWindowTitle("Open a table where it lies")
        self.resize(760, 560)
        self.address = configured(QLineEdit(), placeholderText="postgresql://user@host/database, or a folder")
        self.address.setAccessibleName("Address of the server or folder")
        self.address.setText(address)
        self.folder, self.list_tables = QPushButton("Folder …"), QPushButton("List tables")
        self.by_table, self.by_query = QRadioButton("a table or view"), QRadioButton("a query")
        self.by_table.setChecked(True)
        self.model: SortedList[ServerTable] = SortedList(_HEADS, self)
        self.tables = SortedView(self.model, "Tables of the server")
        self.figures = whole_list(self)
        self.known = SortedView(self.figures, "Figures of the whole, as far as they are known")
        self.known.hide()
        self.query = QPlainTextEdit()
        self.query.setPlaceholderText("select … — it can only read")
        self.query.setAccessibleName("Query whose rows are the table")
        self.rows = configured(QSpinBox(), minimum=100, maximum=20_000_000, singleStep=10_000)
        self.rows.setValue(100_000)
        self.seed = configured(QSpinBox(), minimum=0, maximum=999_999)
        self.seed.setValue(1)
        self.seed.setToolTip("The same seed draws the same rows as long as the table is unchanged")
        self.by = configured(QLineEdit(), placeholderText="no column")
        self.by.setToolTip("A category of which each value is to have as many rows as any other")
        self.message = label("", wrap=True)
        self.go_on, close = QPushButton("Survey and draw"), QPushButton("Close")
        self.go_on.setDefault(True)
        self._lay_out(close)
        self.folder.clicked.connect(self._choose_folder)
        self.list_tables.clicked.connect(lambda: self._ask(lambda: self.tables_asked.emit(self.address.text().strip())))
        self.go_on.clicked.connect(lambda: self._ask(self._survey))
        close.clicked.connect(self.reject)
        self.figures_known.connect(self._show_figures)
        self.address.textChanged.connect(lambda _: self._follow())
        for choice in (self.by_table, self.by_query):
            choice.toggled.connect(lambda _: self._follow())
        self._follow()
        self.address.setFocus()

    def _lay_out(self, close: QPushButton) -> None:
        layout = QVBoxLayout(self)
        layout.addWidget(label(_ABOUT, "quiet", wrap=True))
        layout.addLayout(row_of(label("Address"), self.address, self.folder, self.list_tables))
        layout.addWidget(label(_SECRET, "quiet", wrap=True))
        self.which = QWidget()
        which = QVBoxLayout(self.which)
        which.setContentsMargins(0, 0, 0, 0)
        which.addLayout(row_of(label("The table is"), self.by_table, self.by_query, 1))
        which.addWidget(self.tables, 2)
        which.addWidget(self.query, 1)
        layout.addWidget(self.which, 1)
        layout.addWidget(self.known, 1)
        size, seed, by = label("Rows of the sample"), label("seed"), label("as many of each")
        layout.addLayout(row_of(size, self.rows, seed, self.seed, by, self.by, 1))
        layout.addWidget(self.message)
        layout.addLayout(row_of(1, self.go_on, close))

    def _follow(self) -> None:
        """Show what is to be said of a server, or of a folder."""
        server = is_address(self.address.text().strip())
        self.which.setEnabled(server)
        self.list_tables.setEnabled(server)
        self.tables.setVisible(self.by_table.isChecked())
        self.query.setVisible(self.by_query.isChecked())

    def _choose_folder(self) -> None:
        found = QFileDialog.getExistingDirectory(self, "The folder that is the table")
        if found:
            self.address.setText(found)

    def _ask(self, act: Callable[[], None]) -> None:
        if not self.address.text().strip():
            self.say("Write the address of a server, or choose a folder.")
            return
        act()

    def show_tables(self, tables: tuple[ServerTable, ...]) -> None:
        """List what a server has."""
        self.model.put(tables)
        self.tables.fit_numbers()
        self.say("" if tables else "There is no table that may be read.")
        if tables:
            self.tables.selectRow(0)

    def _show_figures(self, columns: tuple[ColumnOfWhole, ...]) -> None:
        self.which.hide()
        self.known.show()
        self.figures.put(columns)
        self.known.fit_numbers()

    def _survey(self) -> None:
        address, table, query = self.address.text().strip(), "", ""
        if is_address(address):
            chosen = self.tables.currentIndex()
            if self.by_query.isChecked():
                query = self.query.toPlainText().strip()
            elif chosen.isValid():
                table = self.model.items[chosen.row()].title
            if not table and not query:
                self.say("Write the query." if self.by_query.isChecked() else "List the tables, and choose one.")
                return
        of = SampleOf(self.rows.value(), self.seed.value(), self.by.text().strip())
        self.survey_asked.emit(
            WholeRequest(str(Path(address)) if not is_address(address) else address, table, query, of)
        )

    def say(self, message: str) -> None:
        """Show ``message`` above the buttons."""
        self.message.setText(message)

    def wait(self, waiting: bool) -> None:
        """Let nothing be asked while something is."""
        for each in (self.go_on, self.list_tables, self.address):
            each.setEnabled(not waiting)
        if not waiting:
            self.known.hide()
            self.which.show()
            self._follow()
