"""What the picture of cells that are missing together is drawn from."""

from dataclasses import dataclass

from culvix.stats.display import count, plural
from culvix.tables.checks.missing_patterns import MissingPatterns

__all__ = ["MissingPicture", "missing_picture"]

_MOST_COLUMNS, _MOST_PATTERNS = 14, 14


@dataclass(frozen=True)
class MissingPicture:
    """Lines of columns, those with the most gaps first, against patterns, the most frequent first.

    ``gaps`` has the rows with a gap of each column, ``rows`` those of each pattern; ``missing`` says for each column
    in which patterns (from 0) it has one. ``left_out`` are columns and patterns with fewer gaps.
    """

    columns: tuple[str, ...]
    gaps: tuple[int, ...]
    rows: tuple[int, ...]
    missing: tuple[frozenset[int], ...]
    left_out: tuple[int, int]

    @property
    def sentence(self) -> str:
        """The picture in words."""
        first = [name for name, patterns in zip(self.columns, self.missing, strict=True) if 0 in patterns]
        return (
            f"{plural(len(self.rows), 'pattern')} of gaps in {plural(len(self.columns), 'column')}; the most frequent, "
            f"{', '.join(first)}, in {plural(self.rows[0], 'row')}. Gaps by column: "
            f"{', '.join(f'{name} {count(gaps)}' for name, gaps in zip(self.columns, self.gaps, strict=True))}."
        )


def missing_picture(found: MissingPatterns, gaps_by_column: dict[str, int]) -> MissingPicture | None:
    """The picture of ``found``; None where nothing is missing. ``gaps_by_column`` are those of all rows."""
    patterns = found.patterns[:_MOST_PATTERNS]
    if not patterns:
        return None
    named = {name for pattern in patterns for name in pattern.columns}
    ordered = sorted(named, key=lambda name: -gaps_by_column[name])[:_MOST_COLUMNS]
    kept = [pattern for pattern in patterns if any(name in ordered for name in pattern.columns)]
    gappy = sum(gaps > 0 for gaps in gaps_by_column.values())
    return MissingPicture(
        tuple(ordered),
        tuple(gaps_by_column[name] for name in ordered),
        tuple(pattern.rows for pattern in kept),
        tuple(frozenset(at for at, pattern in enumerate(kept) if name in pattern.columns) for name in ordered),
        (gappy - len(ordered), len(found.patterns) + found.others - len(kept)),
    )
