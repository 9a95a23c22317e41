"""One table against another, as a report of its own."""

from culvix.report.parts import Head, Listing, Paragraph, Part, Report, Section, TableBlock
from culvix.stats.display import DASH, count, number, p_value, plural, signed
from culvix.study.another_table.column_changes import ColumnChange
from culvix.study.another_table.comparison import TableComparison
from culvix.study.another_table.row_changes import RowChanges

__all__ = ["comparison_report"]

_MOST_CELLS = 300
_MOST_ROWS = 40


def comparison_report(found: TableComparison) -> Report:
    """What is to be read of ``found``: the changes in sentences, numbers of all columns, and rows by key."""
    sections = [Section("changes", "What has changed", _changes(found)), Section("columns", "Columns", _columns(found))]
    if found.rows is not None:
        sections.append(Section("rows", "Rows", _rows(found.rows)))
    sections.append(Section("methods", "Methods", (Paragraph((_METHODS,)),)))
    about = f"{count(found.sizes[0])} rows against {count(found.sizes[1])}"
    return Report(f"{found.here} against {found.there}", (about,), tuple(sections), metadata={"author": ""})


_METHODS = (
    "Columns are matched by name, and proposed by what is in them where names differ. Numbers are compared by the "
    "two-sample Kolmogorov–Smirnov test, levels that both tables have by χ²; p is adjusted over all columns (Holm). "
    "A shift is the difference of means in standard deviations of the other table, or of medians in its IQRs. A change "
    "of unit is proposed where a factor between known units makes both distributions alike; shifts are those after it."
)


def _changes(found: TableComparison) -> tuple[Part, ...]:
    parts: list[Part] = [Paragraph((f"{found.about}.",))]
    items = [(f"{change.pair.here}: {' '.join(note.sentence for note in change.notes)}",) for change in found.changed]
    parts.append(Listing(tuple(items)) if items else Paragraph(("No column differs by more than chance.",)))
    return tuple(parts)


def _columns(found: TableComparison) -> tuple[Part, ...]:
    names = ("column", "n here", "n there", "missing here", "missing there", "shift SD", "shift IQR", "SD ratio")
    heads = (
        *(Head(name, numeric=bool(at)) for at, name in enumerate(names)),
        Head("distance", True),
        Head("p adj.", True),
    )
    rows = tuple(_line(change) for change in found.columns)
    return (TableBlock("Columns of both tables", heads, rows, "The column that changed most stands first."),)


def _line(change: ColumnChange) -> tuple[tuple[str, ...], ...]:
    def shown(value: float | None, *, sign: bool = False) -> str:
        return DASH if value is None else signed(value, 2) if sign else number(value, 2)

    cells = (
        change.pair.here,
        *(count(each) for each in (*change.n, *change.missing)),
        shown(change.shift, sign=True),
        shown(change.median_shift, sign=True),
        shown(change.spread),
        DASH if change.distance is None else number(change.distance, 3),
        p_value(change.adjusted).removeprefix("p ").removeprefix("= ") if change.adjusted is not None else DASH,
    )
    return tuple((cell,) for cell in cells)


def _rows(found: RowChanges) -> tuple[Part, ...]:
    sentences = (
        f"Matched by {' and '.join(found.key)}: {plural(found.both, 'row')} in both tables, {count(found.added.size)} "
        f"added, {count(found.gone.size)} gone, {plural(sum(found.changed.values()), 'cell')} changed"
    )
    repeated = f"; {plural(found.repeated, 'row')} with a repeated key left out" if found.repeated else ""
    parts: list[Part] = [Paragraph((f"{sentences}{repeated}.",))]
    if found.cells:
        heads = tuple(Head(name) for name in ("column", "key", "there", "here"))
        rows = tuple(((c.column,), (c.key,), (c.there,), (c.here,)) for c in found.cells[:_MOST_CELLS])
        more = len(found.cells) - len(rows)
        parts.append(
            TableBlock("Changed cells", heads, rows, f"and {count(more)} more in the data" if more > 0 else "")
        )
    return tuple(parts)
