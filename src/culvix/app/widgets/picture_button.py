"""Saving and copying the picture in view, at a size that is said and not that of the window."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QSettings, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import (
    QApplication,
    QDoubleSpinBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPushButton,
    QSpinBox,
    QToolButton,
    QVBoxLayout,
)

from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import by_font, label, row_of
from culvix.app.widgets.picture_style_fields import PictureStyleFields
from culvix.app.widgets.popup_form import PopupForm
from culvix.charts.export.picture_files import FORMATS, UNITS, Maker, PictureSize, picture_bytes, picture_image
from culvix.charts.paper import PictureWords
from culvix.errors import CulvixError
from culvix.files import write_whole

__all__ = ["PictureButton"]

_PREVIEW, _PREVIEW_DPI, _PREVIEW_MS = (360, 300), 110, 150


class PictureButton(QToolButton):
    """``maker`` gives what makes the picture in view anew, and a name for its file; None while there is none.

    ``sources`` are files that are never written.
    """

    problem = pyqtSignal(str)
    message_ready = pyqtSignal(str)

    def __init__(
        self, hub: Hub, maker: Callable[[], tuple[Maker, str] | None], sources: Callable[[], tuple[Path, ...]]
    ) -> None:
        super().__init__()
        self.hub, self.maker, self.sources = hub, maker, sources
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
        self.title = configured(QLineEdit(), placeholderText="as usual; a space for none")
        self.axis = configured(QLineEdit(), placeholderText="as usual")
        self.style_fields = PictureStyleFields(hub)
        self._previewing = configured(QTimer(self), singleShot=True, interval=_PREVIEW_MS)
        self._previewing.timeout.connect(self.show_preview)
        self._watch()
        menu = QMenu(self)
        self._form().put_into(menu)
        menu.aboutToShow.connect(self._previewing.start)
        self.setMenu(menu)

    def _form(self) -> PopupForm:
        """Size and words, the style, and the picture as it would be."""
        form = PopupForm()
        whole = QHBoxLayout(form)
        whole.setSpacing(14)
        of_this = (
            *(("title", self.title), ("axis", self.axis), ("width", self.width_field), ("height", self.height_field)),
            *(("in", self.unit), ("pixels to the inch", self.dpi), ("as", self.form)),
        )
        sides = [("This picture", of_this), ("All pictures of the study", self.style_fields.rows)]
        for name, fields in sides:
            grid = QGridLayout()
            grid.addWidget(label(name, "head"), 0, 0, 1, 2)
            for row, (message, field) in enumerate(fields, start=1):
                grid.addWidget(label(message, "quiet"), row, 0)
                grid.addWidget(field, row, 1)
            grid.setRowStretch(len(fields) + 1, 1)
            if fields is of_this:
                grid.addWidget(self.pixels, len(fields) + 2, 0, 1, 2)
            whole.addLayout(grid)
        shown = QVBoxLayout()
        shown.addWidget(self.preview, 1)
        shown.addLayout(row_of(self.copy_button, 1, self.save_button))
        whole.addLayout(shown)
        form.order = [*(field for _, fields in sides for _, field in fields), self.copy_button, self.save_button]
        return form

    def _watch(self) -> None:
        """Show the picture anew, a moment after the last change."""
        self.preview = label("", "quiet")
        self.preview.setFixedSize(by_font(_PREVIEW[0]), by_font(_PREVIEW[1]))
        self.preview.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.preview.setAccessibleName("The picture as it would be")
        for text in (self.title, self.axis):
            text.textChanged.connect(lambda _: self._previewing.start())
        for number in (self.width_field, self.height_field):
            number.valueChanged.connect(lambda _: self._previewing.start())
        self.hub.settings_changed.connect(self._preview_open)

    def _preview_open(self) -> None:
        if self.preview.isVisible():
            self._previewing.start()

    @property
    def words(self) -> PictureWords:
        """The words in the fields; of blanks none are left, of nothing the usual ones."""
        title, axis = self.title.text(), self.axis.text()
        return PictureWords(title.strip() if title else None, axis.strip() if axis else None)

    def show_preview(self) -> None:
        """Show the picture at its true proportions, as large as there is room."""
        found = self.maker()
        if found is None or not self.preview.isVisible():
            return
        try:
            size = replace(self.size_text, dpi=_PREVIEW_DPI) if self.unit.currentText() != "pixels" else self.size_text
            image = picture_image(found[0], size, self.style_fields.style, self.words)
        except CulvixError as error:
            self.preview.setText(error.sentence)
            return
        smooth = Qt.TransformationMode.SmoothTransformation
        self.preview.setPixmap(
            QPixmap.fromImage(image).scaled(self.preview.size(), Qt.AspectRatioMode.KeepAspectRatio, smooth)
        )

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
            clipboard.setImage(picture_image(found[0], self.size_text, self.style_fields.style, self.words))
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
            picture = picture_bytes(
                found[0], self.size_text, self.form.currentText(), self.style_fields.style, self.words
            )
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
