"""Studies opened again: on their source, on one that moved or changed, on the one that stands in the file itself."""

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings

from culvix.errors import ReadError
from culvix.study import DecisionKind, Study
from culvix.study.carrying.fingerprint import fingerprint_of
from culvix.study.document.document_format import encode_document
from culvix.study.storage.reopening import (
    SourceChanged,
    SourceMissing,
    reopen,
    reopen_damaged,
    reopen_on_kept_source,
)
from culvix.study.storage.schema import FILE_VERSION, TABLES
from culvix.study.storage.study_file import StudyFile, write_study_copy
from culvix.study.storage.study_reading import DamagedStudy, read_study
from culvix.tables import Table
from tests.study.document.random_studies import Step, small_table, steps, taken
from tests.study.recipes.making import fish


def _stored(folder: Path, *, with_source: bool = False) -> Path:
    study = Study.of_table(fish(folder))
    study.decide(DecisionKind.EXCLUDE_VALUE, "weight_g", [3, 5])
    path, source = folder / "june.culvix", study.table.source
    kept = source.path if with_source else None
    write_study_copy(path, study.history, source.sha256, fingerprint_of(study.table), kept)
    return path


def _changed(folder: Path) -> None:
    path = folder / "fish.csv"
    path.write_text(path.read_text().replace("F005,", "F905,"))


def test_on_the_same_source_a_study_is_as_it_was(tmp_path: Path) -> None:
    study = reopen(_stored(tmp_path))
    assert study.decisions[0].rows.tolist() == [3, 5] and study.history.undoable is not None


def test_a_source_that_changed_is_told_and_can_be_taken_over(tmp_path: Path) -> None:
    path = _stored(tmp_path)
    _changed(tmp_path)
    before = path.read_bytes()
    with pytest.raises(SourceChanged) as changed:
        reopen(path)
    assert changed.value.sentence == (
        "fish.csv has changed since this study was kept. 200 rows where there were 200: 1 new and 1 gone, told apart "
        "by tag."
    )
    study = changed.value.taken_over()
    assert study.decisions[0].rows.tolist() == [3]
    assert [each.kind for each in study.document.discrepancies] == ["source", "decision"]
    assert path.read_bytes() == before


def test_a_source_that_moved_can_be_named(tmp_path: Path) -> None:
    path = _stored(tmp_path)
    (tmp_path / "elsewhere").mkdir()
    moved = (tmp_path / "fish.csv").rename(tmp_path / "elsewhere" / "catch.csv")
    with pytest.raises(SourceMissing):
        reopen(path)
    assert reopen(path, source=moved).decisions[0].rows.tolist() == [3, 5]


def test_a_study_with_its_source_in_it_travels_alone(tmp_path: Path) -> None:
    path = _stored(tmp_path, with_source=True)
    before = fish(tmp_path)["weight_g"].values.tolist()
    (tmp_path / "fish.csv").unlink()
    alone = path.rename(tmp_path / "alone.culvix")
    study = reopen(alone)
    assert study.table["weight_g"].values.tolist() == before and study.table.source.name == "fish.csv"


def test_what_is_in_the_study_is_there_where_the_source_changed(tmp_path: Path) -> None:
    path = _stored(tmp_path, with_source=True)
    _changed(tmp_path)
    with pytest.raises(SourceChanged) as changed:
        reopen(path)
    assert changed.value.has_kept_source
    assert "F005" in reopen_on_kept_source(path).table["tag"].text.to_list()


@pytest.mark.parametrize("damage", ["UPDATE source SET packed = x'00'", "DELETE FROM source WHERE position = 0"])
def test_a_damaged_source_in_a_study_is_refused(tmp_path: Path, damage: str) -> None:
    path = _stored(tmp_path, with_source=True)
    (tmp_path / "fish.csv").unlink()
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute(damage)
    with pytest.raises(ReadError):
        reopen(path)


@pytest.mark.parametrize(
    "damage",
    [
        "UPDATE checksums SET packed = x'00' WHERE position = 0",
        "UPDATE about SET value = '{}' WHERE key = 'fingerprint'",
        "UPDATE about SET value = '[' WHERE key = 'fingerprint'",
        "DELETE FROM checksums WHERE kind = 'blocks'",
        """UPDATE about SET value = '{"rows": 99999999999999, "names": [], "key": []}' WHERE key = 'fingerprint'""",
    ],
)
def test_a_damaged_fingerprint_is_refused(tmp_path: Path, damage: str) -> None:
    path = _stored(tmp_path)
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute(damage)
    _changed(tmp_path)
    with pytest.raises(ReadError) as refused:
        reopen(path)
    assert not isinstance(refused.value, SourceChanged)


# Damaged files


