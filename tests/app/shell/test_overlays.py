"""Remarks, failures and questions stand over the page: nothing that is to be clicked moves for them."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton, QWidget

from culvix.app.shell.parts import overlays
from culvix.app.shell.parts.overlays import Banner, Remark
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from tests.app.driving import opened

LEFT = Qt.MouseButton.LeftButton
LONG = "A sentence that is longer than any window is wide, so that it needs several lines to be read. " * 4


@pytest.fixture
def page(qtbot: object) -> QWidget:
    """A page with a strip at its head and a button at its foot."""
    made = QWidget()
    made.resize(700, 400)
    made.strip = QWidget(made)
    made.strip.setGeometry(0, 0, 700, 36)
    made.button = QPushButton("below", made)
    made.button.setGeometry(100, 350, 500, 44)
    made.show()
    qtbot.addWidget(made)
    return made


def test_nothing_of_the_page_moves_for_a_message(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    before = bench.mapTo(window, QPoint()), bench.size()
    for say in (window.context.complain, window.context.tell):
        say(LONG)
        assert (bench.mapTo(window, QPoint()), bench.size()) == before
        assert window.text == LONG or window.banner.isVisible()


@pytest.mark.parametrize("sentence", ["Short.", LONG])
def test_a_message_stands_within_the_page_and_is_read_whole(page: QWidget, sentence: str) -> None:
    banner, remark = Banner(page, page.strip), Remark(page)
    banner.offer(sentence, [("One way", lambda: None), ("Another", lambda: None)])
    remark.say(sentence)
    for _ in range(2):
        for overlay in (banner, remark):
            assert page.rect().contains(overlay.geometry())
            text = overlay.text
            needed = text.heightForWidth(text.width()) if text.wordWrap() else text.sizeHint().height()
            assert text.height() >= needed
        assert banner.geometry().top() > page.strip.geometry().bottom()
        page.resize(900, 500)
        assert banner.width() > 800, "it follows the page"


def test_a_remark_leaves_by_itself(page: QWidget, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(overlays, "SECONDS_SHOWN", 0)
    remark = Remark(page)
    remark.say("29 lines copied.")
    assert wait_until(lambda: not remark.isVisible(), 10)


def test_what_lies_below_a_remark_can_be_clicked(page: QWidget) -> None:
    clicked: list[bool] = []
    page.button.clicked.connect(lambda: clicked.append(True))
    remark = Remark(page)
    remark.say("29 lines copied.")
    at = remark.geometry().center()
    assert page.button.geometry().contains(at)
    under = page.childAt(at)
    assert under is page.button
    QTest.mouseClick(under, LEFT)
    assert clicked == [True]


def test_a_remark_with_something_to_do_about_it_can_be_clicked_itself(page: QWidget) -> None:
    done: list[bool] = []
    remark = Remark(page)
    remark.say("The report is saved.", "Open it", lambda: done.append(True))
    QTest.mouseClick(remark.action, LEFT)
    remark.say("Something else.")
    assert done == [True] and not remark.action.isVisible()


def test_red_is_for_failures(page: QWidget) -> None:
    banner = Banner(page, page.strip)
    banner.offer("It cannot be written.", [])
    assert banner.property("asks") is False
    banner.offer("Take it over?", [("Take it over", lambda: None)])
    assert banner.property("asks") is True
