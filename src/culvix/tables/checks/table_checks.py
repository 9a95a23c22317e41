"""What looks wrong between columns: the same twice, a rescaling, nearly the same thing, labels swapped."""

import hashlib
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np
import polars as pl

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.correlation.pair_sums import average_ranks
from culvix.stats.display import count, number, per_cent, plural, significant
from culvix.tables.checks.swapped_values import exchanged_rows, swapped_text
from culvix.tables.model.table import Column, Role, Table

__all__ = ["TableFinding", "check_table", "repeated_by"]

_MOST_COLUMNS = 120
_NAMED = 4
_MOST_ROWS = 5000
_FEWEST_ROWS = 20
_SOME = 500
"""About so many rows tell whether the ranks of two columns agree at all."""

_FEW_GAPS, _SOMEWHAT = 0.8, 0.5
_EXACT, _CLOSE = 1e-6, 0.05
"""Largest residual, in IQRs, of a rescaling and of two readings of nearly the same thing."""

_OPPOSITES = (("min", "max"), ("minimum", "maximum"), ("low", "high"), ("lower", "upper"), ("start", "end"))


@dataclass(frozen=True)
class TableFinding:
    """Something to know about several columns, or about the whole table where ``columns`` is empty."""

    kind: str
    evidence: str
    columns: tuple[str, ...] = ()
    rows: Ints = field(default_factory=lambda: np.zeros(0, dtype=np.int64))

    @property
    def key(self) -> tuple[str, ...]:
        """What the finding is about; equal for the same finding on another day."""
        return (self.kind, *self.columns)


def check_table(table: Table, key: Sequence[str] = (), *, progress: Progress = silent) -> Iterator[TableFinding]:
    """What there is to know about ``table`` as a whole, and of rows alike in the columns of ``key``.

    Raises CulvixError for a column there is none of.
    """
    repeated = int(table.repeated_rows.size)
    if repeated:
        evidence = f"{count(repeated)} of {count(table.rows)} rows repeat an earlier row in every cell."
        yield TableFinding("duplicate_rows", evidence, rows=table.repeated_rows)
    key = key or [name for name in table.key if name in table]
    if key:
        rows = repeated_by(table, key)
        if rows.size:
            evidence = f"{plural(int(rows.size), 'row')} repeat an earlier row in {' and '.join(key)}."
            yield TableFinding("repeated_key", evidence, tuple(key), rows)
    dialect = table.source.dialect
    for asked in table.source.questions:
        yield TableFinding(asked.kind, asked.sentence, asked.columns)
    asked_already = any(asked.kind == "header_or_values" for asked in table.source.questions)
    if dialect is not None and not dialect.header_rows and not asked_already:
        yield TableFinding("no_header", "The first line holds values like the lines below it, not names.")
    same = list(_duplicates(table))
    yield from same
    taken = {column for finding in same for column in finding.columns[1:]}
    measured = [c for c in table.numeric if c.role in (Role.MEASURE, Role.COUNT) and c.name not in taken]
    yield from _related(measured[:_MOST_COLUMNS], progress)
    yield from _swapped(measured)
    for first, second, rows in exchanged_rows(measured):
        yield TableFinding("exchanged_values", swapped_text(first, second, rows), (first.name, second.name), rows)


def repeated_by(table: Table, key: Sequence[str]) -> Ints:
    """Rows (ascending, from 0) whose cells in the columns of ``key`` are all present and those of an earlier row."""
    columns = [table[name] for name in key]
    filled = np.flatnonzero(np.all([column.present for column in columns], axis=0))
    cells = pl.DataFrame([column.text.str.strip_chars().gather(filled).alias(column.name) for column in columns])
    again = ~cells.to_struct("key").is_first_distinct().to_numpy()
    return np.asarray(filled[again], dtype=np.int64)


def _fingerprint(numbers: Floats) -> bytes:
    """The same for the same numbers, found without keeping other threads from their work."""
    return hashlib.blake2b(np.ascontiguousarray(numbers).data, digest_size=16).digest()


