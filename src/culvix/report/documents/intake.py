"""The intake document: what reading a file found, before anything is settled (format ``culvix-intake/2``)."""

from collections.abc import Sequence
from typing import Any

from culvix.stats.core.arrays import Ints
from culvix.tables.cells.cell_kinds import FoundKind
from culvix.tables.cells.cell_rules import RULES
from culvix.tables.checks.column_checks import ColumnFinding, check_column, suspected_codes
from culvix.tables.checks.table_checks import TableFinding, check_table
from culvix.tables.model.table import Column, Table

__all__ = ["FORMAT", "intake_document"]

FORMAT = "culvix-intake/2"

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
        "questions": _questions(table),
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
        "missing_by": column.missing_by,
        "token_levels": {token.spelling: token.level for token in column.tokens if token.level},
        "unread": column.unread,
        "distinct": column.distinct,
        "cells": {
            key: {
                "count": found.count,
                "examples": list(found.examples),
                "rows": _rows(found.rows, table),
                "suggestion": _suggestion(found),
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


def _suggestion(found: FoundKind) -> str:
    text = RULES[found.kind.rules[0]]
    return f"{text} ({found.unit})" if found.unit else text


def _questions(table: Table) -> list[Json]:
    """What can be read in more than one way, with what each reading would give."""
    return [
        {
            "kind": asked.kind,
            "question": asked.sentence,
            "columns": list(asked.columns),
            "choices": [
                {"label": each.label, "gives": each.gives, "in_force": each.in_force} for each in asked.choices
            ],
        }
        for asked in table.source.questions
    ]


def _finding(found: ColumnFinding | TableFinding, table: Table) -> Json:
    return {"kind": found.kind, "evidence": found.evidence, "rows": _rows(found.rows, table)}


def _rows(rows: Ints, table: Table) -> list[int]:
    return [int(row) for row in table.numbers_of(rows[:_MOST_ROWS])]
