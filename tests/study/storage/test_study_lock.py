"""A study is open in one window at a time, however that ends."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from culvix.study.storage.study_lock import StudyLock


@pytest.fixture(autouse=True)
def state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    return tmp_path / "state"


def test_a_second_window_does_not_get_the_study(tmp_path: Path) -> None:
    path = tmp_path / "june.culvix"
    lock = StudyLock.take(path)
    assert lock is not None and StudyLock.take(path) is None and not StudyLock.is_free(path)
    assert StudyLock.take(tmp_path / "july.culvix") is not None
    lock.release()
    lock.release()
    assert StudyLock.is_free(path)


def test_a_link_leads_to_the_same_study(tmp_path: Path) -> None:
    path, link = tmp_path / "june.culvix", tmp_path / "link.culvix"
    path.touch()
    os.symlink(path, link)
    lock = StudyLock.take(path)
    assert lock is not None and StudyLock.take(link) is None


def test_a_program_that_died_holds_nothing(tmp_path: Path) -> None:
    ask = "from culvix.study.storage.study_lock import StudyLock; import os, sys; from pathlib import Path; "
    ask += "assert StudyLock.take(Path(sys.argv[1])) is not None; os._exit(9)"
    environment = {**os.environ, "XDG_STATE_HOME": str(tmp_path / "state")}
    subprocess.run([sys.executable, "-c", ask, str(tmp_path / "june.culvix")], env=environment, check=False)
    assert StudyLock.is_free(tmp_path / "june.culvix")


def test_without_a_state_folder_every_window_may_write(state: Path, tmp_path: Path) -> None:
    state.write_text("a file stands where the folder should")
    assert StudyLock.take(tmp_path / "june.culvix") is not None
    assert StudyLock.is_free(tmp_path / "june.culvix")
