"""Saving and copying the picture in view, at a size that is said and not that of the window."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QSettings, pyqtSignal
from PyQt6.QtWidgets import (
    QApplication,
    QDoubleSpinBox,
    QFileDialog,
    QGridLayout,
    QMenu,
    QPushButton,
    QSpinBox,
    QToolButton,
)

from culvix.app.session.configured import configured
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import label, row_of
from culvix.app.widgets.popup_form import PopupForm
from culvix.charts.export.picture_files import FORMATS, UNITS, Maker, PictureSize, picture_bytes, picture_image
from culvix.errors import CulvixError
from culvix.files import write_whole

__all__ = ["PictureButton"]


class PictureButton(QToolButton):
    """``maker`` gives what makes the picture in view anew, and a name for its file; None while there is none.

    ``sources`` are files that are never written.
    """

    problem = pyqtSignal(str)
    message_ready = pyqtSignal(str)

    def __init__(self, maker: Callable[[], tuple[Maker, str] | None], sources: Callable[[], tuple[Path, ...]]) -> None:
        super().__init__()
        self.maker, self.sources = maker, sources
        self.setText("Save picture")
        self.setToolTip("Save or copy this picture at a stated size (Ctrl+P)")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.width_field, self.height_field = (
            configured(QDoubleSpinBox(), decimals=1, maximum=20000.0) for _ in range(2)
        )
        self.unit = Choice()
        self.unit.addItems(list(UNITS))
        self.dpi = configured(QSpinBox(), minimum=36, maximum=2400)
        self.form = Choice()
        self.form.addItems(list(FORMATS))
        self.save_button, self.copy_button = QPushButton("Save as …"), QPushButton("Copy")
        self.save_button.clicked.connect(self.ask)
        self.copy_button.clicked.connect(self.copy)
        self.pixels = label("", "quiet")
        self._unit = PictureSize().unit
        self.show_size(PictureSize())
        self.unit.activated.connect(self._unit_chosen)
        for number in (self.width_field, self.height_field, self.dpi):
            number.valueChanged.connect(self._say_pixels)
        form = PopupForm()
        grid = QGridLayout(form)
        for position, (name, field) in enumerate(
            (
                ("width", self.width_field),
                ("height", self.height_field),
                ("in", self.unit),
                ("pixels to the inch", self.dpi),
                ("as", self.form),
            )
        ):
            grid.addWidget(label(name, "quiet"), position, 0)
            grid.addWidget(field, position, 1)
        grid.addWidget(self.pixels, 5, 0, 1, 2)
        grid.addLayout(row_of(self.copy_button, 1, self.save_button), 6, 0, 1, 2)
        menu = QMenu(self)
        form.put_into(menu)
        self.setMenu(menu)

    @property
    def size_text(self) -> PictureSize:
        """The size in the fields. Raises CulvixError where there can be no such picture."""
        return PictureSize(
            self.width_field.value(), self.height_field.value(), self.unit.currentText(), self.dpi.value()
        )

    def show_size(self, size: PictureSize) -> None:
        self.width_field.setValue(size.width)
        self.height_field.setValue(size.height)
        self.unit.setCurrentText(size.unit)
        self._unit = size.unit
        self.dpi.setValue(size.dpi)
        self._say_pixels()

    def _unit_chosen(self) -> None:
        """Another unit says the same size in other numbers."""
        try:
            before = PictureSize(self.width_field.value(), self.height_field.value(), self._unit, self.dpi.value())
            self.show_size(before.in_unit(self.unit.currentText()))
        except CulvixError as error:
            self.problem.emit(error.sentence)
            self.unit.setCurrentText(self._unit)

    def _say_pixels(self) -> None:
        try:
            across, down = self.size_text.pixels
            self.pixels.setText(f"{across} × {down} pixels")
        except CulvixError as error:
            self.pixels.setText(error.sentence)

    def _made(self) -> tuple[Maker, str] | None:
        found = self.maker()
        if found is None:
            self.problem.emit("There is no picture here to save; open a column that has numbers.")
        return found

    def copy(self) -> None:
        """Put the picture on the clipboard, in pixels at the size in the fields."""
        found, clipboard = self._made(), QApplication.clipboard()
        if found is None or clipboard is None:
            return
        try:
            clipboard.setImage(picture_image(found[0], self.size_text))
        except CulvixError as error:
            self.problem.emit(error.sentence)

    def ask(self) -> None:
        """Ask where to save the picture."""
        found, form = self._made(), self.form.currentText()
        if found is None:
            return
        name = "".join(c if c.isalnum() or c in "-_ " else "_" for c in found[1])[:80] + f".{form.lower()}"
        path, _ = QFileDialog.getSaveFileName(self, "Save picture", name, f"{form} (*.{form.lower()})")
        if path:
            self.save(Path(path))

    def save(self, path: Path) -> None:
        """Save the picture at ``path`` as the fields say."""
        found = self._made()
        if found is None:
            return
        try:
            picture = picture_bytes(found[0], self.size_text, self.form.currentText())
            write_whole(path, picture, sources=self.sources())
        except CulvixError as error:
            self.problem.emit(error.sentence)
        else:
            self.message_ready.emit(f"The picture is saved as {path.name}.")

    def remember(self, settings: QSettings) -> None:
        """Write the fields down."""
        values = (self.width_field.value(), self.height_field.value(), self.unit.currentText(), self.dpi.value())
        settings.setValue("picture/size", [str(value) for value in values])
        settings.setValue("picture/format", self.form.currentText())

    def recall(self, settings: QSettings) -> None:
        """Take up the fields written down last."""
        size = settings.value("picture/size", [], list) or []
        if len(size) == 4:
            try:
                self.show_size(PictureSize(float(size[0]), float(size[1]), str(size[2]), int(size[3])))
            except (ValueError, CulvixError):
                # A size that cannot be is not taken up; the usual one stays.
                self.show_size(PictureSize())
        self.form.setCurrentText(str(settings.value("picture/format", FORMATS[0])))
