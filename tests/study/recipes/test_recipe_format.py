"""Recipes as text: the same after they were written and read, edited by hand, or refused with a sentence."""

import json
from pathlib import Path

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culvix.errors import ReadError
from culvix.study import Study
from culvix.study.recipes.recipe_format import decode_recipe, encode_recipe, load_recipe, recipe_schema
from culvix.tables import Table
from tests.study.document.random_studies import Step, small_table, steps, taken
from tests.study.recipes.making import fish, made

SCHEMA = Path(__file__).parents[3] / "docs/recipe.schema.json"


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    return small_table(tmp_path_factory.mktemp("recipes"))


@pytest.fixture(scope="module")
def plain(table: Table) -> bytes:
    return encode_recipe(made(Study.of_table(table)))


@settings(max_examples=25)
@given(done=steps())
def test_any_recipe_is_the_same_after_it_was_written_and_read(table: Table, done: list[Step]) -> None:
    written = encode_recipe(made(taken(Study.of_table(table), done)))
    assert encode_recipe(decode_recipe(written)) == written


def test_the_schema_in_the_documentation_is_that_of_the_types() -> None:
    assert SCHEMA.read_bytes() == msgspec.json.format(msgspec.json.encode(recipe_schema()), indent=1) + b"\n", (
        "run docs/make_schemas.py"
    )


def test_conventions_are_written_out_even_where_they_are_the_usual_ones(tmp_path: Path) -> None:
    written = json.loads(encode_recipe(made(Study.of_table(fish(tmp_path)))))
    assert written["settings"]["quantile_type"] == 7 and written["settings"]["limits"]["z_score"] == 3.0
    assert written["thresholds"]["open_flags"] == 0.01


def test_quotes_that_are_switched_off_stay_off(tmp_path: Path) -> None:
    written = json.loads(encode_recipe(made(Study.of_table(fish(tmp_path)))))
    written["reading"]["dialect"]["quote"] = ""
    recipe = decode_recipe(json.dumps(written).encode())
    assert recipe.reading.dialect is not None and recipe.reading.dialect.quote == ""
    assert decode_recipe(encode_recipe(recipe)).reading == recipe.reading


def _edited(table: Table, **changes: object) -> bytes:
    written = json.loads(encode_recipe(made(Study.of_table(table))))
    return json.dumps({**written, **changes}).encode()


def test_what_was_edited_by_hand_is_taken(tmp_path: Path) -> None:
    recipe = decode_recipe(_edited(fish(tmp_path), thresholds={"distance": 0.5}))
    assert recipe.thresholds.distance == 0.5 and recipe.thresholds.alpha == 0.01


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"format": "culvix-recipe/9"}, "culvix-recipe/9"),
        ({"thresholds": {"distence": 0.5}}, "distence"),
        ({"settings": {"quantile_type": 12}}, "quantile type 12"),
        ({"dictionary": {"entries": {"net": {"rules": {"limit": "guess"}}}}}, "guess"),
        ({"steps": [{"kind": "forget", "column": "net"}]}, "forget"),
        ({"reference": 7}, "reference"),
    ],
)
def test_what_makes_no_sense_is_refused_with_what_it_is(tmp_path: Path, changes: dict, said: str) -> None:
    with pytest.raises(ReadError) as refused:
        decode_recipe(_edited(fish(tmp_path), **changes))
    assert said in refused.value.sentence


@pytest.mark.parametrize("data", [b"", b"[]", b"{", b"\xff\xfe", b"[" * 100_000, b'{"format": 3}'])
def test_what_is_no_recipe_is_refused(tmp_path: Path, data: bytes) -> None:
    path = tmp_path / "recipe.json"
    path.write_bytes(data)
    with pytest.raises(ReadError):
        load_recipe(path)


@settings(max_examples=30)
@given(position=st.integers(0, 4000), byte=st.integers(0, 255))
def test_a_flipped_byte_is_read_or_refused(plain: bytes, position: int, byte: int) -> None:
    written = bytearray(plain)
    written[position % len(written)] = byte
    try:
        decode_recipe(bytes(written))
    except ReadError as error:
        assert error.sentence
