"""The real program, started by the launcher under a virtual X server, and a picture of its screen."""

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtGui import QImage

ROOT = Path(__file__).parents[3]

TAKE_PICTURE = """
import sys
from PyQt6.QtGui import QGuiApplication
application = QGuiApplication([])
application.primaryScreen().grabWindow(0).save(sys.argv[1])
"""


@pytest.fixture
def display() -> Iterator[str]:
    server = shutil.which("Xvfb")
    assert server, "Xvfb is needed; ./culvix test installs it"
    reader, writer = os.pipe()
    process = subprocess.Popen(
        [server, "-displayfd", str(writer), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[writer],
        stderr=subprocess.DEVNULL,
    )
    os.close(writer)
    with os.fdopen(reader) as lines:
        yield f":{lines.readline().strip()}"
    process.terminate()
    process.wait(10)


def colours(picture: QImage) -> set[str]:
    """Colours found on a coarse grid over the picture."""
    return {
        picture.pixelColor(x, y).name().upper()
        for x in range(0, picture.width(), 4)
        for y in range(0, picture.height(), 4)
    }


def test_the_launcher_opens_the_demo_on_a_screen(display: str, tmp_path: Path) -> None:
    environment = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY")}
    environment |= {"DISPLAY": display, "HOME": str(tmp_path)}
    program = subprocess.Popen(
        [str(ROOT / "culvix"), "demo"], cwd=tmp_path, env=environment, stderr=subprocess.PIPE, start_new_session=True
    )
    shot = tmp_path / "screen.png"
    wanted = {"#F4F1EA", "#FBFAF6"}
    deadline = time.monotonic() + 60
    seen: set[str] = set()
    try:
        while time.monotonic() < deadline and program.poll() is None:
            subprocess.run([sys.executable, "-c", TAKE_PICTURE, str(shot)], env=environment, check=True, timeout=60)
            seen = colours(QImage(str(shot)))
            # Ground and panels, and with the lanes drawn many blends of the data colour besides.
            if wanted <= seen and len(seen) > 60:
                break
            time.sleep(0.5)
    finally:
        os.killpg(program.pid, signal.SIGTERM)
        _, errors = program.communicate(timeout=20)
    assert wanted <= seen and len(seen) > 60, errors.decode()
    assert b"Traceback" not in errors
    assert (tmp_path / "culvix-demo" / "spring_cohort.csv").exists()


def test_a_later_start_skips_the_set_up() -> None:
    """Where the set-up is done, the launcher itself takes less than a tenth of a second."""
    best = 10.0
    for _ in range(3):
        begun = time.monotonic()
        subprocess.run(["bash", "-c", f"exec() {{ exit 0; }}; set -- --version; . '{ROOT}/culvix'"], check=True)
        best = min(best, time.monotonic() - begun)
    assert best < 0.1
