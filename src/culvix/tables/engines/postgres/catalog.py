"""What a PostgreSQL server says of its tables and their columns."""

import sqlalchemy as sa

from culvix.tables.engines.engine import EngineColumn, Kind
from culvix.tables.engines.postgres.connection import Connection
from culvix.tables.engines.postgres.server_table import ServerTable
from culvix.tables.reading.library_output import library_output_to_log

__all__ = ["columns_of_query", "columns_of_table", "query_as_table", "tables_of"]

_TABLES = """
SELECT n.nspname::text AS schema, c.relname::text AS name, c.relkind::text AS kind,
       c.reltuples::float8 AS rows, coalesce(obj_description(c.oid, 'pg_class'), '') AS comment
FROM pg_catalog.pg_class c JOIN pg_catalog.pg_namespace n ON n.oid = c.relnamespace
WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname <> 'information_schema'
  AND has_any_column_privilege(c.oid, 'SELECT')
ORDER BY n.nspname, c.relname
"""
_COLUMNS = """
SELECT a.attname::text AS name, format_type(a.atttypid, a.atttypmod) AS type, t.typcategory::text AS category,
       t.typtype::text AS made, b.typname::text AS base, coalesce(col_description(c.oid, a.attnum), '') AS label,
       has_column_privilege(c.oid, a.attnum, 'SELECT') AS readable,
       coalesce(a.attnum = ANY (i.indkey::int2[]), false) AS key
FROM pg_catalog.pg_attribute a JOIN pg_catalog.pg_class c ON c.oid = a.attrelid
JOIN pg_catalog.pg_namespace n ON n.oid = c.relnamespace JOIN pg_catalog.pg_type t ON t.oid = a.atttypid
JOIN pg_catalog.pg_type b ON b.oid = CASE WHEN t.typbasetype = 0 THEN t.oid ELSE t.typbasetype END
LEFT JOIN pg_catalog.pg_index i ON i.indrelid = c.oid AND i.indisprimary
WHERE n.nspname = $1 AND c.relname = $2 AND a.attnum > 0 AND NOT a.attisdropped
ORDER BY a.attnum
"""
_KINDS = {"r": "table", "p": "partitioned table", "v": "view", "m": "materialised view", "f": "foreign table"}
_DATES = ("date", "timestamp", "timestamptz")
_LEFT_OUT = ("bytea", "json", "jsonb", "xml", "tsvector", "point", "polygon", "box", "circle", "path", "lseg", "line")


def tables_of(connection: Connection) -> tuple[ServerTable, ...]:
    """All tables and views that the user may read. Raises ServerError."""
    found = connection.ask_text(_TABLES)
    return tuple(
        ServerTable(schema, name, _KINDS[kind], _estimate(kind, rows), comment)
        for schema, name, kind, rows, comment in found.iter_rows()
    )


def _estimate(kind: str, rows: float) -> int | None:
    """The server has none of a view, and of a table that it has not looked at yet it is below 0."""
    return None if kind == "v" or rows < 0 else int(rows)


def columns_of_table(connection: Connection, table: ServerTable) -> tuple[tuple[EngineColumn, ...], tuple[str, ...]]:
    """The columns of ``table`` that the user may read, and what is to be said of the others. Raises ServerError."""
    found = connection.ask_text(_COLUMNS, (table.schema, table.name))
    columns, hidden = [], []
    for row in found.iter_rows(named=True):
        if not row["readable"]:
            hidden.append(row["name"])
            continue
        columns.append(_column(row["name"], row["type"], row["category"], row["base"], row["label"], key=row["key"]))
    notes = (f"no permission to read {', '.join(hidden)}",) if hidden else ()
    return tuple(columns), notes


def query_as_table(query: str, names: tuple[str, ...]) -> sa.Subquery:
    """A ``query`` that gives columns called ``names``, to be asked as if it were a table."""
    text = query.strip().rstrip(";")
    return sa.text(text.replace(":", "\\:")).columns(*(sa.column(name) for name in names)).subquery("asked")


def columns_of_query(connection: Connection, query: str) -> tuple[EngineColumn, ...]:
    """The columns that ``query`` gives. Raises ServerError, for columns of the same name, too."""
    nothing = query_as_table(query, ())
    with library_output_to_log():
        names = connection.ask(sa.select(sa.literal_column("*")).select_from(nothing).limit(0)).columns
    table = query_as_table(query, tuple(names))
    typed = sa.func.pg_typeof
    one = sa.select(*(column for column in table.c)).limit(1).subquery("one")
    row = sa.select(sa.literal(1).label("there")).subquery("row")
    types = sa.select(*(sa.cast(typed(one.c[name]), sa.Text).label(f"t{k}") for k, name in enumerate(names)))
    found = connection.ask(types.select_from(row.outerjoin(one, sa.true())))
    base = {each: found[f"t{index}"][0] for index, each in enumerate(names)}
    known = connection.ask_text(
        "SELECT format_type(oid, NULL) AS type, typcategory::text AS category, typname::text AS base "
        "FROM pg_catalog.pg_type"
    )
    by_type = {row["type"]: (row["category"], row["base"]) for row in known.iter_rows(named=True)}
    columns = []
    for name in names:
        category, plain = by_type.get(base[name], ("X", base[name]))
        columns.append(_column(name, base[name], category, plain, ""))
    return tuple(columns)


def _column(name: str, kind: str, category: str, base: str, label: str, *, key: bool = False) -> EngineColumn:
    if category == "N" and base in ("int2", "int4", "int8"):
        note = "whole numbers beyond 2⁵³ are rounded" if base == "int8" else ""
        return EngineColumn(name, Kind.NUMBER, kind, label, note, whole=True, key=key)
    if category == "N" and base in ("float4", "float8", "numeric"):
        note = "digits beyond those of a double are rounded" if base == "numeric" else ""
        return EngineColumn(name, Kind.NUMBER, kind, label, note, floating=True, key=key)
    if category == "B":
        return EngineColumn(name, Kind.YES_NO, kind, label, whole=True, key=key)
    if base in _DATES:
        return EngineColumn(name, Kind.DATE, kind, label, key=key)
    if category == "A" or base in _LEFT_OUT or category in ("C", "P", "R"):
        return EngineColumn(name, Kind.OTHER, kind, label, f"{kind} is left out", key=key)
    return EngineColumn(name, Kind.TEXT, kind, label, key=key)
