"""How a file is read, as sentences whose words can be changed."""

from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QSpinBox,
    QToolButton,
    QVBoxLayout,
    QWidget,
    QWidgetAction,
)

from culvix.app.session.configured import configured
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import by_font, label, row_of
from culvix.errors import CulvixError
from culvix.stats.display import count, plural
from culvix.tables.model.options.extent import Extent
from culvix.tables.model.options.read_options import ReadOptions
from culvix.tables.model.table import Source
from culvix.tables.text.delimiters import DELIMITERS
from culvix.tables.text.dialect import Dialect

__all__ = ["ReadingBar"]

_DECIMALS = {".": "point", ",": "comma"}
_THOUSANDS = {"": "nothing", ",": "comma", ".": "point", "'": "apostrophe", " ": "space"}
_QUOTES = {'"': "double quotes", "'": "single quotes", "": "no quotes"}
_ENCODINGS = (
    *("UTF-8", "UTF-16", "cp1252", "iso8859-1", "iso8859-2", "cp1250", "cp1251", "koi8_r", "mac_roman", "cp850"),
    *("shift_jis", "euc_jp", "gb18030", "big5", "euc_kr"),
)
_ALL_ROWS = ("every row", "a random sample of")


class ReadingBar(QWidget):
    """The dialect of a text or the part of a file, and which columns and rows are read."""

    changed = pyqtSignal()
    """Some word was changed: the first rows may look different."""
    requested = pyqtSignal()
    """The whole file is to be read so."""

    def __init__(self, source: Source, rows: int) -> None:
        super().__init__()
        self.source = source
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        if source.dialect is not None:
            self._dialect(layout, source.dialect)
        if len(source.parts) > 1:
            self.parts = Choice()
            self.parts.addItems(list(source.parts))
            self.parts.setCurrentText(source.part)
            self.parts.activated.connect(self.requested)
            layout.addLayout(row_of(label("Sheet or table", "quiet"), self.parts, 1))
        if source.kind == "spreadsheet":
            self.sheet_headers = configured(QSpinBox(), minimum=-1, maximum=9, specialValueText="as judged")
            chosen = source.options.header_rows
            self.sheet_headers.setValue(-1 if chosen is None else chosen)
            self.sheet_headers.valueChanged.connect(self.changed)
            names = (label("Names stand in", "quiet"), self.sheet_headers, label("lines of the sheet", "quiet"))
            layout.addLayout(row_of(*names, 1, spacing=4))
        self._extent(layout, rows)

    def _dialect(self, layout: QVBoxLayout, dialect: Dialect) -> None:
        self.delimiter = _choice(DELIMITERS, dialect.delimiter)
        self.quote = _choice(_QUOTES, dialect.quote)
        self.decimal = _choice(_DECIMALS, dialect.decimal)
        self.thousands = _choice(_THOUSANDS, dialect.thousands)
        self.encoding = Choice()
        known = self.source.encoding
        self.encoding.addItems([known, *(name for name in _ENCODINGS if name.lower() != known.lower())])
        self.headers, self.preamble = configured(QSpinBox(), maximum=9), configured(QSpinBox(), maximum=999)
        self.headers.setValue(dialect.header_rows)
        self.preamble.setValue(dialect.preamble_rows)
        self.comment = QLineEdit(dialect.comment)
        self.comment.setMaximumWidth(by_font(40))
        for box in (self.delimiter, self.quote, self.decimal, self.thousands, self.encoding):
            box.currentIndexChanged.connect(self.changed)
        names = ("Lines of names", "Lines above the names", "Mark before remarks")
        for field, name in zip((self.headers, self.preamble, self.comment), names, strict=True):
            field.setAccessibleName(name)
        for box, name in ((self.delimiter, "Mark between fields"), (self.quote, "Quotes"), (self.encoding, "Encoding")):
            box.setAccessibleName(name)
        self.decimal.setAccessibleName("Decimal mark")
        self.thousands.setAccessibleName("Thousands mark")
        for spin in (self.headers, self.preamble):
            spin.valueChanged.connect(self.changed)
        self.comment.textChanged.connect(self.changed)

        def quiet(text: str) -> QWidget:
            return label(text, "quiet")

        marks = (quiet("Between fields stands a"), self.delimiter, quiet("; they may stand in"), self.quote)
        layout.addLayout(flow_of(*marks, quiet("; the text is"), self.encoding, spacing=4))
        lines = (label("Names in", "quiet"), self.headers, quiet("lines, below"), self.preamble, quiet("others"))
        numbers = (quiet("; decimals follow a"), self.decimal, quiet(", thousands a"), self.thousands)
        layout.addLayout(flow_of(*lines, quiet("; remarks after"), self.comment, *numbers, spacing=4))

    def _extent(self, layout: QVBoxLayout, rows: int) -> None:
        extent = self.source.options.extent
        self.columns = _Columns(self.source.names, extent.columns)
        self.first = _short(str(extent.first), "1")
        self.last = _short("" if extent.last is None else str(extent.last), "last")
        self.how = Choice()
        self.how.addItems(list(_ALL_ROWS))
        self.how.setCurrentIndex(int(extent.sample is not None))
        self.sample_size = _short("" if extent.sample is None else str(extent.sample), "10000")
        self.seed = _short(str(extent.seed), "1")
        for part, name in ((self.first, "First row"), (self.last, "Last row"), (self.seed, "Seed of the sample")):
            part.setAccessibleName(name)
        self.how.setAccessibleName("Which rows")
        self.again = QPushButton("Read again so")
        self.again.clicked.connect(self.requested)
        self._sampled = (self.sample_size, label("rows, seed", "quiet"), self.seed)
        self.how.currentIndexChanged.connect(self._show_sample)
        self._show_sample()
        message = (label("Read", "quiet"), self.columns, label("from row", "quiet"), self.first, label("to", "quiet"))
        layout.addLayout(flow_of(*message, self.last, self.how, *self._sampled, 0, self.again, spacing=4))

    def _show_sample(self) -> None:
        for part in self._sampled:
            part.setVisible(self.how.currentIndex() == 1)

    def options(self) -> ReadOptions:
        """What the words say. Raises CulvixError where they make no sense."""
        before = self.source.options
        dialect, encoding = self.source.dialect, before.encoding
        if dialect is not None:
            chosen = {
                "delimiter": list(DELIMITERS)[self.delimiter.currentIndex()],
                "quote": list(_QUOTES)[self.quote.currentIndex()],
                "decimal": list(_DECIMALS)[self.decimal.currentIndex()],
                "thousands": self._thousands(dialect),
                "header_rows": self.headers.value(),
                "preamble_rows": self.preamble.value(),
                "comment": self.comment.text().strip(),
            }
            parts = {name: value for name, value in chosen.items() if value != getattr(dialect, name)}
            dialect = dialect.changed(**parts) if parts else dialect
            if self.encoding.currentIndex() > 0:
                encoding = self.encoding.currentText()
        part = self.parts.currentText() if len(self.source.parts) > 1 else before.part
        headers = before.header_rows
        if self.source.kind == "spreadsheet":
            headers = None if self.sheet_headers.value() < 0 else self.sheet_headers.value()
        return replace(
            before, dialect=dialect, encoding=encoding, part=part, header_rows=headers, extent=self._chosen_extent()
        )

    def _thousands(self, dialect: Dialect) -> str:
        """The mark chosen; a narrow or an unbroken space is kept where a space is still meant."""
        chosen = list(_THOUSANDS)[self.thousands.currentIndex()]
        return dialect.thousands if chosen == " " and not dialect.thousands.strip() and dialect.thousands else chosen

    def _chosen_extent(self) -> Extent:
        last = self.last.text().strip()
        sample = self.how.currentIndex() == 1
        return Extent(
            columns=self.columns.chosen,
            first=_whole(self.first, "first row"),
            last=_whole(self.last, "last row") if last else None,
            sample=_whole(self.sample_size, "size of the sample") if sample else None,
            seed=_whole(self.seed, "seed"),
        )

    @property
    def unchanged(self) -> bool:
        """Whether the words say how the file was read."""
        read = replace(self.source.options, dialect=self.source.dialect)
        if len(self.source.parts) > 1:
            read = replace(read, part=self.source.part)
        return self.options() == read


