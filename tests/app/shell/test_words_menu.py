"""A right click copies words, grids and lists for another program, whole and as they are shown."""

from pathlib import Path

from PyQt6.QtCore import QPoint, QStringListModel
from PyQt6.QtWidgets import QApplication, QLabel, QListView, QMenu, QWidget

from culvix.app.shell.parts.words_menu import lines_around, words_at, words_menu
from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from tests.app.driving import opened, rest


def middle(window: MainWindow, widget: QWidget) -> QPoint:
    return widget.mapTo(window, widget.rect().center())


def copied(menu: QMenu | None, words: str) -> tuple[str, str]:
    """What the clipboard has after the entry ``words``: plain and rich."""
    assert menu is not None
    (entry,) = [action for action in menu.actions() if action.text() == words]
    entry.trigger()
    clipboard = QApplication.clipboard()
    found = clipboard.mimeData() if clipboard is not None else None
    assert found is not None
    return found.text(), found.html()


def test_words_grids_and_lists_are_copied(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    rest(window)
    verdict = next(each for each in bench.shape.margin.findChildren(QLabel) if "not normal" in each.text().lower())
    place = middle(window, verdict)
    assert words_at(window, place) == verdict.text()
    plain, rich = copied(words_menu(window, place), "Copy these words")
    assert plain == verdict.text() and rich.startswith("<p>")
    mean = next(each for each in bench.shape.margin.summary.findChildren(QLabel) if each.text() == "mean")
    lines = lines_around(window, middle(window, mean))
    assert ["mean", "211.88"] in [line[:2] for line in lines] or ["mean", "211.88"] in [line[2:] for line in lines]
    plain, rich = copied(words_menu(window, middle(window, mean)), "Copy all these lines")
    assert "mean\t211.88" in plain and rich.count("<tr>") == len(lines) > 3
    window.acting.show_stage(STAGES.index("Relations"))
    rest(window)
    matrix = bench.relations.stage.matrix.chart
    plain, rich = copied(words_menu(window, middle(window, matrix)), "Copy all these lines")
    names, picture = matrix.picture.names, matrix.picture
    cells = [line.split("\t") for line in plain.splitlines()]
    assert cells[0] == ["", *names] and [line[0] for line in cells[1:]] == list(names) and rich.startswith("<table>")
    assert float(cells[1][3]) == picture.upper[0, 2] == float(cells[3][1]) and cells[2][2] == ""
    bench.relations.stage.show_view(1)
    rest(window)
    table = bench.relations.stage.table
    plain, _ = copied(words_menu(window, middle(window, table)), "Copy all these lines")
    assert plain.count("\n") == table.model().rowCount() and "length_mm\tfork_length_mm" in plain.replace(
        "fork_length_mm\tlength_mm", "length_mm\tfork_length_mm"
    )


def test_where_there_is_nothing_to_copy_there_is_no_menu(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    rest(window)
    assert words_menu(window, middle(window, bench.shape.stage.canvas)) is None


def test_the_words_of_a_plain_list_are_copied_too(window: MainWindow, demo_path: Path) -> None:
    opened(window, demo_path)
    rest(window)
    plain = QListView(window)
    plain.setModel(QStringListModel(["fry\x07", "parr"], plain))
    plain.resize(200, 100)
    plain.show()
    text, _ = copied(words_menu(window, middle(window, plain.viewport())), "Copy all these lines")
    assert text == "fry␇\nparr"
