"""A table from the clipboard: written to a file of its own, so that it can be traced and read again."""

from datetime import datetime
from pathlib import Path

from PyQt6.QtGui import QGuiApplication

from culvix.errors import CulvixError
from culvix.files import free_path, write_private
from culvix.places import data_folder

__all__ = ["pasted_file"]


def pasted_file(folder: Path | None = None) -> Path:
    """The file copied to the clipboard, or a new one in ``folder`` that holds the text copied there.

    Raises CulvixError where neither is there, or the file cannot be written.
    """
    clipboard = QGuiApplication.clipboard()
    data = clipboard.mimeData() if clipboard is not None else None
    if data is None:
        raise CulvixError("Nothing has been copied.")
    files = [url.toLocalFile() for url in data.urls() if url.isLocalFile()]
    if files:
        return Path(files[0])
    text = data.text()
    if not text.strip():
        raise CulvixError("What has been copied holds no text, so there is no table to read.")
    folder = folder or data_folder() / "pasted"
    path = free_path(folder, f"pasted {datetime.now():%Y-%m-%d %H.%M.%S}", ".tsv")
    write_private(path, text.encode("utf-8", errors="replace"))
    return path
