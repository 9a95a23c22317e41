"""Differences of plain data as a JSON Patch (RFC 6902): add, remove and replace, which is all that documents need."""

from math import copysign
from typing import Any

from culvix.errors import ReadError

__all__ = ["apply_patch", "difference"]

Patch = list[dict[str, Any]]


def difference(before: Any, after: Any, path: str = "") -> Patch:
    """The operations that make ``after`` of ``before``, both plain data; lists only grow, shrink, or are replaced."""
    if isinstance(before, dict) and isinstance(after, dict):
        return _of_objects(before, after, path)
    if isinstance(before, list) and isinstance(after, list):
        if after[: len(before)] == before:
            return [{"op": "add", "path": f"{path}/-", "value": item} for item in after[len(before) :]]
        if before[: len(after)] == after:
            return [{"op": "remove", "path": f"{path}/{at}"} for at in range(len(before) - 1, len(after) - 1, -1)]
    if _same(before, after):
        return []
    return [{"op": "replace", "path": path, "value": after}]


def _same(before: Any, after: Any) -> bool:
    """Whether both are written alike: true is not 1, and −0 not 0, though they are equal."""
    if type(before) is not type(after) or before != after:
        return False
    return not isinstance(before, float) or copysign(1.0, before) == copysign(1.0, after)


def _of_objects(before: dict[str, Any], after: dict[str, Any], path: str) -> Patch:
    common, added = [key for key in before if key in after], [key for key in after if key not in before]
    if list(after) != common + added:
        # The order of keys means something, as that of derived columns, and no operation tells of it.
        return [{"op": "replace", "path": path, "value": after}]
    patch: Patch = [{"op": "remove", "path": f"{path}/{_escaped(key)}"} for key in before if key not in after]
    for key, value in after.items():
        where = f"{path}/{_escaped(key)}"
        if key in before:
            patch += difference(before[key], value, where)
        else:
            patch.append({"op": "add", "path": where, "value": value})
    return patch


def apply_patch(data: Any, patch: Any) -> Any:
    """``data`` with ``patch`` applied, as a new value where it differs. Raises ReadError for one that does not fit."""
    try:
        for operation in patch:
            data = _applied(data, [_plain(key) for key in operation["path"].split("/")[1:]], operation)
    except (LookupError, TypeError, ValueError, AttributeError, RecursionError) as error:
        raise ReadError(f"An act of the history does not fit what was before it: {str(error)[:120]}.") from error
    return data


def _applied(data: Any, keys: list[str], operation: dict[str, Any]) -> Any:
    """A copy of ``data`` with one operation done at ``keys``; what is beside its way is shared."""
    if not keys:
        return operation["value"]
    key, rest = keys[0], keys[1:]
    if isinstance(data, list):
        return _in_list(data, key, rest, operation)
    if rest:
        return {**data, key: _applied(data[key], rest, operation)}
    if operation["op"] == "remove":
        if key not in data:
            raise KeyError(key)
        return {name: value for name, value in data.items() if name != key}
    return {**data, key: operation["value"]}


def _in_list(data: list[Any], key: str, rest: list[str], operation: dict[str, Any]) -> list[Any]:
    if not rest and operation["op"] == "add" and key == "-":
        return [*data, operation["value"]]
    at = int(key)
    if not 0 <= at < len(data):
        raise IndexError(f"there is no item {at}")
    if not rest and operation["op"] == "remove":
        return data[:at] + data[at + 1 :]
    return [*data[:at], _applied(data[at], rest, operation), *data[at + 1 :]]


def _escaped(key: str) -> str:
    return key.replace("~", "~0").replace("/", "~1")


def _plain(key: str) -> str:
    return key.replace("~1", "/").replace("~0", "~")
