"""The columns of a table under what is said of them, and those worked out: functions of source and document.

Reading a column anew takes a while where it is long; the versions used last are kept, so that undo brings them at once.
"""

from collections import OrderedDict
from collections.abc import Mapping, Sequence

import msgspec

from culvix.tables.model.column_builder import reread
from culvix.tables.model.derived.derivation import Derivation
from culvix.tables.model.derived.derived_columns import derive, derive_by_rule, relabelled
from culvix.tables.model.dictionary import ColumnEntry, Dictionary
from culvix.tables.model.table import Column, Table

__all__ = ["ColumnVersions"]

BUDGET = 256 << 20
"""Bytes that the numbers of versions out of use may take."""


def _content(entry: ColumnEntry) -> bytes:
    """The same for entries under which a column is read the same way; its valid range has no part in that."""
    return msgspec.json.encode(entry.without_range, enc_hook=dict)


class ColumnVersions:
    """Columns by what they follow from: the column as read, and what is said of it."""

    def __init__(self, base: Table, dictionary: Dictionary) -> None:
        """``base`` is the table as it was read under ``dictionary``."""
        self.base = base
        self._versions: OrderedDict[tuple[object, ...], Column] = OrderedDict()
        for column in base:
            self.add(column.name, dictionary.of(column.name), column)

    def add(self, name: str, entry: ColumnEntry, column: Column) -> None:
        """Take in ``column``, the one called ``name`` read under ``entry``."""
        self._versions[name, _content(entry)] = column

    def table(self, dictionary: Dictionary, derivations: Mapping[str, Derivation]) -> Table:
        """The table under ``dictionary``, with the columns that are worked out.

        Raises CulvixError where a column that another one follows is not there, or has no numbers.
        """
        columns = [self._read(column, dictionary.of(column.name)) for column in self.base]
        for name, derivation in derivations.items():
            names = [column.name for column in columns]
            known = [names.index(source) for source in derivation.sources]
            sources = [columns[at] for at in known]
            columns.insert(max(known) + 1, self._derived(name, sources, derivation, dictionary))
        table = self.base.with_columns(columns, dictionary.key, dictionary.provenance)
        self._make_room(len(columns))
        return table

    def _read(self, base: Column, entry: ColumnEntry) -> Column:
        key = (base.name, _content(entry))
        if key not in self._versions:
            self._versions[key] = reread(base, entry)
        self._versions.move_to_end(key)
        return self._versions[key]

    def _derived(self, name: str, sources: Sequence[Column], derivation: Derivation, dictionary: Dictionary) -> Column:
        entry, follows = dictionary.of(name), (name, *sources, derivation)
        key = (*follows, _content(entry))
        if key not in self._versions:
            same = next((column for known, column in self._versions.items() if known[:-1] == follows), None)
            # Values outside the domain of the scale are refused when the column is added; later they are left missing.
            if same is not None:
                made = relabelled(same, entry)
            elif derivation.rule is None:
                made = derive(name, sources[0], derivation, entry, lenient=True)
            else:
                orders = {source.name: dictionary.of(source.name).date_order for source in sources}
                made = derive_by_rule(name, {source.name: source for source in sources}, derivation, entry, orders)
            self._versions[key] = made
        self._versions.move_to_end(key)
        return self._versions[key]

    def _make_room(self, used: int) -> None:
        """Let go of the versions that were used longest ago; the last ``used`` are those in use."""
        sizes = [0 if column.values is None else column.values.nbytes for column in self._versions.values()]
        unused = sum(sizes[: len(sizes) - used])
        while unused > BUDGET:
            _, column = self._versions.popitem(last=False)
            unused -= 0 if column.values is None else column.values.nbytes
