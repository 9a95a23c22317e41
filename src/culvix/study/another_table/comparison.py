"""This table against another one, column by column, the one that changed most first."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.stats.display import count, plural
from culvix.stats.resampling.multiple_testing import holm
from culvix.study.another_table.column_changes import ColumnChange, compare_column_of, with_changed_cells
from culvix.study.another_table.matching import Matching, match_columns
from culvix.study.another_table.row_changes import RowChanges, compare_rows, likely_key
from culvix.tables.model.table import Table

__all__ = ["TableComparison", "compare_tables"]


@dataclass(frozen=True, eq=False)
class TableComparison:
    """``here`` against ``there``, both by name: the ``matching`` of columns, how each changed, and the rows by key.

    ``columns`` stand in order of how much they changed; ``rows`` is None where no key is in both tables.
    """

    here: str
    there: str
    sizes: tuple[int, int]
    matching: Matching
    columns: tuple[ColumnChange, ...]
    rows: RowChanges | None
    level: float

    @property
    def changed(self) -> tuple[ColumnChange, ...]:
        """The columns of which there is something to say."""
        return tuple(column for column in self.columns if column.notes)

    @property
    def about(self) -> str:
        """Both tables in a sentence."""
        parts = [f"{count(self.sizes[0])} rows against {count(self.sizes[1])} of {self.there}"]
        parts.append(f"{plural(len(self.columns), 'column')} in both, {len(self.changed)} changed")
        for names, words in ((self.matching.new, "only here"), (self.matching.gone, "only there")):
            if names:
                parts.append(f"{words}: {', '.join(names[:8])}{' …' if len(names) > 8 else ''}")
        return "; ".join(parts)

    def change_of(self, name: str) -> ColumnChange | None:
        """How the column called ``name`` here changed; None where it is not in both."""
        return next((change for change in self.columns if change.pair.here == name), None)


def compare_tables(
    here: Table,
    there: Table,
    *,
    values: Mapping[str, Floats] | None = None,
    key: Sequence[str] = (),
    level: float = 0.05,
    progress: Progress = silent,
) -> TableComparison:
    """Compare ``here`` with ``there``; p is adjusted over all columns (Holm), and told at or below ``level``.

    ``values`` are those in use of columns of numbers here, by name. Rows are matched by the columns ``key``, or by an
    identifier that both tables have. Raises CulvixError for a key that is not in both.
    """
    progress(0.0, "matching the columns")
    matching = match_columns(here, there)
    values = values or {}
    changes = []
    for position, pair in enumerate(matching.pairs):
        progress(0.1 + 0.7 * position / len(matching.pairs), f"comparing {pair.here}")
        changes.append(compare_column_of(here[pair.here], there[pair.there], pair, values.get(pair.here)))
    tested = [at for at, change in enumerate(changes) if change.p is not None]
    adjusted = holm(np.array([changes[at].p for at in tested], dtype=np.float64)).tolist()
    for at, p in zip(tested, adjusted, strict=True):
        changes[at] = changes[at].adjusted_to(p, level)
    by = tuple(key) or likely_key(here, there, matching)
    rows = None
    if by:
        rows = compare_rows(here, there, matching, by, lambda share, words: progress(0.8 + 0.2 * share, words))
        changes = [with_changed_cells(change, rows.changed.get(change.pair.here, 0)) for change in changes]
    changes.sort(key=lambda change: (not change.notes, -change.moved))
    names = here.source.path.stem, there.source.path.stem
    return TableComparison(*names, (here.rows, there.rows), matching, tuple(changes), rows, level)