class _Columns(QToolButton):
    """Which columns are read: a list with ticks behind a button that says how many."""

    def __init__(self, names: tuple[str, ...], chosen: tuple[str, ...]) -> None:
        super().__init__()
        self.names = names
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.setToolTip("Choose the columns to read")
        self.list = QListWidget()
        self.list.setUniformItemSizes(True)
        requested = set(chosen or names)
        for name in names:
            item = QListWidgetItem(name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if name in requested else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        self.list.itemChanged.connect(self._say)
        every, none = QPushButton("All"), QPushButton("None")
        every.clicked.connect(lambda: self._tick(Qt.CheckState.Checked))
        none.clicked.connect(lambda: self._tick(Qt.CheckState.Unchecked))
        body = QWidget()
        inside = QVBoxLayout(body)
        inside.addLayout(row_of(every, none, 1))
        inside.addWidget(self.list)
        action = QWidgetAction(self)
        action.setDefaultWidget(body)
        menu = QMenu(self)
        menu.addAction(action)
        self.setMenu(menu)
        self._say()

    @property
    def ticked(self) -> tuple[str, ...]:
        every = (self.list.item(position) for position in range(self.list.count()))
        return tuple(item.text() for item in every if item and item.checkState() == Qt.CheckState.Checked)

    @property
    def chosen(self) -> tuple[str, ...]:
        """Names of the columns ticked; empty where all are. Raises CulvixError where none is."""
        ticked = self.ticked
        if not ticked:
            raise CulvixError("At least one column must be read.")
        return () if len(ticked) == len(self.names) else ticked

    def _tick(self, state: Qt.CheckState) -> None:
        self.list.blockSignals(True)
        for position in range(self.list.count()):
            item = self.list.item(position)
            if item is not None:
                item.setCheckState(state)
        self.list.blockSignals(False)
        self._say()

    def _say(self) -> None:
        ticked, every = len(self.ticked), len(self.names)
        self.setText(
            f"all {plural(every, 'column')}" if ticked == every else f"{count(ticked)} of {count(every)} columns"
        )


def _choice(message: dict[str, str], chosen: str) -> QComboBox:
    box = Choice()
    box.addItems(list(message.values()))
    known = chosen if chosen in message or chosen.strip() or not chosen else " "
    box.setCurrentIndex(list(message).index(known) if known in message else 0)
    return box


def _short(text: str, hint: str) -> QLineEdit:
    field = configured(QLineEdit(text), placeholderText=hint)
    field.setMaximumWidth(by_font(64))
    return field


def _whole(field: QLineEdit, what: str) -> int:
    text = field.text().strip().replace("\u202f", "").replace(" ", "") or field.placeholderText()
    if not text.isdecimal():
        raise CulvixError(f"The {what} must be a whole number, not “{field.text()}”.")
    return int(text)
