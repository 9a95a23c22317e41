"""Study files: the whole history comes back, act by act; what is no study, or damaged, is refused and left alone."""

import random
import sqlite3
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from culvix.errors import ReadError, WriteError
from culvix.study import DecisionKind, Study
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.document_format import encode_document
from culvix.study.storage.schema import APPLICATION_ID, FILE_VERSION, is_study_file
from culvix.study.storage.study_file import StudyFile
from culvix.study.storage.study_reading import read_study
from culvix.tables import Table
from tests.study.document.random_studies import NUMBERS, Step, small_table, steps, taken

MASS = "mass_g"


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    return small_table(tmp_path_factory.mktemp("files"))


@pytest.fixture
def decided(table: Table, tmp_path: Path) -> Path:
    """A file with a few acts."""
    study, path = Study.of_table(table), tmp_path / "fish.culvix"
    study.sign("ab")
    study.decide(DecisionKind.EXCLUDE_VALUE, MASS, [1, 2], reason="net torn")
    study.set_valid_range(MASS, (0.0, 900.0))
    study.decide(DecisionKind.CORRECT, MASS, [3], factor=10)
    StudyFile.create(path, study.history).close()
    return path


def encoded(study_or_history: object) -> list[bytes]:
    return [encode_document(document) for document in study_or_history.documents]


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(batches=st.lists(steps(), max_size=3))
def test_any_history_comes_back(
    table: Table, tmp_path_factory: pytest.TempPathFactory, batches: list[list[Step]]
) -> None:
    study = Study.of_table(table)
    file = StudyFile.create(tmp_path_factory.mktemp("any") / "fish.culvix", study.history)
    for done in batches:
        taken(study, done)
        file.record(study.history)
    file.close()
    found = read_study(file.path)
    assert (found.labels, found.cursor) == (study.history.labels, study.history.cursor)
    assert encode_document(found.current) == encode_document(study.document)
    for cursor in range(len(found.documents)):
        moved = [history.moved_to(cursor).current for history in (found, study.history)]
        assert encode_document(moved[0]) == encode_document(moved[1])
    for name in NUMBERS:
        again = Workspace.of(found.current, table) if not found.current.dictionary.entries else None
        if again is not None:
            values = again.working.sample(again.table[name]).values
            assert np.array_equal(values, study.working.sample(study.table[name]).values, equal_nan=True)


def test_undo_goes_on_after_reopening(decided: Path, table: Table) -> None:
    history = read_study(decided)
    study = Study(Workspace.of(history.current, table))
    study.resume(history)
    assert [act.label.split(":")[0] for act in study.history.acts][::2] == ["exclude value", "correct ×10"]
    study.undo()
    study.undo()
    assert study.workspace.bounds(MASS) == (None, None) and study.working.excluded(MASS).tolist() == [1, 2]
    study.redo()
    assert study.workspace.bounds(MASS) == (0.0, 900.0) and study.document.initials == "ab"


def test_an_act_writes_only_what_it_changed(table: Table, tmp_path: Path) -> None:
    study = Study.of_table(table)
    file = StudyFile.create(tmp_path / "fish.culvix", study.history)
    for act in range(300):
        study.decide(DecisionKind.KEEP, MASS, [act % 40], reason="looked at")
        study.set_valid_range(MASS, (0.0, 900.0 + act))
        file.record(study.history)
    file.close()
    assert file.path.stat().st_size < 600 * 400
    assert len(read_study(file.path).labels) == 600


def test_what_was_undone_is_taken_out_by_another_act(decided: Path, table: Table, tmp_path: Path) -> None:
    study = Study.of_table(table)
    file = StudyFile.create(tmp_path / "branch.culvix", study.history)
    for row in range(4):
        study.decide(DecisionKind.KEEP, MASS, [row])
    file.record(study.history)
    study.go_to(1)
    file.record(study.history)
    assert len(read_study(file.path).labels) == 4 and read_study(file.path).cursor == 1
    study.decide(DecisionKind.MISSING, MASS, [7])
    file.record(study.history)
    file.close()
    assert read_study(file.path).labels == ("keep: mass_g, 1 row", "treat as missing: mass_g, 1 row")


def test_the_file_is_told_by_its_header_and_read_with_any_sqlite(decided: Path, tmp_path: Path) -> None:
    assert is_study_file(decided)
    connection = sqlite3.connect(decided)
    assert connection.execute("PRAGMA application_id").fetchone() == (APPLICATION_ID,)
    assert connection.execute("PRAGMA user_version").fetchone() == (FILE_VERSION,)
    labels = [label for (label,) in connection.execute("SELECT label FROM acts ORDER BY position")]
    connection.close()
    assert labels[0] == "exclude value: mass_g, 2 rows"
    other = tmp_path / "other.db"
    sqlite3.connect(other).execute("CREATE TABLE a (b)").connection.close()
    assert not is_study_file(other)
    with pytest.raises(ReadError, match="no study of Culvix"):
        read_study(other)


