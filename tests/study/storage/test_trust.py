"""Study files made to harm: each is refused or read, and nothing is written, followed, deleted or run."""

import hashlib
import json
import os
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
import zstandard

from culvix.errors import ReadError, WriteError
from culvix.places import cache_folder
from culvix.study import DecisionKind, Study
from culvix.study.carrying.fingerprint import fingerprint_of
from culvix.study.storage.listing import study_summaries
from culvix.study.storage.reopening import reopen
from culvix.study.storage.salvage import salvage
from culvix.study.storage.study_file import StudyFile, write_study_copy
from culvix.study.storage.study_reading import read_study
from culvix.tables import read_table

JOURNAL_MARK = b"\xd9\xd5\x05\xf9\x20\xa1\x63\xd7"


@pytest.fixture
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A home of its own, in which every file but those of the program is precious."""
    for kind in ("STATE", "CACHE", "DATA", "CONFIG"):
        monkeypatch.setenv(f"XDG_{kind}_HOME", str(tmp_path / "home" / kind))
    (tmp_path / "home").mkdir()
    (tmp_path / "home/.bashrc").write_text("precious")
    return tmp_path / "home"


@pytest.fixture
def path(tmp_path: Path, home: Path) -> Path:
    """A study with its table in it, whose table is nowhere else."""
    table = tmp_path / "fish.csv"
    table.write_text("tag,mass\n" + "".join(f"F{n},{n * n / 7:.2f}\n" for n in range(60)))
    study = Study.of_table(read_table(table))
    for row in range(5):
        study.decide(DecisionKind.KEEP, "mass", [row], reason=f"looked at {row}")
    path = tmp_path / "fish.culvix"
    write_study_copy(path, study.history, study.table.source.sha256, fingerprint_of(study.table), table)
    table.unlink()
    return path


def _tampered(path: Path, *statements: str) -> None:
    with closing(sqlite3.connect(path, isolation_level=None)) as connection:
        for statement in statements:
            connection.execute(statement)


def _files(folder: Path) -> dict[str, str]:
    found = (each for each in folder.rglob("*") if not each.is_dir() or each.is_symlink())
    return {str(each.relative_to(folder)): hashlib.sha256(each.read_bytes()).hexdigest() for each in found}


def _precious(home: Path) -> bool:
    return (home / ".bashrc").read_text() == "precious" and {each.name for each in home.iterdir()} <= {
        *(".bashrc", "STATE", "CACHE", "DATA", "CONFIG")
    }


@pytest.mark.parametrize("digest", ["../../..", "/", "0" * 63, "A" * 64, "", "../" * 20 + "0" * 4])
def test_a_checksum_is_a_checksum_and_never_a_part_of_a_path(path: Path, home: Path, digest: str) -> None:
    _tampered(path, f"UPDATE about SET value = '{digest}' WHERE key = 'source_sha256'")
    if digest:
        with pytest.raises(ReadError, match="64 hexadecimal"):
            reopen(path)
    else:
        assert reopen(path).table.source.path.is_relative_to(cache_folder())
    assert _precious(home)


@pytest.mark.parametrize("name", ["/etc/x", "../../.bashrc", ".bashrc", "..", "", "x" * 5000, "a\x00b", "ü\n.csv"])
def test_the_name_of_a_source_is_no_place(path: Path, home: Path, name: str) -> None:
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute("UPDATE about SET value = ? WHERE key = 'source_name'", (name,))
    source = reopen(path).table.source.path
    assert source.parent.parent == cache_folder() / "sources" and not source.name.startswith(".") and _precious(home)


def test_the_checksum_is_looked_at_before_anything_is_in_place(path: Path, home: Path) -> None:
    _tampered(path, f"UPDATE about SET value = '{'0' * 64}' WHERE key = 'source_sha256'")
    with pytest.raises(ReadError, match="checksum"):
        reopen(path)
    assert [each for each in (cache_folder() / "sources").rglob("*") if each.is_file()] == []


def test_what_is_there_already_is_neither_replaced_nor_followed(path: Path, home: Path) -> None:
    first = reopen(path).table.source.path
    assert reopen(path).table.source.path == first
    first.unlink()
    first.symlink_to(home / ".bashrc")
    second = reopen(path).table.source.path
    assert second != first and first.is_symlink() and _precious(home)


@pytest.mark.parametrize(
    "statement",
    [
        "CREATE TRIGGER acts AFTER INSERT ON about BEGIN DELETE FROM acts; END",
        "CREATE TRIGGER t AFTER UPDATE ON about BEGIN DELETE FROM acts; END",
        "CREATE VIEW more AS SELECT * FROM acts",
        "CREATE TABLE more (a)",
        "CREATE INDEX i ON acts (label)",
    ],
)
def test_whatever_else_is_in_the_schema_is_never_run(path: Path, statement: str) -> None:
    history = read_study(path)
    _tampered(path, statement)
    with pytest.raises(ReadError):
        reopen(path)
    with pytest.raises((ReadError, WriteError)):
        StudyFile.open(path, history)
    found = salvage(path)
    assert len(found.history.labels) == 5 and "left alone" in found.sentence


def test_a_trigger_that_comes_later_is_not_run_either(path: Path) -> None:
    history = read_study(path)
    file = StudyFile.open(path, history)
    _tampered(path, "CREATE TRIGGER t AFTER INSERT ON about BEGIN DELETE FROM acts; END")
    with pytest.raises(WriteError):
        file.put_source("0" * 64)
    file.close()
    assert len(salvage(path).history.labels) == 5


@pytest.mark.parametrize("ending", ["-journal", "-wal", "-shm"])
@pytest.mark.parametrize("target", ["/dev/zero", "pipe", ".bashrc", "nowhere"])
def test_what_lies_beside_a_study_is_not_followed(path: Path, home: Path, ending: str, target: str) -> None:
    history, beside = read_study(path), path.with_name(path.name + ending)
    if target == "pipe":
        os.mkfifo(beside)
    else:
        beside.symlink_to(home / target if not target.startswith("/") else target)
    if ending != "-shm":
        with pytest.raises(ReadError, match="no part of it"):
            reopen(path)
    with pytest.raises(ReadError, match="no part of it"):
        StudyFile.open(path, history)
    assert list(study_summaries([path])) == [] or ending == "-shm"
    assert _precious(home)


def test_a_journal_that_names_another_file_deletes_nothing(path: Path, home: Path) -> None:
    name = os.fsencode(home / ".bashrc")
    tail = len(name).to_bytes(4, "big") + sum(name).to_bytes(4, "big") + JOURNAL_MARK
    journal = JOURNAL_MARK + (0).to_bytes(4, "big") + b"\0" * 8 + (0).to_bytes(4, "big")
    journal += (512).to_bytes(4, "big") + (4096).to_bytes(4, "big")
    path.with_name("fish.culvix-journal").write_bytes(journal.ljust(512, b"\0") + b"\0\0\0\0" + name + tail)
    history_before = path.read_bytes()
    with pytest.raises(ReadError, match="names other files"):
        reopen(path)
    assert path.read_bytes() == history_before and _precious(home)


def test_reading_a_study_with_a_log_leaves_nothing_beside_it(path: Path, tmp_path: Path) -> None:
    _tampered(path, "PRAGMA journal_mode = WAL")
    before = _files(tmp_path)
    assert len(reopen(path).history.labels) == 5
    after = {name: digest for name, digest in _files(tmp_path).items() if not name.startswith("home/")}
    assert after == {name: digest for name, digest in before.items() if not name.startswith("home/")}


def test_a_table_that_unpacks_to_far_more_than_it_takes_is_not_unpacked(path: Path) -> None:
    packed = zstandard.ZstdCompressor(level=19).compress(b"0" * (1 << 28))
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute("DELETE FROM source")
        connection.execute("INSERT INTO source VALUES (0, ?)", (packed,))
    with pytest.raises(ReadError, match="damaged"):
        reopen(path)
    origin = {"uri": "file:///nowhere.csv", "size": 1 << 28}
    reading = json.dumps({"origin": origin, "dictionary": {}})
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute("UPDATE about SET value = ? WHERE key = 'reading'", (reading,))
        connection.execute("UPDATE beginning SET json = ? WHERE section = 'origin'", (json.dumps(origin),))
    with pytest.raises(ReadError, match="far larger"):
        reopen(path)


@pytest.mark.parametrize(
    "patch",
    [
        '[{"op": "replace", "path": "", "value": 7}]',
        '[{"op": "remove", "path": "/name"}]',
        '[{"op": "add", "path": 7, "value": 7}]',
        "[" * 100_000,
        '[{"op": "add", "path": "/decisions/-", "value": {"kind": "keep", "column": "mass", "rows": [9]}}]',
    ],
)
def test_an_act_that_makes_no_sense_is_told_in_a_sentence(path: Path, patch: str) -> None:
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute("UPDATE acts SET patch = ? WHERE position = 4", (patch,))
    with pytest.raises(ReadError):
        reopen(path)


def test_a_decision_on_a_row_that_the_table_has_not_is_refused(path: Path) -> None:
    with closing(sqlite3.connect(path)) as connection, connection:
        (patch,) = connection.execute("SELECT patch FROM acts WHERE position = 4").fetchone()
        operations = json.loads(patch)
        operations[0]["value"]["rows"] = [60]
        connection.execute("UPDATE acts SET patch = ? WHERE position = 4", (json.dumps(operations),))
    with pytest.raises(ReadError, match="row 61 of a table of 60 rows"):
        reopen(path)


@pytest.mark.parametrize("uri", ["file://[::1/x", "file:///" + "n" * 5000, "file:///a%00b", "nonsense"])
def test_an_origin_that_is_no_place_of_a_file_is_told(path: Path, uri: str) -> None:
    origin = {"uri": uri, "size": 5}
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute("DELETE FROM source")
        connection.execute("DELETE FROM about WHERE key = 'reading'")
        connection.execute("UPDATE beginning SET json = ? WHERE section = 'origin'", (json.dumps(origin),))
    with pytest.raises(ReadError):
        reopen(path)


def test_a_time_without_a_zone_is_one_of_utc(path: Path) -> None:
    _tampered(path, "UPDATE about SET value = '2026-11-01T10:00:00' WHERE key = 'saved'")
    (found,) = study_summaries([path])
    assert found.saved.isoformat() == "2026-11-01T10:00:00+00:00"
