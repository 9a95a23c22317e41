"""What has been done stays whole whatever is left, undone or typed meanwhile."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtTest import QTest

from culvix.app.shape.views import VIEWS
from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.stats.shape.transform import Scale
from culvix.study.analysis.result_cache import PartCache, size_of
from culvix.study.document.decisions import DecisionKind
from tests.app.driving import opened, rest, wait_until_idle

LENGTH = "length_mm"


@pytest.fixture
def other(tmp_path: Path) -> Path:
    path = tmp_path / "other.csv"
    path.write_text("depth,flow\n" + "".join(f"{k}.5,{k * k}\n" for k in range(30)))
    return path


def test_a_column_undone_while_it_is_compared_is_only_left_out(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    name = study.derive(LENGTH, Scale("standard"))
    bench.hub.set_focus(LENGTH)
    window.acting.show_view(list(VIEWS).index("Several columns"))
    wait_until_idle(window)
    view = bench.shape.stage.views.several
    view.compare([LENGTH, name, "mass_g"])
    wait_until_idle(window)
    assert name in view.names
    QTest.keySequence(window, "Ctrl+Z")
    bench.hub.set_focus("swim_cm_s")
    wait_until_idle(window)
    assert name not in study.table and "fault" not in window.text and name not in view.names


def test_relations_come_though_a_column_has_no_values_left(window: MainWindow, other: Path) -> None:
    bench, study = opened(window, other)
    study.derive("depth", Scale("standard"))
    study.decide(DecisionKind.CORRECT, "depth", range(30), value=7.0)
    window.acting.show_stage(STAGES.index("Relations"))
    wait_until_idle(window)
    study.decide(DecisionKind.EXCLUDE_VALUE, "depth", range(30))
    wait_until_idle(window)
    assert "fault" not in window.text and bench.hub.relations is not None


def test_a_bin_width_beyond_all_values_is_refused_or_drawn(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    for typed in ("1e308", "1e-308", "1e30"):
        bench.shape.stage.bin_width.setText(typed)
        bench.shape.stage.bin_width.editingFinished.emit()
        rest(window)
        assert "fault" not in window.text


def test_a_cache_of_parts_keeps_the_latest_and_gives_the_first_made() -> None:
    cache = PartCache(most=3, least=1)
    made = [cache.part(("a", k), lambda k=k: np.array([k])) for k in range(3)]
    assert cache.part(("a", 0), lambda: np.array([9])) is made[0]
    cache.part(("a", 3), lambda: np.array([3]))
    assert len(cache) == 3 and cache.part(("a", 1), lambda: np.array([8]))[0] == 8, "the one used least was let go"
    assert cache.part(("a", 0), lambda: np.array([7])) is made[0]


def test_a_cache_of_parts_keeps_to_its_bytes_but_never_less_than_a_state() -> None:
    cache = PartCache(budget=10_000, most=100, least=5)
    for k in range(30):
        cache.part(k, lambda: {"values": np.zeros(250), "of": (np.zeros(250), "words")})
    assert len(cache) == 5, "each takes 4 kB, so that two would fill it"
    small = PartCache(budget=10_000, most=100, least=5)
    for k in range(30):
        small.part(k, lambda: np.zeros(10))
    assert len(small) == 30
    assert size_of({"a": np.zeros(100), "b": [np.zeros(50)]}) == pytest.approx(1200, abs=300)
