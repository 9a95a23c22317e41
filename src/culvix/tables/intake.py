"""The intake document: what reading a file found, before anything is settled (format ``culvix-intake/1``)."""

from collections.abc import Sequence
from typing import Any

from culvix.stats.arrays import Ints
from culvix.tables.checks import ColumnFinding, check_column, suspected_codes
from culvix.tables.comparisons import TableFinding, check_table
from culvix.tables.table import Column, Table
from culvix.tables.treatments import RULES

__all__ = ["FORMAT", "intake_document"]

FORMAT = "culvix-intake/1"

Json = dict[str, Any]

_MOST_ROWS = 1000


def intake_document(table: Table, key: Sequence[str] = ()) -> Json:
    """Everything that was judged about ``table``, ready to be written as JSON; rows are counted from 1.

    ``key`` names columns whose cells together should tell every row apart. Raises CulvixError for one there is none of.
    """
    source = table.source
    return {
        "format": FORMAT,
        "source": {
            "name": source.name,
            "sha256": source.sha256,
            "kind": source.kind,
            "rows": table.rows,
            "columns": len(table.columns),
            "duplicate_rows": int(table.repeated_rows.size),
            "complete_rows": table.complete_rows,
            "parts": list(source.parts),
            "part": source.part or None,
            "notes": list(source.notes),
        },
        "dialect": _dialect(table),
        "columns": [_column(column, table) for column in table],
        "findings": [{**_finding(found, table), "columns": list(found.columns)} for found in check_table(table, key)],
    }


def _dialect(table: Table) -> Json:
    dialect = table.source.dialect
    parts = ("delimiter", "quote", "decimal", "thousands", "header_rows", "preamble_rows", "comment")
    found: Json = {name: getattr(dialect, name) if dialect else None for name in parts}
    found["encoding"] = table.source.encoding or None
    found["reasons"] = dict(dialect.reasons) if dialect else {"kind": f"the file is a {table.source.kind}"}
    return found


def _column(column: Column, table: Table) -> Json:
    codes = suspected_codes(column.sample) if column.is_numeric else []
    return {
        "name": column.name,
        "label": column.label,
        "unit": column.unit,
        "role": str(column.role),
        "reason": column.reason,
        "n": column.rows - column.missing - column.unread,
        "missing": column.missing,
        "unread": column.unread,
        "distinct": column.distinct,
        "cells": {
            key: {
                "count": found.count,
                "examples": list(found.examples),
                "rows": _rows(found.rows, table),
                "suggestion": RULES[found.kind.rules[0]],
                "rule": found.kind.rules[0],
            }
            for key, found in column.kinds.items()
        },
        "suspected_codes": [
            {"value": code.value, "count": code.count, "rows": _rows(code.rows, table), "reason": code.reason}
            for code in codes
        ],
        "findings": [_finding(found, table) for found in check_column(column, table.repeated_rows)],
    }


def _finding(found: ColumnFinding | TableFinding, table: Table) -> Json:
    return {"kind": found.kind, "evidence": found.evidence, "rows": _rows(found.rows, table)}


def _rows(rows: Ints, table: Table) -> list[int]:
    return [int(row) for row in table.numbers_of(rows[:_MOST_ROWS])]
