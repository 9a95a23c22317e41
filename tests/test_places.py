import os
import stat
import subprocess
import sys
from pathlib import Path

import pytest

from culvix.errors import ReadError
from culvix.files import open_regular, read_whole, remove_stale_files, write_private, write_whole
from culvix.places import (
    cache_folder,
    make_private,
    mend_permissions,
    owner_mark,
    remove_stale_scratch,
    scratch_folder,
    state_folder,
)


@pytest.fixture(autouse=True)
def own(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Folders of its own for the program."""
    for kind in ("STATE", "CACHE", "DATA", "CONFIG"):
        monkeypatch.setenv(f"XDG_{kind}_HOME", str(tmp_path / kind))
    return tmp_path


def _mode(path: Path) -> int:
    return stat.S_IMODE(os.lstat(path).st_mode)


def test_what_is_the_programs_own_is_for_its_owner_alone(own: Path) -> None:
    write_private(state_folder() / "drafts" / "one", b"1")
    assert [_mode(path) for path in (state_folder(), state_folder() / "drafts", state_folder() / "drafts/one")] == [
        0o700,
        0o700,
        0o600,
    ]


def test_what_an_earlier_version_left_open_is_closed_and_links_are_not_followed(own: Path) -> None:
    elsewhere = own / "elsewhere"
    elsewhere.write_text("1")
    elsewhere.chmod(0o644)
    folder = state_folder() / "drafts"
    folder.mkdir(parents=True)
    (folder / "one").write_text("1")
    (folder / "link").symlink_to(elsewhere)
    for path, mode in ((state_folder(), 0o755), (folder, 0o755), (folder / "one", 0o644)):
        path.chmod(mode)
    mend_permissions()
    assert (_mode(state_folder()), _mode(folder), _mode(folder / "one"), _mode(elsewhere)) == (
        0o700,
        0o700,
        0o600,
        0o644,
    )


def test_a_link_in_the_place_of_a_folder_is_not_followed(own: Path) -> None:
    (own / "elsewhere").mkdir()
    state_folder().mkdir(parents=True)
    (state_folder() / "drafts").symlink_to(own / "elsewhere")
    with pytest.raises(OSError, match="something other"):
        make_private(state_folder() / "drafts")


def test_a_temporary_folder_goes_with_its_context_and_after_a_kill_with_the_next_start(own: Path) -> None:
    with scratch_folder() as folder:
        assert _mode(folder) == 0o700 and folder.parent == cache_folder() / "scratch"
        left = subprocess.run(
            [sys.executable, "-c", "import os\nfrom culvix.places import scratch_folder\n"
             "context = scratch_folder()\nprint(context.__enter__(), flush=True)\nos.kill(os.getpid(), 9)"],
            capture_output=True,
            text=True,
            check=False,
        ).stdout.strip()  # fmt: skip
        assert Path(left).is_dir()
        remove_stale_scratch()
        assert not Path(left).exists() and folder.exists()
    assert not folder.exists()


def test_what_a_killed_process_was_writing_is_taken_away_at_the_next_start(own: Path) -> None:
    target = own / "report.html"
    code = (
        "import os\nfrom pathlib import Path\nfrom culvix.files import write_by\n"
        f"write_by(Path({str(target)!r}), lambda path: os.kill(os.getpid(), 9))"
    )
    subprocess.run([sys.executable, "-c", code], check=False)
    assert len(list(own.glob(".culvix-*"))) == 1
    remove_stale_files()
    assert not list(own.glob(".culvix-*")) and not target.exists()


def test_a_note_names_no_other_file_than_those_that_are_written(own: Path) -> None:
    precious = own / "precious"
    precious.write_text("1")
    notes = make_private(state_folder() / "writing")
    (notes / "999999999.1-x").write_bytes(os.fsencode(precious))
    remove_stale_files()
    assert precious.exists() and not list(notes.iterdir())


def test_marks_of_processes_differ_in_when_they_began() -> None:
    number, _, began = owner_mark().partition(".")
    assert int(number) == os.getpid() and began.isdecimal()


@pytest.mark.parametrize("make", [os.mkfifo, os.mkdir])
def test_only_regular_files_are_opened(tmp_path: Path, make: "type[os.PathLike[str]]") -> None:
    make(tmp_path / "odd")  # type: ignore[call-arg]
    with pytest.raises(ReadError):
        open_regular(tmp_path / "odd")


def test_a_link_is_followed_only_where_it_may_be(tmp_path: Path) -> None:
    write_whole(tmp_path / "file", b"1")
    (tmp_path / "link").symlink_to(tmp_path / "file")
    with open_regular(tmp_path / "link") as file:
        assert file.read() == b"1"
    with pytest.raises(ReadError):
        open_regular(tmp_path / "link", follow_links=False)


def test_no_more_is_read_than_was_asked_for(tmp_path: Path) -> None:
    with open(tmp_path / "long", "wb") as file:
        file.truncate(1 << 40)
    with pytest.raises(ReadError, match="longer than"):
        read_whole(tmp_path / "long", 1 << 20)
