"""Findings about the table as a whole: what was found of it alone, and what is not as in the table before."""

from collections.abc import Iterable

from culvix.study.document.document import Document
from culvix.tables.checks.table_checks import TableFinding

__all__ = ["with_discrepancies"]


def with_discrepancies(document: Document, findings: Iterable[TableFinding]) -> tuple[TableFinding, ...]:
    """The discrepancies of ``document`` as findings, each of its own kind so that it is noted by itself, and others."""
    own = (
        TableFinding(f"{each.kind}_{position}", each.sentence, (each.column,) if each.column else (), each.row_array)
        for position, each in enumerate(document.discrepancies)
    )
    return (*own, *findings)