def test_a_place_that_is_taken_is_refused(decided: Path, table: Table) -> None:
    before = decided.read_bytes()
    with pytest.raises(WriteError, match="there already"):
        StudyFile.create(decided, Study.of_table(table).history)
    assert decided.read_bytes() == before


@pytest.mark.parametrize(
    ("statement", "sentence"),
    [
        (f"PRAGMA user_version = {FILE_VERSION + 1}", "newer Culvix"),
        ("CREATE TRIGGER t AFTER INSERT ON acts BEGIN DELETE FROM acts; END", "not those of a study file"),
        ("CREATE VIEW v AS SELECT * FROM acts", "not those of a study file"),
        ("DROP TABLE acts", "not those of a study file"),
        ("DELETE FROM acts WHERE position = 1", "Act 2 of the history is missing"),
        ('UPDATE acts SET patch = \'[{"op": "remove", "path": "/decisions/99"}]\'', "does not fit"),
        ("UPDATE acts SET patch = '{}'", "no list of operations"),
        ("UPDATE acts SET patch = '[' || patch", "damaged"),
        ("UPDATE about SET value = '77' WHERE key = 'cursor'", "stands at the 77th"),
        ("UPDATE about SET value = 'x' WHERE key = 'cursor'", "damaged"),
        ("UPDATE beginning SET json = '{\"alpha\": 7}' WHERE section = 'settings'", "level α"),
        ("INSERT INTO beginning VALUES ('more', '1')", "no section 'more'"),
        ("DELETE FROM beginning WHERE section = 'origin'", "damaged"),
        ("INSERT INTO aside VALUES ('decisions', '[]')", "not known"),
        (f"UPDATE acts SET patch = '{'[' * 100_000}'", "damaged"),
    ],
)
def test_a_file_that_makes_no_sense_is_refused_and_left_alone(decided: Path, statement: str, sentence: str) -> None:
    connection = sqlite3.connect(decided)
    connection.execute(statement)
    connection.commit()
    connection.close()
    before = decided.read_bytes()
    with pytest.raises(ReadError, match=sentence):
        read_study(decided)
    assert decided.read_bytes() == before


def test_bytes_flipped_at_random_are_refused_or_read(decided: Path, tmp_path: Path) -> None:
    data, draw, path = decided.read_bytes(), random.Random(19), tmp_path / "spoilt.culvix"
    refused = 0
    for _ in range(150):
        spoilt = bytearray(data)
        for _ in range(draw.choice((1, 3, 30))):
            spoilt[draw.randrange(len(spoilt))] = draw.randrange(256)
        path.write_bytes(spoilt)
        try:
            read_study(path)
        except ReadError as error:
            refused += 1
            assert error.sentence.endswith(".") and "\n" not in error.sentence
        assert path.read_bytes() == spoilt
    assert refused > 20


def test_a_file_that_is_not_there_is_refused(tmp_path: Path) -> None:
    with pytest.raises(ReadError):
        read_study(tmp_path / "nothing.culvix")


def test_what_was_half_written_is_taken_back_on_reading(decided: Path, tmp_path: Path) -> None:
    before = read_study(decided)
    connection = sqlite3.connect(decided, isolation_level=None)
    connection.execute("PRAGMA cache_size = 1")
    connection.execute("BEGIN IMMEDIATE")
    for position in range(3, 400):
        connection.execute("INSERT INTO acts VALUES (?, 'act', 'now', ?)", (position, "[" + " " * 3000 + "]"))
    # As a killed program leaves it: pages of another state, and a journal of what stood there before.
    torn = tmp_path / "torn"
    torn.mkdir()
    for ending in ("", "-journal"):
        (torn / f"fish.culvix{ending}").write_bytes(decided.with_name(f"fish.culvix{ending}").read_bytes())
    connection.execute("ROLLBACK")
    connection.close()
    left = (torn / "fish.culvix").read_bytes()
    assert len(left) > 100_000, "some of it was written"
    found = read_study(torn / "fish.culvix")
    assert found.labels == before.labels and (torn / "fish.culvix").read_bytes() == left
    file = StudyFile.open(torn / "fish.culvix", found)
    file.record(found.moved_to(1))
    file.close()
    assert read_study(torn / "fish.culvix").cursor == 1 and not (torn / "fish.culvix-journal").exists()


def test_a_file_that_somebody_else_wrote_to_is_left_to_them(decided: Path, table: Table) -> None:
    history = read_study(decided)
    mine, theirs = StudyFile.open(decided, history), StudyFile.open(decided, history)
    theirs.record(history.moved_to(1))
    with pytest.raises(WriteError, match="changed from elsewhere"):
        mine.record(history.moved_to(0))
    theirs.record(history.moved_to(2))
    assert read_study(decided).cursor == 2
    mine.close()
    theirs.close()
