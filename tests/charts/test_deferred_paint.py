"""A view that is painted later: what was on the screen stays there, and nothing of what lies under it shows."""

import pyqtgraph as pg
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtWidgets import QApplication, QGraphicsRectItem, QHBoxLayout, QWidget
from pytestqt.qtbot import QtBot

from culvix.charts.items.deferred_paint import DeferredPaintView
from culvix.charts.palette import LIGHT

GROUND, BEFORE, AFTER = (QColor(shade) for shade in (LIGHT.panel, LIGHT.data, LIGHT.flagged))


def on_screen(window: QWidget) -> QColor:
    """What is to be seen in the middle of ``window`` now, without painting it anew."""
    QApplication.processEvents()
    screen = window.screen()
    assert screen is not None
    image: QImage = screen.grabWindow(window.winId()).toImage()
    return image.pixelColor(image.rect().center())


def test_a_held_view_keeps_what_it_showed_until_it_is_let_go(qtbot: QtBot) -> None:
    window, view = QWidget(), DeferredPaintView()
    qtbot.addWidget(window)
    layout = QHBoxLayout(window)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.addWidget(view)
    block = QGraphicsRectItem(-1e4, -1e4, 2e4, 2e4)
    block.setPen(pg.mkPen(None))
    block.setBrush(BEFORE)
    view.addItem(block)
    window.resize(200, 120)
    window.show()
    qtbot.waitExposed(window)
    qtbot.waitUntil(lambda: on_screen(window) == BEFORE)
    view.hold_painting()
    block.setBrush(AFTER)
    view.viewport().update()
    assert view.painting_pending and on_screen(window) == BEFORE, "what was painted last stays"
    view.hide()
    window.setStyleSheet("background: #00FF00")
    view.show()
    assert on_screen(window) == GROUND, "where nothing is left of it, the ground, and never what lies under it"
    view.paint_deferred()
    assert not view.painting_pending and on_screen(window) == AFTER
    view.hold_painting()
    window.resize(240, 160)
    assert on_screen(window) == GROUND, "at another size it is no longer the same picture"
    view.paint_deferred()
    assert on_screen(window) == AFTER


def test_it_tells_of_sizes_that_a_layout_gives_and_not_of_those_a_hand_pulls_at(qtbot: QtBot) -> None:
    window, view, beside = QWidget(), DeferredPaintView(), QWidget()
    qtbot.addWidget(window)
    layout = QHBoxLayout(window)
    layout.addWidget(view)
    layout.addWidget(beside)
    beside.setFixedWidth(50)
    window.resize(300, 120)
    window.show()
    qtbot.waitExposed(window)
    QApplication.processEvents()
    told: list[int] = []
    view.laid_out.connect(lambda: told.append(view.width()))
    beside.hide()
    QApplication.processEvents()
    assert told and told[-1] == view.width()
    told.clear()
    window.resize(340, 140)
    QApplication.processEvents()
    assert not told
