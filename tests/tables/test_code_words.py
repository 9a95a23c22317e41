"""What codes stand for: written as lines, kept in the dictionary, and shown with the codes."""

from dataclasses import replace
from pathlib import Path
from types import MappingProxyType

import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.study import Study
from culvix.study.analysis.grouping import grouping
from culvix.tables import read_table
from culvix.tables.model.code_words import codes_of, lines_of, read_lines
from culvix.tables.model.dictionary import ColumnEntry, read_data_package, write_data_package
from culvix.tables.model.table import Role

WORDS = {"1": "never", "2": "sometimes", "3": "always"}


@pytest.fixture
def study(tmp_path: Path) -> Study:
    path = tmp_path / "t.csv"
    rows = "\n".join(f"{1 + k % 3},{'abc'[k % 3]},{k / 7:.3f}" for k in range(60))
    path.write_text(f"item,ward,level\n{rows}\n")
    return Study.of_table(read_table(path))


def test_code_books_are_read_however_their_lines_are_written() -> None:
    assert read_lines("1 = never\n2: sometimes\n\n3\talways\n4 =\n") == WORDS
    assert read_lines("-1 = no answer\n10 – ten - or more") == {"-1": "no answer", "10": "ten - or more"}
    with pytest.raises(ValueError, match="The code 1 has two words"):
        read_lines("1 = never\n1 = always")


@given(st.dictionaries(st.integers(-9, 999).map(str), st.from_regex(r"[a-z]{1,9}( [a-z]{1,9})?", fullmatch=True)))
def test_what_is_written_is_read_again(words: dict[str, str]) -> None:
    assert read_lines(lines_of(list(words), words)) == words


def test_only_columns_of_few_codes_are_asked_for_words(study: Study) -> None:
    table = study.table
    assert codes_of([table["item"]]) == ["1", "2", "3"] and codes_of([table["ward"]]) == ["a", "b", "c"]
    assert codes_of([table["item"], table["ward"]]) == ["1", "2", "3", "a", "b", "c"]
    assert codes_of([table["level"]]) == codes_of([table["item"], table["level"]]) == []


def test_words_are_kept_in_the_dictionary_and_stand_in_its_file(study: Study) -> None:
    entry = ColumnEntry(role=Role.ORDERED, words=MappingProxyType(WORDS))
    study.edit_column("item", entry)
    study.undo()
    assert study.table["item"].words == {}
    study.redo()
    column = study.table["item"]
    assert column.named("2") == "2 sometimes" and column.named("02") == "02 sometimes" and column.named("7") == "7"
    assert column.words_of_numbers == {1.0: "never", 2.0: "sometimes", 3.0: "always"}
    written = write_data_package(study.table.columns, study.table.source, None, study.dictionary)
    assert b'"value": "1"' in written and b'"label": "never"' in written
    assert read_data_package(written).of("item").words == WORDS


def test_labels_of_a_foreign_package_are_words_and_its_order_stays(study: Study) -> None:
    package = b"""{"resources": [{"schema": {"fields": [{"name": "item", "categoriesOrdered": true, "categories":
        [{"value": 1, "label": "never"}, {"value": 2}, {"value": "3", "label": "3"}]}]}}]}"""
    entry = read_data_package(package).of("item")
    assert entry.words == {"1": "never"} and entry.order == ("1", "2", "3")


def test_groups_are_named_by_code_and_word(study: Study) -> None:
    for name, role in (("item", Role.ORDERED), ("ward", Role.CATEGORY)):
        words = WORDS if name == "item" else {"a": "intensive"}
        entry = replace(ColumnEntry(role=role), words=MappingProxyType(words))
        study.edit_column(name, entry)
    assert grouping(study.table["item"]).names == ("1 never", "2 sometimes", "3 always")
    assert grouping(study.table["ward"]).names == ("a intensive", "b", "c")


def test_texts_that_were_given_numbers_are_their_words(study: Study) -> None:
    entry = ColumnEntry(role=Role.ORDERED, mapping=MappingProxyType({"a": 1.0, "b": 2.0, "c": 3.0}))
    study.edit_column("ward", entry)
    assert study.table["ward"].words_of_numbers == {1.0: "a", 2.0: "b", 3.0: "c"}