def _duplicates(table: Table) -> Iterator[TableFinding]:
    """Columns whose cells are the same throughout."""
    seen: dict[tuple[int, int, bytes], list[Column]] = {}
    for column in table:
        if column.missing < table.rows and column.distinct > 1:
            texts = int(column.raw.nonnumeric_texts.hash().sum() or 0)
            seen.setdefault((column.distinct, texts, _fingerprint(column.raw.numbers)), []).append(column)
    for group in seen.values():
        same = [column for column in group if _same_cells(column, group[0])]
        # A number of the row that is an identifier, too, is nothing to ask about.
        if len(same) > 1 and not all(column.role is Role.IDENTIFIER for column in same):
            names = tuple(column.name for column in same)
            yield TableFinding("duplicate_columns", f"{' and '.join(names)} are the same in every cell.", names)


def _same_cells(one: Column, other: Column) -> bool:
    a, b = one.raw, other.raw
    texts = a.nonnumeric_texts.rename("").equals(b.nonnumeric_texts.rename(""))
    if not (
        texts
        and np.array_equal(a.nonnumeric_rows, b.nonnumeric_rows)
        and np.array_equal(a.numbers, b.numbers, equal_nan=True)
    ):
        return False
    # Beyond 2**53 doubles are the same for different numbers.
    large = np.flatnonzero(np.abs(a.numbers) >= 2**53)
    return not large.size or a.texts.at(large).rename("").equals(b.texts.at(large).rename(""))


