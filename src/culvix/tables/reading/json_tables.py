"""Tables in JSON: an array of records, one record a line, records or columns inside an object."""

from collections.abc import Mapping, Sequence
from typing import Any

import msgspec
import polars as pl

from culvix.errors import ReadError
from culvix.progress import Progress
from culvix.stats.display import count, plural
from culvix.tables.reading.sources import Content

__all__ = ["json_frame"]

_MOST_CELLS = 30_000_000
_FEW = 1 << 16
Record = Mapping[str, Any]
Columns = dict[str, Sequence[Any]]


def json_frame(content: Content, progress: Progress, most_columns: int) -> tuple[pl.DataFrame, tuple[str, ...]]:
    """The cells of ``content`` as text, and what was decided. Raises ReadError for what is no table."""
    name = content.path.name
    data = content.data.removeprefix(b"\xef\xbb\xbf")
    try:
        found = _decoded(data, name)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        words = str(error).splitlines()[0] if str(error) else "it is nested too deeply"
        raise ReadError(f"{name} does not hold records of one kind: {words[:200].rstrip('.')}.") from error
    progress(0.5, f"putting the columns of {name} together")
    records, columns, notes = _table_in(found, name)
    if records is not None:
        columns = _columns_of(records, name, most_columns)
    assert columns is not None  # a table is found as records or as columns
    length = max((len(cells) for cells in columns.values()), default=0)
    if any(len(cells) != length for cells in columns.values()):
        raise ReadError(f"{name} has columns of different lengths, so that their cells do not stand in rows.")
    frame = {key: [_text(value) for value in cells] for key, cells in columns.items()}
    return pl.DataFrame(frame, schema=dict.fromkeys(frame, pl.String)), notes


def _decoded(data: bytes, name: str) -> Any:
    """The one value in ``data``, or the records on its lines."""
    try:
        return msgspec.json.decode(data)
    except msgspec.DecodeError as error:
        lines = [line for line in data.splitlines() if line.strip()]
        if len(lines) < 2 or not lines[0].lstrip().startswith((b"{", b"[")):
            raise
        found = []
        for number, line in enumerate(lines, start=1):
            try:
                found.append(msgspec.json.decode(line))
            except msgspec.DecodeError as wrong:
                if number == 1:
                    raise error from None
                raise msgspec.DecodeError(f"line {number} is no JSON, {wrong}") from wrong
        return found


def _table_in(
    found: Any, name: str
) -> tuple[Sequence[Record] | None, dict[str, Sequence[Any]] | None, tuple[str, ...]]:
    """The records or the columns that ``found`` holds, directly or under one of its names."""
    if _are_records(found):
        return found, None, ()
    if isinstance(found, list) and found and all(isinstance(row, list) for row in found):
        return None, _of_rows(found, name), ("The first array is taken for the names of the columns.",)
    if isinstance(found, dict):
        if isinstance(found.get("columns"), list) and isinstance(found.get("data"), list):
            names = [each.get("name", "") if isinstance(each, dict) else each for each in found["columns"]]
            return None, _of_rows([names, *found["data"]], name), ()
        inside = {key: value for key, value in found.items() if _are_records(value)}
        if len(inside) == 1:
            (key, records), *_ = inside.items()
            return records, None, (f"The records under {key!r} are read.",)
        if len(inside) > 1:
            longest = max(inside, key=lambda key: len(inside[key]))
            others = ", ".join(repr(key) for key in inside if key != longest)
            return inside[longest], None, (f"The records under {longest!r} are read; there are others under {others}.",)
        if found and all(isinstance(value, list) for value in found.values()):
            return None, dict(found), ()
        if found and all(isinstance(value, dict) for value in found.values()):
            return None, _of_cells(found), ()
        if found and not any(isinstance(value, list | dict) for value in found.values()):
            return [found], None, ()
    raise ReadError(f"{name} does not hold records of one kind: neither rows nor columns can be found in it.")


def _are_records(found: Any) -> bool:
    return isinstance(found, list) and bool(found) and all(isinstance(each, dict) for each in found)


def _of_rows(rows: Sequence[Sequence[Any]], name: str) -> dict[str, Sequence[Any]]:
    """Columns from rows of which the first holds the names."""
    names = [str(each) for each in rows[0]]
    if len(set(names)) < len(names) or any(not isinstance(row, list) or len(row) != len(names) for row in rows):
        raise ReadError(f"{name} has rows of different lengths, or names that stand twice.")
    return {key: [row[position] for row in rows[1:]] for position, key in enumerate(names)}


def _of_cells(found: Mapping[str, Mapping[str, Any]]) -> dict[str, Sequence[Any]]:
    """Columns whose cells stand under the names of the rows."""
    rows: dict[str, None] = {}
    for cells in found.values():
        rows.update(dict.fromkeys(cells))
    return {key: [cells.get(row) for row in rows] for key, cells in found.items()}


def _columns_of(records: Sequence[Record], name: str, most: int) -> dict[str, Sequence[Any]]:
    """Columns from records; a name that a record does not have is a missing cell."""
    names: dict[str, None] = {}
    for record in records:
        names.update(dict.fromkeys(record))
        if len(names) > max(most, _FEW):
            break
    if len(names) > most:
        raise ReadError(f"There are {count(len(names))} columns; at most {count(most)} are read.")
    if len(names) * len(records) > max(_MOST_CELLS, 10 * sum(len(record) for record in records)):
        raise ReadError(f"{name} has {plural(len(records), 'record')} with hardly a name in common; that is no table.")
    return {key: [record.get(key) for record in records] for key in names}


def _text(value: Any) -> str | None:
    if value is None:
        return None
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, float):
        return repr(value)
    return (
        value
        if isinstance(value, str)
        else str(value)
        if isinstance(value, int)
        else msgspec.json.encode(value).decode()
    )