def test_what_can_be_read_of_a_damaged_study_is_given(tmp_path: Path) -> None:
    study = Study.of_table(fish(tmp_path))
    for row in range(6):
        study.decide(DecisionKind.KEEP, "weight_g", [row])
    study.sign("mo")
    path = tmp_path / "june.culvix"
    write_study_copy(path, study.history, study.table.source.sha256, fingerprint_of(study.table))
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute("UPDATE acts SET patch = '[{' WHERE position = 4")
        connection.execute("UPDATE aside SET json = '7' WHERE section = 'marks'")
    before = path.read_bytes()
    with pytest.raises(DamagedStudy):
        reopen(path)
    found, sentence = reopen_damaged(path)
    assert [each.rows.tolist() for each in found.decisions] == [[0], [1], [2], [3]]
    assert found.document.initials == "mo" and len(found.history.labels) == 4
    assert sentence == "june.culvix is damaged. 4 of 6 acts could be read; the file stays as it is."
    assert path.read_bytes() == before


def test_a_page_that_is_overwritten_costs_what_stood_on_it(tmp_path: Path) -> None:
    study = Study.of_table(fish(tmp_path))
    for row in range(200):
        study.decide(DecisionKind.KEEP, "weight_g", [row], reason="looked at " * 20)
    path = tmp_path / "june.culvix"
    write_study_copy(path, study.history, study.table.source.sha256, fingerprint_of(study.table))
    data = bytearray(path.read_bytes())
    at = data.find(b"looked at", len(data) // 2) // 4096 * 4096
    data[at : at + 4096] = bytes(4096)
    path.write_bytes(data)
    with pytest.raises(DamagedStudy):
        reopen(path)
    found, sentence = reopen_damaged(path)
    kept = len(found.decisions)
    assert 0 < kept < 200 and f"{kept} of 200 acts" in sentence
    assert [each.rows.tolist() for each in found.decisions] == [[row] for row in range(kept)]


@pytest.mark.parametrize("damage", ["DELETE FROM beginning", "UPDATE beginning SET json = '7'", "DROP TABLE aside"])
def test_without_a_beginning_nothing_can_be_read(tmp_path: Path, damage: str) -> None:
    path = _stored(tmp_path)
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute(damage)
    with pytest.raises(ReadError):
        reopen_damaged(path)


def test_a_study_of_a_million_sections_is_refused_at_once(tmp_path: Path) -> None:
    path = _stored(tmp_path)
    with closing(sqlite3.connect(path)) as connection, connection:
        rows = ((f"s{number}", "{}") for number in range(1_000_000))
        connection.executemany("INSERT INTO beginning VALUES (?, ?)", rows)
    with pytest.raises(ReadError, match="more sections than any study has"):
        reopen(path)


# Files of the version before


def _as_first_version(path: Path) -> None:
    """Make the file at ``path`` what the first version wrote."""
    with closing(sqlite3.connect(path)) as connection, connection:
        for name in TABLES[2].keys() - TABLES[1].keys():
            connection.execute(f"DROP TABLE {name}")
        connection.execute("DELETE FROM about WHERE key = 'fingerprint'")
        connection.execute("PRAGMA user_version = 1")


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    return small_table(tmp_path_factory.mktemp("versions"))


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(done=steps())
def test_any_study_of_the_version_before_is_read_and_gone_on_with(
    table: Table, tmp_path_factory: pytest.TempPathFactory, done: list[Step]
) -> None:
    study, path = taken(Study.of_table(table), done), tmp_path_factory.mktemp("first") / "fish.culvix"
    StudyFile.create(path, study.history).close()
    _as_first_version(path)
    before = path.read_bytes()
    found = read_study(path)
    assert path.read_bytes() == before, "reading changes nothing"
    assert [encode_document(each) for each in found.documents[:-1]] == [
        encode_document(each) for each in read_study(path).documents[:-1]
    ]
    assert encode_document(found.current) == encode_document(study.document)
    file = StudyFile.open(path, found)
    study.sign("zz")
    file.record(study.history)
    file.close()
    again = read_study(path)
    assert again.labels == study.history.labels and again.current.initials == "zz"
    with closing(sqlite3.connect(path)) as connection:
        assert connection.execute("PRAGMA user_version").fetchone()[0] == FILE_VERSION


def test_a_study_without_a_fingerprint_on_a_changed_source_is_left_as_it_is(tmp_path: Path) -> None:
    path = _stored(tmp_path)
    _as_first_version(path)
    _changed(tmp_path)
    with pytest.raises(SourceChanged) as changed:
        reopen(path)
    assert changed.value.changes is None and "left as it is" in changed.value.sentence
    with pytest.raises(ReadError):
        changed.value.taken_over()


def test_a_migration_that_cannot_be_written_leaves_the_file_as_it_is(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = _stored(tmp_path)
    _as_first_version(path)
    before, history = path.read_bytes(), read_study(path)

    def full(self: Path, target: object) -> Path:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("culvix.files.os.replace", full)
    with pytest.raises(Exception, match="cannot be written"):
        StudyFile.open(path, history)
    assert path.read_bytes() == before and [each.name for each in tmp_path.glob(".*part")] == []
