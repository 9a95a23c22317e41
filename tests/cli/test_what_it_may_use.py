"""The process and what it may use: its import path, memory, files, an early interruption."""

import os
import resource
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from culvix.cli import main

COMMAND = [sys.executable, "-P", "-m", "culvix"]
Done = subprocess.CompletedProcess[str]
LAUNCHER = Path(__file__).parents[2] / "culvix"


def _run(
    folder: Path, command: list[str], limit: Callable[[], None] | None = None
) -> "subprocess.CompletedProcess[str]":
    return subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False, preexec_fn=limit)


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "x.csv").write_text("a,b\n1,2\n3,4\n5,9\n")
    return tmp_path


def test_nothing_is_imported_from_the_folder_of_the_data(folder: Path) -> None:
    for name in ("csv", "json", "platformdirs", "multiprocessing", "numpy", "signal", "pip", "venv"):
        (folder / f"{name}.py").write_text("open('ran', 'w')\nraise SystemExit(7)\n")
    done = _run(folder, [str(LAUNCHER), "report", "x.csv", "-o", "out.html"])
    assert done.returncode == 0 and not (folder / "ran").exists(), done.stderr


@pytest.mark.parametrize(
    ("kind", "most", "words"),
    [
        (resource.RLIMIT_AS, 400 << 20, "memory"),
        (resource.RLIMIT_AS, 1 << 30, "memory"),
        (resource.RLIMIT_NOFILE, 64, "files"),
    ],
)
def test_too_little_of_something_is_told_in_a_line(folder: Path, kind: int, most: int, words: str) -> None:
    done = _run(folder, [*COMMAND, "inspect", "x.csv", "-o", "o.json"], lambda: resource.setrlimit(kind, (most, most)))
    assert done.returncode == 2 and done.stderr.count("\n") == 1 and words in done.stderr


@pytest.mark.parametrize("milliseconds", [1, 10, 30, 60, 100])
def test_an_interruption_at_the_start_ends_with_a_line(folder: Path, milliseconds: int) -> None:
    process = subprocess.Popen(
        ["env", "--block-signal=INT", *COMMAND, "report", "x.csv", "-o", "o.html"], cwd=folder, stderr=subprocess.PIPE
    )
    time.sleep(milliseconds / 1000)
    process.send_signal(signal.SIGINT)
    _, words = process.communicate(timeout=60)
    assert (process.returncode, words) == (130, b"culvix: stopped; nothing was written.\n")


@pytest.mark.parametrize("command", ["report", "inspect", "profile", "clean", "verify", "whole", "sample", "apply", ""])
@pytest.mark.parametrize("text", ["ann:Xhush/Qtail@host/db", "host=h password=Xhush", "postgresql://ann:Xhu#sh@[::1/x"])
def test_an_address_in_the_place_of_a_file_is_not_repeated(
    folder: Path, command: str, text: str, capsys: pytest.CaptureFixture[str]
) -> None:
    out = ["-o", str(folder / "out.json")] if command and command != "verify" else []
    try:
        status = main([*([command] if command else []), text, *out])
    except SystemExit as ended:
        status = int(ended.code or 0)
    words = capsys.readouterr().err
    assert status == 2 and words.count("\n") == 1 and "Xhu" not in words and "Qtail" not in words, words


def test_names_of_thousands_of_letters_are_told_in_a_line(folder: Path) -> None:
    for arguments in (
        ["n" * 5000],
        ["report", "n" * 5000, "-o", "x.html"],
        ["report", "x.csv", "-o", "n" * 5000 + ".html"],
    ):
        done = _run(folder, [*COMMAND, *arguments])
        assert done.returncode == 2 and done.stderr.count("\n") == 1 and len(done.stderr) < 600


def test_what_is_remembered_is_listed_and_erased(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for kind in ("STATE", "CACHE", "DATA", "CONFIG"):
        monkeypatch.setenv(f"XDG_{kind}_HOME", str(folder / kind))
    pasted = folder / "DATA/culvix/pasted"
    pasted.mkdir(parents=True)
    for name, age in (("old.tsv", 30), ("new.tsv", 0)):
        (pasted / name).write_text("a\n1\n")
        os.utime(pasted / name, (time.time() - age * 86400,) * 2)
    listed = _run(folder, [*COMMAND, "remembered"]).stdout
    assert ["pasted", "2"] in [line.split()[:2] for line in listed.splitlines()] and len(listed.splitlines()) == 6
    assert "1 thing erased" in _run(folder, [*COMMAND, "remembered", "--erase", "pasted", "--older-than", "7"]).stdout
    assert [each.name for each in pasted.iterdir()] == ["new.tsv"]
    assert "1 thing erased" in _run(folder, [*COMMAND, "remembered", "--erase", "all"]).stdout
    assert list(pasted.iterdir()) == [] and (folder / "x.csv").exists()
    assert _run(folder, [*COMMAND, "remembered", "--older-than", "7"]).returncode == 2


def test_without_a_home_the_desktop_entry_is_refused(folder: Path) -> None:
    environment = {name: value for name, value in os.environ.items() if name not in ("HOME", "XDG_DATA_HOME")}
    done = subprocess.run(
        [*COMMAND, "desktop", "--install"], env=environment, capture_output=True, text=True, check=False
    )
    assert done.returncode == 2 and "HOME" in done.stderr
