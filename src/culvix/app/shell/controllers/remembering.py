"""Small pictures of the columns in hand, put down with the study and in the list of files opened lately."""

from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject

from culvix.app.shell.controllers.context import WindowContext
from culvix.app.shell.controllers.keeping import Keeping
from culvix.charts.items.sparkline import sparkline_json
from culvix.study.storage.listing import MOST_SPARKLINES
from culvix.study.storage.recents import remember
from culvix.tables.model.table import Role

__all__ = ["Remembering"]


class Remembering(QObject):
    """Writes down what the start page shows, once the work in the background has come to rest."""

    def __init__(self, context: WindowContext, keeping: Keeping) -> None:
        super().__init__(context.window)
        self.context, self.keeping = context, keeping
        self._written: tuple[Path, tuple[str, ...]] | None = None
        self._drawn: tuple[Path | None, tuple[str, ...]] | None = None
        self._stopped = False
        context.jobs.idle.connect(self.write_down)

    def stop(self) -> None:
        """Write nothing down any more."""
        self._stopped = True

    def write_down(self) -> None:
        """Put down the study and its table as they are now, where that is not done."""
        bench = self.context.bench
        if bench is None or self._stopped:
            return
        hub = bench.hub
        # Measurements tell tables apart better than codes do.
        columns = sorted(hub.study.table.numeric, key=lambda column: column.role is not Role.MEASURE)
        names = [column.name for column in columns]
        found = [(name, picture) for name in names if (picture := hub.sparklines.get(name)) is not None]
        pictures = tuple(sparkline_json(*each) for each in found[:MOST_SPARKLINES])
        if not pictures:
            return
        place = self.keeping.path
        if place is not None and self._drawn != (place, pictures):
            self._drawn = place, pictures
            self.keeping.also(lambda file: file.put_sparklines(pictures))
        path = hub.study.table.source.path if place is None or self.keeping.is_draft else place
        if self._written != (path, pictures):
            self._written = path, pictures
            self.context.jobs.start(
                "list of files", lambda _: partial(remember, path, pictures)(), lambda _: None, priority=1, quiet=True
            )
