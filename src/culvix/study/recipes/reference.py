"""What a column looked like when a recipe was made: the summary that the next table is compared with."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

import numpy as np

from culvix.stats.core.arrays import Ints
from culvix.study.analysis.workspace import Workspace
from culvix.tables.model.dictionary import Bounds
from culvix.tables.model.table import Column, Role

__all__ = ["FLAGGED_ROLES", "ColumnReference", "open_flags", "outside_range", "reference_of"]

FLAGGED_ROLES = frozenset({Role.MEASURE, Role.COUNT, Role.ORDERED})
_LEVELLED_ROLES = frozenset({Role.CATEGORY, Role.ORDERED, Role.YES_NO})
_MOST_LEVELS = 500
_SHARES = np.linspace(0, 1, 101)


@dataclass(frozen=True)
class ColumnReference:
    """One column in figures.

    ``n`` are its numbers, or its texts where it has none; ``missing`` and ``unread`` count other cells, ``unread``
    by kind. ``quantiles`` are 101 values of type 1 at the shares 0, 0.01 … 1, as imported, ``levels`` the texts of a
    category with their counts; either is empty where it says nothing. ``open_flags`` are flagged values without a
    decision, ``open_outside`` those of them outside the declared range.
    """

    role: Role
    n: int
    missing: int = 0
    unread: Mapping[str, int] = field(default_factory=lambda: MappingProxyType({}))
    quantiles: tuple[float, ...] = ()
    levels: Mapping[str, int] = field(default_factory=lambda: MappingProxyType({}))
    open_flags: int = 0
    open_outside: int = 0


def reference_of(workspace: Workspace, column: Column) -> ColumnReference:
    """The summary of ``column`` under the decisions of ``workspace``."""
    values = column.sample.sorted if column.role in FLAGGED_ROLES and column.is_numeric else np.zeros(0)
    quantiles: tuple[float, ...] = ()
    if values.size:
        quantiles = tuple(np.quantile(values, _SHARES, method="inverted_cdf").tolist())
    return ColumnReference(
        role=column.role,
        n=int(column.present.sum()),
        missing=column.missing,
        unread=MappingProxyType({key: kind.count for key, kind in column.kinds.items()}),
        quantiles=quantiles,
        levels=MappingProxyType(_levels(column)),
        open_flags=int(open_flags(workspace, column).size),
        open_outside=int(outside_range(workspace, column, workspace.bounds(column.name)).size),
    )


def _levels(column: Column) -> dict[str, int]:
    if column.role not in _LEVELLED_ROLES or column.texts_up_to(_MOST_LEVELS) is None:
        return {}
    return dict(sorted(column.most_frequent(_MOST_LEVELS)))


def open_flags(workspace: Workspace, column: Column) -> Ints:
    """The flagged rows (from 0, ascending) of ``column`` without a decision."""
    if column.role not in FLAGGED_ROLES or not column.is_numeric or not column.is_data:
        return np.zeros(0, dtype=np.int64)
    flagged = workspace.analysis(column.name).flags.rows
    return np.setdiff1d(flagged, workspace.working.decided(column.name), assume_unique=True)


def outside_range(workspace: Workspace, column: Column, bounds: Bounds) -> Ints:
    """The rows (from 0, ascending) whose value of ``column`` is outside ``bounds`` and carries no decision."""
    low, high = bounds
    if column.values is None or (low is None and high is None):
        return np.zeros(0, dtype=np.int64)
    with np.errstate(invalid="ignore"):
        outside = (column.values < (-np.inf if low is None else low)) | (
            column.values > (np.inf if high is None else high)
        )
    return np.setdiff1d(np.flatnonzero(outside), workspace.working.decided(column.name), assume_unique=True)
