"""Writing files: whole or not at all, never the source, permissions and links kept, nothing left behind."""

import os
import signal
import stat
import subprocess
import sys
from pathlib import Path

import polars as pl
import pytest

from culvix import files
from culvix.cli import main
from culvix.errors import WriteError
from culvix.files import display_path, is_same_file, remove_stale_files, write_whole
from culvix.report.formats.table_files import as_it_was, frame_file


@pytest.fixture(autouse=True)
def state(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> Path:
    folder = tmp_path_factory.mktemp("state")
    monkeypatch.setenv("XDG_STATE_HOME", str(folder))
    return folder


def parts(folder: Path) -> list[str]:
    return [path.name for path in folder.iterdir() if path.name.startswith(".culvix-")]


@pytest.mark.parametrize("link", ["itself", "symbolic", "hard", "another way"])
def test_the_source_is_never_written(link: str, tmp_path: Path) -> None:
    source = tmp_path / "t.csv"
    source.write_text("a,b\n1,2\n3,4\n")
    target = source
    if link == "symbolic":
        target = tmp_path / "soft.csv"
        target.symlink_to(source)
    elif link == "hard":
        target = tmp_path / "hard.csv"
        os.link(source, target)
    elif link == "another way":
        target = tmp_path / "x" / ".." / "t.csv"
        (tmp_path / "x").mkdir()
    assert is_same_file(source, target)
    with pytest.raises(WriteError, match="never written"):
        write_whole(target, b"gone", sources=[source])
    assert source.read_text().startswith("a,b") and not parts(tmp_path)


@pytest.mark.parametrize("command", ["profile", "inspect", "report"])
def test_no_command_writes_its_source(command: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    source = tmp_path / "t.csv"
    source.write_text("a,b\n1,2\n3,4\n5,7\n")
    before = source.read_bytes()
    assert main([command, str(source), "-o", str(source)]) == 2
    assert source.read_bytes() == before and capsys.readouterr().err.count("\n") == 1


def test_permissions_of_an_old_file_are_kept_and_new_ones_follow_the_mask(tmp_path: Path) -> None:
    old = tmp_path / "old"
    old.write_bytes(b"before")
    old.chmod(0o640)
    write_whole(old, b"after")
    assert stat.S_IMODE(old.stat().st_mode) == 0o640 and old.read_bytes() == b"after"
    before = os.umask(0o077)
    try:
        write_whole(tmp_path / "new", b"x")
    finally:
        os.umask(before)
    assert stat.S_IMODE((tmp_path / "new").stat().st_mode) == 0o600


def test_links_are_followed_and_long_names_fine(tmp_path: Path) -> None:
    there = tmp_path / "there"
    there.mkdir()
    link = tmp_path / "link"
    link.symlink_to(there / "file")
    write_whole(link, b"x")
    assert link.is_symlink() and (there / "file").read_bytes() == b"x"
    write_whole(tmp_path / ("y" * 255), b"x")
    with pytest.raises(WriteError) as refused:
        write_whole(tmp_path / ("y" * 300), b"x")
    assert len(refused.value.sentence) < 250


def test_devices_pipes_and_folders_are_refused_at_once(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    for target in (tmp_path / "pipe", Path("/dev/null"), tmp_path):
        with pytest.raises(WriteError):
            write_whole(target, b"x")
    assert stat.S_ISFIFO((tmp_path / "pipe").stat().st_mode)


def test_a_disk_that_is_full_leaves_the_old_file_as_it_was(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    target = tmp_path / "t"
    target.write_bytes(b"before")

    def full(handle: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(files.os, "fsync", full)
    with pytest.raises(WriteError, match="no space left"):
        write_whole(target, b"after")
    assert target.read_bytes() == b"before" and not parts(tmp_path)


def test_what_a_process_that_died_left_is_taken_away_at_the_next_start(tmp_path: Path, state: Path) -> None:
    code = (
        "import os, sys\nfrom pathlib import Path\nfrom culvix import files\n"
        "files.os.replace = lambda *_: os.kill(os.getpid(), 9)\n"
        f"files.write_whole(Path({str(tmp_path / 't')!r}), b'x' * 1000)\n"
    )
    died = subprocess.run([sys.executable, "-c", code], env={**os.environ, "XDG_STATE_HOME": str(state)}, check=False)
    assert died.returncode == -signal.SIGKILL and len(parts(tmp_path)) == 1
    assert remove_stale_files() == 1 and not parts(tmp_path) and remove_stale_files() == 0


def test_a_request_to_end_leaves_nothing_half_written(tmp_path: Path, state: Path) -> None:
    source, out = tmp_path / "t.csv", tmp_path / "o.json"
    source.write_text("a,b\n" + "".join(f"{k},{k % 7}\n" for k in range(3000)))
    code = (
        "import os, signal, sys\nfrom culvix.cli import main\n"
        "from culvix.report.documents import profile_extras as extras\n"
        "simulate = extras.monte_carlo_normality\n"
        "def asked(*args, **how):\n    os.kill(os.getpid(), signal.SIGTERM)\n    return simulate(*args, **how)\n"
        "extras.monte_carlo_normality = asked\nsys.exit(main(sys.argv[1:]))\n"
    )
    command = [sys.executable, "-c", code, "profile", str(source), "-o", str(out), "--with", "monte_carlo"]
    command += ["--repeats", "900000"]
    ended = subprocess.run(command, capture_output=True, env={**os.environ, "XDG_STATE_HOME": str(state)}, check=False)
    assert ended.returncode == 130 and ended.stderr.decode().strip() == "culvix: stopped; nothing was written."
    assert not out.exists() and not parts(tmp_path)


def test_names_that_are_no_text_can_be_shown_and_written_down(tmp_path: Path) -> None:
    odd = Path(os.fsdecode(os.fsencode(tmp_path) + b"/f\xff.csv"))
    odd.write_text("a,b\n1,2\n3,4\n5,7\n")
    assert display_path(odd).encode() and "\ufffd" in display_path(odd)
    for command in ("profile", "inspect", "report"):
        assert main([command, str(odd), "-o", str(tmp_path / f"{command}.html")]) == 0


@pytest.mark.parametrize("start", ["=", "＝", "+", "＋", "-", "－", "@", "＠", "\t"])
def test_no_cell_of_delimited_text_is_a_formula(start: str) -> None:
    frame = pl.DataFrame({f"{start}head": [f"{start}1+1", "plain", "'quoted"]})
    lines = frame_file(frame, ".csv").decode().splitlines()
    cells = [line.strip('"') for line in lines]
    assert cells == [f"'{start}head", f"'{start}1+1", "plain", "''quoted"]
    assert [as_it_was(cell) for cell in cells[1:]] == [f"{start}1+1", "plain", "'quoted"]
