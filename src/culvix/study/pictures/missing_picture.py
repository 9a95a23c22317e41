"""What the picture of cells that are missing together is drawn from."""

from dataclasses import dataclass

from culvix.stats.display import count, plural
from culvix.tables.checks.missing_patterns import MissingPattern, MissingPatterns

__all__ = ["MissingPicture", "missing_picture"]

_MOST_COLUMNS, _MOST_PATTERNS = 14, 14


@dataclass(frozen=True)
class MissingPicture:
    """Lines of ``columns``, those with the most ``gaps`` first, against ``patterns``, the most frequent first.

    ``left_out`` are how many columns and patterns with fewer gaps are not in it.
    """

    columns: tuple[str, ...]
    gaps: tuple[int, ...]
    patterns: tuple[MissingPattern, ...]
    left_out: tuple[int, int]

    @property
    def sentence(self) -> str:
        """The picture in words."""
        first = self.patterns[0]
        return (
            f"{plural(len(self.patterns), 'pattern')} of gaps in {plural(len(self.columns), 'column')}; the most "
            f"frequent, {', '.join(first.columns)}, in {plural(first.rows, 'row')}. Gaps by column: "
            f"{', '.join(f'{name} {count(gaps)}' for name, gaps in zip(self.columns, self.gaps, strict=True))}."
        )


def missing_picture(found: MissingPatterns, gaps_by_column: dict[str, int]) -> MissingPicture | None:
    """The picture of ``found``; None where nothing is missing. ``gaps_by_column`` are those of all rows."""
    patterns = found.patterns[:_MOST_PATTERNS]
    if not patterns:
        return None
    named = dict.fromkeys(name for pattern in patterns for name in pattern.columns)
    ordered = sorted(named, key=lambda name: -gaps_by_column[name])[:_MOST_COLUMNS]
    shown = tuple(pattern for pattern in patterns if not set(ordered).isdisjoint(pattern.columns))
    gappy = sum(gaps > 0 for gaps in gaps_by_column.values())
    return MissingPicture(
        tuple(ordered),
        tuple(gaps_by_column[name] for name in ordered),
        shown,
        (gappy - len(ordered), len(found.patterns) + found.others - len(shown)),
    )
