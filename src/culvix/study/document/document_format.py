"""Documents as JSON, in one place: written, read, and described by a JSON Schema made from their types."""

from collections.abc import Mapping
from inspect import cleandoc
from types import GenericAlias
from typing import Any, TypeVar, get_args, get_origin, get_type_hints

import msgspec
import numpy as np

from culvix.errors import CulvixError, ReadError
from culvix.study.document.decisions import Decision
from culvix.study.document.document import VERSION, Document
from culvix.study.document.history.shared_sequence import SharedSequence

__all__ = [
    "decode_document",
    "document_schema",
    "encode_document",
    "encode_part",
    "from_plain",
    "plain_section",
    "schema_of",
    "section_of",
]

_MOST_SHOWN = 200
_Kind = TypeVar("_Kind")
_SECTION_TYPES = get_type_hints(Document)
_ROWS = {"type": "array", "items": {"type": "integer", "minimum": 0}}


class _Versioned(msgspec.Struct):
    """What is asked of a file before the rest is read."""

    version: int


def encode_document(document: Document) -> bytes:
    """``document`` as JSON (UTF-8); written, read and written again, it gives the same bytes.

    What was encoded is read back before it is returned: nothing is ever written that cannot be read.
    """
    # Reading gives each number the type of its field; a whole limit is written as "3.0" however it was typed.
    return encode_part(decode_document(encode_part(document)))


def decode_document(data: bytes) -> Document:
    """The document in ``data``. Raises ReadError with what is wrong with it, and for one of a newer version."""
    try:
        version = msgspec.json.decode(data, type=_Versioned).version
        if version > VERSION:
            raise ReadError(f"This document is of version {version}; this program reads version {VERSION} and before.")
        return msgspec.json.decode(data, type=Document, dec_hook=_decoded)
    except ReadError:
        raise
    except (msgspec.DecodeError, CulvixError, UnicodeDecodeError, OverflowError) as error:
        raise ReadError(f"This is no document that can be read: {str(error)[:_MOST_SHOWN]}.") from error
    except RecursionError as error:
        raise ReadError("This is no document that can be read: it is nested too deeply.") from error


def plain_section(value: object) -> Any:
    """A section of a document, or a part of one, in the types that JSON has."""
    return msgspec.to_builtins(value, enc_hook=_plain)


def section_of(name: str, plain: Any) -> Any:
    """The section ``name`` of a document, from plain data. Raises ReadError where it makes no sense."""
    if name not in _SECTION_TYPES:
        raise ReadError(f"A document has no section {name[:40]!r}.")
    try:
        return msgspec.convert(plain, _SECTION_TYPES[name], dec_hook=_decoded)
    except (msgspec.ValidationError, CulvixError, OverflowError, RecursionError) as error:
        raise ReadError(f"The section {name} cannot be read: {str(error)[:_MOST_SHOWN]}.") from error


def from_plain(plain: Any, kind: type[_Kind]) -> _Kind:
    """A value of ``kind``, made of parts of documents, from plain data. Raises as `msgspec.convert` and the kinds."""
    return msgspec.convert(plain, kind, dec_hook=_decoded)


def document_schema() -> dict[str, Any]:
    """The JSON Schema of documents."""
    return schema_of(Document, "Culvix document")


def schema_of(root: type, title: str) -> dict[str, Any]:
    """The JSON Schema of ``root``, which is made of parts of documents."""
    (reference,), kinds = msgspec.json.schema_components((root,), schema_hook=_schema_of)
    if "Document" in kinds:
        decisions, more = msgspec.json.schema_components((list[Decision],), schema_hook=_schema_of)
        kinds = {**kinds, **more}
        kinds["Document"]["properties"]["decisions"] = {**decisions[0], "default": []}
    kinds = {name: {**kind, "description": cleandoc(kind.get("description", ""))} for name, kind in kinds.items()}
    head = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": title}
    return {**head, **reference, "$defs": {name.split("/")[-1]: kind for name, kind in kinds.items()}}


def encode_part(part: object) -> bytes:
    """A document, a section, or anything made of their parts, as JSON (UTF-8)."""
    try:
        return msgspec.json.encode(part, enc_hook=_plain)
    except UnicodeEncodeError:
        # Half of a character, as a field may hold it that was pasted into, is no text that can be written.
        return msgspec.json.encode(_whole_characters(msgspec.to_builtins(part, enc_hook=_plain)))


def _whole_characters(value: Any) -> Any:
    """Plain data with a mark in place of every half of a character."""
    if isinstance(value, str):
        return value.encode("utf-16", "surrogatepass").decode("utf-16", "replace")
    if isinstance(value, dict):
        return {_whole_characters(key): _whole_characters(each) for key, each in value.items()}
    if isinstance(value, list | tuple):
        return [_whole_characters(each) for each in value]
    return value


def _plain(value: object) -> object:
    """A value in the types that JSON has."""
    if isinstance(value, np.ndarray):
        return value.tolist()
    if isinstance(value, np.generic):
        return value.item()
    if isinstance(value, Mapping):
        return dict(value)
    if isinstance(value, SharedSequence):
        return list(value)
    raise NotImplementedError(f"{type(value).__name__} has no place in a document.")


def _decoded(kind: Any, value: object) -> object:
    """Decisions, rows and counts: the types that are not plain in Python, too."""
    if get_origin(kind) is SharedSequence:
        return SharedSequence(msgspec.convert(value, GenericAlias(list, get_args(kind)), dec_hook=_decoded))
    whole = isinstance(value, list) and all(isinstance(each, int) and not isinstance(each, bool) for each in value)
    if not whole or any(not 0 <= each < 1 << 62 for each in value):  # type: ignore[attr-defined]
        raise ValueError("rows and counts are whole numbers from 0 up")
    return np.array(value, dtype=np.int64)


def _schema_of(kind: type) -> dict[str, Any]:
    return dict(_ROWS)
