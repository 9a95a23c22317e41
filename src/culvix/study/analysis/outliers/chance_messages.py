"""What is flagged beside what chance alone flags, in words."""

from collections.abc import Iterable

from culvix.progress import Progress, silent
from culvix.stats.display import count
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.outliers.chance_flags import QUICKLY_COUNTED, chance_flags, few_digits
from culvix.study.analysis.outliers.flags import Flags
from culvix.study.document.choices.settings import Settings

__all__ = ["chance_at_most", "chance_text"]


def _by_chance(
    key: str, result: OutlierResult, settings: Settings, column: str, progress: Progress = silent
) -> float | None:
    """How many of as many normal values the method flags, within the groups of ``result`` where it has some."""
    sizes = [group.n for group in result.groups.values() if group.applies] or [result.n]
    found = [chance_flags(key, n, settings, column=column, progress=progress) for n in sizes]
    known = [each for each in found if each is not None]
    return sum(known) if len(known) == len(found) else None


def chance_text(flags: Flags, n: int, settings: Settings, column: str, progress: Progress = silent) -> str:
    """What each method flags of the ``n`` values of ``column`` beside what it flags of normal ones.

    Empty where none can say. Raises whatever ``progress`` raises.
    """
    parts = []
    for key, result in flags.results.items():
        by_chance = _by_chance(key, result, settings, column, progress) if result.applies else None
        if by_chance is not None:
            parts.append(f"{OUTLIER_METHODS[key].short} {count(result.rows.size)} ({few_digits(by_chance)})")
    if not parts:
        return ""
    like = " in these groups" if any(result.groups for result in flags.results.values()) else ""
    rows = f"{count(n)} rows{like}"
    return f"Flagged, and in brackets what chance gives in a normal column of {rows}: {', '.join(parts)}"


def chance_at_most(flags: Flags, keys: Iterable[str], settings: Settings, column: str) -> str:
    """How many values of a normal column all of the methods ``keys`` flag at the most; empty where that takes long.

    Together they flag no more than the one that flags least.
    """
    found = [_by_chance(key, flags.results[key], settings, column) for key in keys if key in QUICKLY_COUNTED]
    known = [each for each in found if each is not None]
    return few_digits(min(known)) if known else ""
