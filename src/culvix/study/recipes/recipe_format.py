"""Recipes as JSON that people read and edit: nothing in it that says nothing, and a sentence on what is wrong."""

import re
from collections.abc import Mapping
from dataclasses import MISSING, Field, fields, is_dataclass
from pathlib import Path
from typing import Any

import msgspec

from culvix.errors import CulvixError, ReadError
from culvix.files import display_path
from culvix.json_text import check_json_size
from culvix.study.document.document_format import from_plain, plain_section, schema_of
from culvix.study.document.rules import Rule
from culvix.study.recipes.recipe import FORMAT, Recipe, Step
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.options.extent import Extent
from culvix.tables.model.options.read_options import ReadOptions
from culvix.tables.reading.sources import checked_file

__all__ = ["decode_recipe", "encode_recipe", "load_recipe", "recipe_schema"]

_LARGEST = 1 << 28
_SHORT_LISTS = re.compile(r"\[\n([^\[\]{}]*)\n *\]")
_TERSE = (Step, Rule, ColumnEntry, ReadOptions, Extent)
"""What is written without all that is as usual; conventions are written out, as the usual ones may change."""
_EMPTY: tuple[object, ...] = (None, "", ())


def encode_recipe(recipe: Recipe) -> bytes:
    """``recipe`` as indented JSON (UTF-8).

    What was encoded is read back before it is returned: nothing is ever written that cannot be read.
    """
    # Reading gives each number the type of its field; a whole limit is written as "3.0" however it was typed.
    return _written(decode_recipe(_written(recipe)))


def _written(recipe: Recipe) -> bytes:
    indented = msgspec.json.format(msgspec.json.encode(_without_empty(recipe)), indent=2).decode("utf-8")
    # Lists of plain values take a line each; a line break never stands within a text.
    return _SHORT_LISTS.sub(_on_one_line, indented).encode("utf-8") + b"\n"


def _on_one_line(found: "re.Match[str]") -> str:
    return "[" + ", ".join(line.strip().removesuffix(",") for line in found[1].splitlines()) + "]"


def _without_empty(value: Any) -> Any:
    """Plain data of ``value``, without fields that are empty unless something is said."""
    if is_dataclass(value) and not isinstance(value, type):
        values = {each.name: getattr(value, each.name) for each in fields(value)}
        return {
            each.name: _without_empty(values[each.name])
            for each in fields(value)
            if not _goes_without_saying(value, each, values[each.name])
        }
    if isinstance(value, Mapping):
        return {str(key): _without_empty(each) for key, each in value.items()}
    if isinstance(value, tuple | list):
        return [_without_empty(each) for each in value]
    return plain_section(value)


def _goes_without_saying(whole: object, each: "Field[Any]", said: object) -> bool:
    """Whether a field is as it is when nothing is said: whatever that is in some kinds, else only where it is empty."""
    default = _default(each)
    if isinstance(whole, _TERSE):
        return said == default and (type(said) is type(default) or isinstance(said, Mapping))
    return _is_empty(said) and _is_empty(default)


def _is_empty(value: object) -> bool:
    return any(value == empty and type(value) is type(empty) for empty in _EMPTY) or (
        isinstance(value, Mapping) and not value
    )


def _default(each: "Field[Any]") -> object:
    """What a field is where nothing is said; one that has to be given counts as something."""
    if each.default is not MISSING:
        return each.default
    return each.default_factory() if each.default_factory is not MISSING else ...


def decode_recipe(data: bytes, name: str = "This file") -> Recipe:
    """The recipe in ``data``. Raises ReadError with what is wrong with it, and for one of another format."""
    check_json_size(data)
    try:
        plain = msgspec.json.decode(data)
        if not isinstance(plain, dict) or "format" not in plain:
            raise ReadError(f"{name} is no recipe: it has no format.")
        if plain["format"] != FORMAT:
            raise ReadError(f"{name} is of the format {str(plain['format'])[:60]!r}; this program reads {FORMAT}.")
        recipe = from_plain(plain, Recipe)
        _check_fields(plain, recipe, "a recipe")
        return recipe
    except ReadError:
        raise
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise ReadError(f"{name} is not JSON: {str(error)[:160]}.") from error
    except (msgspec.ValidationError, CulvixError, OverflowError, ValueError) as error:
        raise ReadError(f"{name} cannot be taken as a recipe: {str(error)[:200]}.") from error
    except RecursionError as error:
        raise ReadError(f"{name} is nested too deeply for a recipe.") from error


def _check_fields(plain: Any, value: Any, where: str) -> None:
    """Raise ReadError where ``plain``, perhaps written by hand, says something that ``value`` has no field for."""
    if is_dataclass(value):
        known = {each.name for each in fields(value)}
        unknown = [key for key in plain if key not in known]
        if unknown:
            raise ReadError(f"There is no {unknown[0][:60]!r} in {where}; there are {', '.join(sorted(known))}.")
        for key, each in plain.items():
            _check_fields(each, getattr(value, key), f"“{key}”")
    elif isinstance(plain, dict) and isinstance(value, Mapping):
        for key, each in plain.items():
            if key in value:
                _check_fields(each, value[key], f"“{key}”")
    elif isinstance(plain, list) and isinstance(value, tuple):
        for each, made in zip(plain, value, strict=False):
            _check_fields(each, made, where)


def load_recipe(path: Path) -> Recipe:
    """The recipe in the file at ``path``. Raises ReadError for one that cannot be read or is no recipe."""
    with checked_file(path) as file:
        data = file.read(_LARGEST + 1)
    if len(data) > _LARGEST:
        raise ReadError(f"{display_path(path)} is larger than {_LARGEST >> 20} megabytes; no recipe is.")
    return decode_recipe(data, display_path(Path(path.name)))


def recipe_schema() -> dict[str, Any]:
    """The JSON Schema of recipes."""
    return schema_of(Recipe, "Culvix recipe")