def _sampled(columns: Sequence[Column]) -> list[Floats]:
    """Evenly taken rows of each column: enough to tell a line from a cloud."""
    rows = columns[0].rows
    step = max(rows // _MOST_ROWS, 1)
    return [column.sample.values[::step] for column in columns]


def _related(columns: Sequence[Column], progress: Progress) -> Iterator[TableFinding]:
    """Columns that follow each other by a line: one finding for all that hang together."""
    pairs = list(_rescaled(columns, progress))
    groups: list[set[str]] = []
    for pair in pairs:
        joined = [group for group in groups if group & set(pair.columns)]
        groups = [group for group in groups if group not in joined] + [set(pair.columns).union(*joined)]
    names = [column.name for column in columns]
    for group in sorted(groups, key=lambda group: min(map(names.index, group))):
        mine = [pair for pair in pairs if set(pair.columns) <= group]
        if len(mine) == 1:
            yield mine[0]
            continue
        exact = all(pair.kind == "rescaled_columns" for pair in mine)
        members = tuple(name for name in names if name in group)
        first = [pair.evidence for pair in mine if pair.columns[0] == members[0]]
        what = "are rescalings of each other" if exact else "are readings of nearly the same thing"
        listed = f"{', '.join(members[:_NAMED])}{' …' if len(members) > _NAMED else ''}"
        words = f"{plural(len(members), 'column')} {what} ({listed}): {' '.join(first[:_NAMED])}"
        yield TableFinding("rescaled_columns" if exact else "collinear_columns", words, members)


def _rescaled(columns: Sequence[Column], progress: Progress) -> Iterator[TableFinding]:
    if len(columns) < 2:
        return
    values = _sampled(columns)
    finite = [np.isfinite(x) for x in values]
    alike = _roughly_alike(values, finite)
    for i, j in combinations(range(len(values)), 2):
        if j == i + 1:
            progress(i / len(values), f"comparing {columns[i].name} with the others")
        if not alike[i, j]:
            continue
        both = finite[i] & finite[j]
        a, b = values[i][both], values[j][both]
        if a.size >= _FEWEST_ROWS and _ranks_agree(a, b):
            yield from _line_between(columns[i].name, columns[j].name, a, b)


def _roughly_alike(values: Sequence[Floats], finite: Sequence[Bools]) -> Bools:
    """Shape ``(k, k)``: which pairs are worth a closer look, found for all at once.

    Of columns with few gaps, ranks that agree where both are there still agree somewhat when gaps count as the middle.
    """
    some = slice(None, None, max(values[0].size // _SOME, 1))
    centred = np.zeros((len(values), values[0][some].size))
    for ranks, x, there in zip(centred, values, finite, strict=True):
        present = there[some]
        if present.any():
            of_present = average_ranks(x[some][present])
            ranks[present] = of_present - of_present.mean()
    length = np.linalg.norm(centred, axis=1)
    length[length == 0] = 1.0
    unit = centred / length[:, None]
    gappy = np.array([there[some].mean() < _FEW_GAPS for there in finite])
    return np.asarray((np.abs(unit @ unit.T) > _SOMEWHAT) | gappy[:, None] | gappy[None, :])


def _ranks_agree(a: Floats, b: Floats) -> bool:
    some = slice(None, None, max(a.size // _SOME, 1))
    with np.errstate(invalid="ignore"):
        r = np.corrcoef(average_ranks(a[some]), average_ranks(b[some]))[0, 1]
    return bool(abs(r) > 0.97)


def _line_between(x: str, y: str, a: Floats, b: Floats) -> Iterator[TableFinding]:
    """Whether ``b`` follows ``a`` by a line: through the quartiles, so that a few wrong rows do not hide it."""
    with np.errstate(all="ignore"):
        low, high = np.quantile(a, (0.25, 0.75))
        outer_low, outer_high = a <= low, a >= high
        slope = (np.median(b[outer_high]) - np.median(b[outer_low])) / (
            np.median(a[outer_high]) - np.median(a[outer_low])
        )
        foot = float(np.median(b - slope * a))
        spread = float(np.subtract(*np.quantile(b, (0.75, 0.25))))
        left = float(np.median(np.abs(b - slope * a - foot))) / spread if spread > 0 else np.inf
        ratios = b[a != 0] / a[a != 0]
        ratio = float(np.median(ratios)) if ratios.size else np.nan
        constant = float(np.median(np.abs(ratios / ratio - 1))) if ratios.size and ratio else np.inf
    if not np.isfinite(left):
        return
    if constant < _EXACT and abs(ratio - 1) < _EXACT:
        differing = int((a != b).sum())
        same = f"but for {plural(differing, 'row')} of those compared" if differing else "wherever both hold one"
        yield TableFinding("rescaled_columns", f"{y} and {x} hold the same numbers {same}.", (x, y))
    elif constant < _EXACT:
        yield TableFinding("rescaled_columns", f"{y} is {significant(ratio)} times {x}.", (x, y))
    elif left < _EXACT:
        sign = "+" if foot >= 0 else "−"
        words = f"{y} is {significant(float(slope))} × {x} {sign} {significant(abs(foot))}."
        yield TableFinding("rescaled_columns", words, (x, y))
    elif left < _CLOSE:
        words = f"{y} follows {x} to within {per_cent(left, 1)} of its IQR: two readings of nearly the same thing."
        yield TableFinding("collinear_columns", words, (x, y))


def _swapped(columns: Sequence[Column]) -> Iterator[TableFinding]:
    """A column called the smaller of two that is the larger in nearly every row."""
    names = {column.name.lower(): column for column in columns}
    for small, large in _OPPOSITES:
        pattern = re.compile(rf"(^|[_\s\-.]){small}(?=$|[_\s\-.])")
        for name, column in names.items():
            other = names.get(pattern.sub(rf"\g<1>{large}", name)) if pattern.search(name) else None
            if other is None:
                continue
            a, b = column.sample.values, other.sample.values
            both = np.isfinite(a) & np.isfinite(b)
            above = int((a[both] > b[both]).sum())
            if both.sum() >= 5 and above > 0.9 * both.sum():
                words = f"{column.name} is above {other.name} in {count(above)} of {number(int(both.sum()))} rows."
                yield TableFinding("swapped_labels", words, (column.name, other.name))
