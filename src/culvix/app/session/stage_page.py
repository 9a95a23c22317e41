"""A stage of the work: a row of the table of stages, and the page that is made of it on a workbench."""

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from PyQt6.QtCore import QObject, QSettings, pyqtSignal
from PyQt6.QtWidgets import QToolButton, QWidget

from culvix.app.session.hub import Hub
from culvix.report.remembered_pictures import RememberedPictures

__all__ = ["StagePage", "StageRequests", "StageRow"]


class StageRequests(QObject):
    """What a page asks of the workbench and the window around it.

    problem (str): a sentence is to be shown. guide (str): the guide is asked about a key. stage (str): another stage
    is to be shown. reread (ReadOptions): the file is to be read another way. dictionary, save_dictionary, export: a
    file is to be chosen for it. exchange (TableFinding): it is to be asked whether values are exchanged. placed
    (QWidget): a pane was made and put into its place.
    """

    problem = pyqtSignal(str)
    guide = pyqtSignal(str)
    stage = pyqtSignal(str)
    reread = pyqtSignal(object)
    dictionary = pyqtSignal()
    save_dictionary = pyqtSignal()
    export = pyqtSignal()
    exchange = pyqtSignal(object)
    placed = pyqtSignal(QWidget)

    def __init__(self, parent: QObject, pictures: RememberedPictures) -> None:
        """``pictures`` draws those of reports, off the interface thread."""
        super().__init__(parent)
        self.pictures = pictures


class StagePage(ABC):
    """The panes of one stage, and what they are for the workbench.

    A page is made in steps, between which the window answers. Every pane goes straight to its place: to move a
    finished one is as dear as to make it.
    """

    def __init__(
        self,
        hub: Hub,
        requests: StageRequests,
        place: Callable[[QWidget], None],
        place_margin: Callable[[QWidget], None],
    ) -> None:
        """``place`` and ``place_margin`` put a widget into the page's part of the workbench."""
        self.hub, self.requests = hub, requests
        self.place, self.place_margin = place, place_margin

    @abstractmethod
    def make(self, settings: QSettings) -> Iterator[None]:
        """Make the panes, step by step; they take up what they remembered in ``settings``."""

    def make_rest(self) -> Iterator[None]:
        """Make, step by step and when all pages are there, what a page shows only when it is asked for."""
        yield from ()

    @property
    @abstractmethod
    def data(self) -> QWidget:
        """What the keyboard is given to."""

    @property
    def picture_button(self) -> QToolButton | None:
        """The button that saves or copies the picture in view, where the page has one."""
        return None

    @property
    def guide_key(self) -> str:
        """What the guide is opened at while the page is shown."""
        analysis = self.hub.analysis
        return analysis.verdict.method if analysis else "n"

    def remember(self, settings: QSettings) -> None:  # noqa: B027 a page may have nothing to write down
        """Write down what the panes are to take up again."""

    def finish(self) -> None:  # noqa: B027 a page may have no fields
        """Take over what is still being typed."""

    def go_on(self) -> None:  # noqa: B027 a page may list no values
        """A value was decided with Enter: turn to the next, where there is one."""


@dataclass(frozen=True)
class StageRow:
    """A stage: its ``title``, and the kind of page it has.

    ``lists_columns``: it lists all columns itself and needs the room of the rail. ``needs_tray_room``: the row tray is
    shown only while rows are selected. ``lists_rows``: it lists rows itself, so that the tray has only the acts.
    ``has_no_rows``: there is nothing to decide on in it, and no tray.
    """

    title: str
    page: Callable[..., StagePage]
    lists_columns: bool = False
    needs_tray_room: bool = False
    lists_rows: bool = False
    has_no_rows: bool = False
