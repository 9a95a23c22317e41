"""The log of a recipe that was run: what was done step by step, and what a person must look at, as data."""

from typing import Any

import msgspec

from culvix.study.recipes.applying import Applied
from culvix.study.recipes.recipe import Recipe
from culvix.study.recipes.replay import Repeated
from culvix.tables.model.table import Table
from culvix.version import VERSION

__all__ = ["FORMAT", "apply_log"]

FORMAT = "culvix-apply-log/1"


def apply_log(recipe: Recipe, applied: Applied) -> bytes:
    """The log as indented JSON (UTF-8); rows are numbers from 1, as in the file."""
    table = applied.study.table
    source = table.source
    document = {
        "format": FORMAT,
        "program": f"Culvix {VERSION}",
        "recipe": {"name": recipe.name, "source": recipe.source.name, "sha256": recipe.source.sha256},
        "source": {
            "name": source.name,
            "sha256": source.sha256,
            "rows": table.rows,
            "columns": len(table.as_read.columns),
        },
        "needs_a_look": applied.needs_review,
        "discrepancies": [
            {
                "kind": each.kind,
                "column": each.column or None,
                "sentence": each.sentence,
                "rows": table.numbers_of(each.row_array).tolist(),
            }
            for each in applied.discrepancies
        ],
        "notes": list(applied.notes),
        "decisions": [_step(each, table) for each in applied.repeated],
    }
    return msgspec.json.format(msgspec.json.encode(document), indent=1) + b"\n"


def _step(repeated: Repeated, table: Table) -> dict[str, Any]:
    step = repeated.step
    return {
        "kind": str(step.kind),
        "column": step.column or None,
        "rule": step.rule.text if step.rule is not None else None,
        "rows": table.numbers_of(repeated.rows).tolist(),
        "not_found": [{"row": cell.row, "key": list(cell.key), "cell": cell.cell} for cell in repeated.cells],
        "obstacle": repeated.obstacle or None,
    }
