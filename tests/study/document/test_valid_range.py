"""The valid range has one home at a time: what was said last of it holds, wherever it was said, and is written so."""

import json

import pytest

from culvix.study import Study
from culvix.study.carrying.carry_over import carry_over
from culvix.tables.model.dictionary import ColumnEntry, Dictionary, write_data_package

LENGTH = "length_mm"


def declare(study: Study, bounds: tuple[float | None, float | None]) -> None:
    """Say the range where a picture or a method says it."""
    study.set_valid_range(LENGTH, bounds)


def written(study: Study) -> dict[str, object]:
    source = study.table.source
    package = json.loads(write_data_package(study.table.columns, source, source.dialect, study.dictionary))
    (field,) = [f for f in package["resources"][0]["schema"]["fields"] if f["name"] == LENGTH]
    return {key: float(value) for key, value in field.get("constraints", {}).items() if key in ("minimum", "maximum")}


def test_a_range_declared_at_a_picture_is_written_to_the_dictionary(study: Study) -> None:
    assert written(study) == {}
    declare(study, (80.0, 400.0))
    assert written(study) == {"minimum": 80.0, "maximum": 400.0}
    assert study.history.undoable is not None and study.history.undoable.label.endswith("none → 80 to 400")
    study.undo()
    assert written(study) == {}


def test_what_is_said_last_holds(study: Study) -> None:
    declare(study, (80.0, 400.0))
    study.edit_column(LENGTH, ColumnEntry(valid_range=(100.0, None)))
    assert study.workspace.bounds(LENGTH) == (100.0, None) == study.dictionary.of(LENGTH).valid_range
    declare(study, (90.0, 300.0))
    assert study.workspace.bounds(LENGTH) == (90.0, 300.0)
    for expected in ((100.0, None), (80.0, 400.0), (None, None)):
        study.undo()
        assert study.workspace.bounds(LENGTH) == expected
    study.redo()
    study.redo()
    assert study.workspace.bounds(LENGTH) == (100.0, None)


def test_saying_anything_else_of_the_column_keeps_its_range(study: Study) -> None:
    declare(study, (80.0, 400.0))
    entry = study.dictionary.of(LENGTH)
    study.edit_column(LENGTH, ColumnEntry(unit="cm", valid_range=entry.valid_range))
    assert study.workspace.bounds(LENGTH) == (80.0, 400.0) and study.table[LENGTH].unit == "cm"
    assert study.dictionary.of(LENGTH).valid_range == (80.0, 400.0)


def test_an_open_range_takes_back_the_one_of_the_dictionary(study: Study) -> None:
    study.edit_column(LENGTH, ColumnEntry(valid_range=(150.0, 300.0)))
    declare(study, (None, None))
    assert study.workspace.bounds(LENGTH) == (None, None) and written(study) == {}


@pytest.mark.parametrize(("said", "expected"), [({}, (80.0, 400.0)), ({LENGTH: ColumnEntry()}, (None, None))])
def test_a_dictionary_read_in_says_the_range(
    study: Study, said: dict[str, ColumnEntry], expected: tuple[float | None, float | None]
) -> None:
    declare(study, (80.0, 400.0))
    assert carry_over(study.workspace, study.table, Dictionary(said), 0).study.workspace.bounds(LENGTH) == expected
