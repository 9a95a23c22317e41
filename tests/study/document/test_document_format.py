"""A document is plain data: written as JSON and read again it is the same, and so is all that follows from it."""

import json
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culvix.errors import ReadError
from culvix.study import DecisionKind, Study
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.document import VERSION, Origin
from culvix.study.document.document_format import decode_document, document_schema, encode_document
from culvix.tables import Table, read_table
from tests.study.document.random_studies import NUMBERS, Step, small_table, steps, taken

SCHEMA = Path(__file__).parents[3] / "docs/document.schema.json"


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    return small_table(tmp_path_factory.mktemp("documents"))


@given(done=steps())
def test_any_document_is_the_same_after_it_was_written_and_read(table: Table, done: list[Step]) -> None:
    document = taken(Study.of_table(table), done).document
    written = encode_document(document)
    assert encode_document(decode_document(written)) == written
    json.loads(written)


@settings(max_examples=25)
@given(done=steps())
def test_a_document_that_was_read_gives_the_same_study(table: Table, done: list[Step]) -> None:
    before = taken(Study.of_table(table), done)
    document = decode_document(encode_document(before.document))
    source = read_table(document.origin.path, document.origin.options, dictionary=document.dictionary)
    after = Workspace.of(document, source)
    assert [column.name for column in after.table] == [column.name for column in before.table]
    for name in NUMBERS:
        mine, its = (workspace.working.sample(workspace.table[name]) for workspace in (before.workspace, after))
        assert np.array_equal(mine.values, its.values, equal_nan=True)
        flags = [workspace.analysis(name).flags.rows.tolist() for workspace in (before.workspace, after)]
        assert flags[0] == flags[1]


def test_the_schema_in_the_documentation_is_that_of_the_types() -> None:
    assert SCHEMA.read_bytes() == msgspec.json.format(msgspec.json.encode(document_schema()), indent=1) + b"\n", (
        "run docs/make_schemas.py"
    )


def test_every_section_of_a_document_stands_in_the_schema(study: Study) -> None:
    sections = json.loads(encode_document(study.document))
    assert sections["version"] == VERSION
    assert set(sections) == set(document_schema()["$defs"]["Document"]["properties"])


def test_half_a_character_becomes_a_mark(study: Study) -> None:
    study.decide(DecisionKind.KEEP, NUMBERS[0], [0], reason="pasted \ud83d here")
    assert decode_document(encode_document(study.document)).decisions[0].reason == "pasted \ufffd here"


def test_a_file_whose_name_is_no_text_is_found_again(tmp_path: Path, study: Study) -> None:
    path = tmp_path / "fish #1 \udcff%41?.csv"
    path.write_text("a,b\n1,2\n")
    origin = Origin.of(read_table(path).source)
    found = decode_document(encode_document(replace(study.document, origin=origin))).origin
    assert found.path == path and found.path.is_file()


def broken(written: bytes) -> st.SearchStrategy[bytes]:
    return st.binary(max_size=40) | st.integers(0, len(written)).map(lambda end: written[:end])


@given(data=st.data())
def test_what_is_no_document_is_refused_in_a_sentence(table: Table, data: st.DataObject) -> None:
    written = encode_document(Study.of_table(table).document)
    spoilt = data.draw(broken(written))
    if spoilt == written:
        return
    with pytest.raises(ReadError, match="no document that can be read"):
        decode_document(spoilt)


@pytest.mark.parametrize(
    ("section", "value", "sentence"),
    [
        ("version", VERSION + 1, "version 2; this program reads version 1"),
        ("settings", {"alpha": 7}, "level α lies between 0 and 1"),
        ("settings", {"limits": {"guess": 3.0}}, "no outlier method 'guess'"),
        ("settings", {"alpha": "x"}, "alpha"),
        ("decisions", [{"rows": [1, -4]}], "no document"),
        ("dictionary", {"entries": {"a": {"valid_range": [3, 1]}}}, "begins below its end"),
        ("origin", None, "no document"),
    ],
)
def test_a_section_that_makes_no_sense_is_named(study: Study, section: str, value: object, sentence: str) -> None:
    sections = json.loads(encode_document(study.document)) | {section: value}
    with pytest.raises(ReadError, match=sentence):
        decode_document(json.dumps(sections).encode())


def test_a_method_newer_than_the_document_has_its_usual_limit(study: Study) -> None:
    sections = json.loads(encode_document(study.document))
    del sections["settings"]["limits"]["hampel"]
    assert decode_document(json.dumps(sections).encode()).settings == study.settings
