"""What the last rows of a table may be besides data: a total, which would double every sum, or remarks."""

import re
from collections.abc import Sequence

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.display import plural
from culvix.tables.model.options.reading_questions import Choice, ReadingQuestion
from culvix.tables.model.raw_table import RawTable

__all__ = ["row_questions"]

_TOTAL = re.compile(
    r"^\W*(?:grand |sub)?(?:total|totals|sum|sums|summe|gesamt|insgesamt|gesamtsumme|somme|suma|totaal|totale|overall|"
    r"all|average|mean|mittelwert|durchschnitt)\b",
    re.I,
)
_MOST_ROWS = 20
_FEWEST = 3
_SOME = 100


def row_questions(raw: RawTable) -> tuple[ReadingQuestion, ...]:
    """Whether the last rows of ``raw`` are to be left out; ``leave_last`` of the reading options says how many."""
    if raw.rows < _FEWEST + 1 or raw.rows_in_file is not None:
        return ()
    width = len(raw.names)
    rows = np.arange(max(raw.rows - _MOST_ROWS, 0), raw.rows)
    cells = [[(cell or "").strip() for cell in record] for record in raw.records(rows).rows()]
    footer = _footer(cells, width)
    if footer and footer < len(cells):
        return (_footer_question(cells, footer),)
    why = _total(raw, cells)
    return (_total_question(cells[-1], why),) if why else ()


def _footer(cells: Sequence[Sequence[str]], width: int) -> int:
    """How many of the last rows fill their first cell only, where others fill more."""
    if width < 3:
        return 0
    number = 0
    for record in reversed(cells):
        if any(record[1:]) or (record[0] and not re.search(r"[^\W\d_]{2}", record[0])):
            break
        number += 1
    full = sum(sum(map(bool, record)) > width // 2 for record in cells[: len(cells) - number])
    return number if 2 * full > len(cells) - number else 0


def _footer_question(cells: Sequence[Sequence[str]], footer: int) -> ReadingQuestion:
    shown = next((record[0] for record in cells[-footer:] if record[0]), "")
    which = "row fills its" if footer == 1 else f"{footer} rows fill their"
    sentence = f"The last {which} first cell only (“{shown[:40]}”). Data, or remarks below the table?"
    return ReadingQuestion("footer", sentence, _choices(footer, "remarks", "Data"))


def _choices(rows: int, what: str, data: str) -> tuple[Choice, ...]:
    keep = Choice(data, f"{plural(rows, 'row')} kept", {"leave_last": 0}, in_force=True)
    return keep, Choice("Leave out", f"{plural(rows, 'row')} of {what} left out", {"leave_last": rows})


def _total(raw: RawTable, cells: Sequence[Sequence[str]]) -> str:
    """What makes the last row a total; empty where nothing does."""
    last = cells[-1]
    above = {cell for record in cells[:-1] for cell in record}
    named = next((cell for cell in last if _TOTAL.match(cell) and cell not in above), "")
    sums = []
    for name, column in zip(raw.names, raw.columns, strict=True):
        numbers = column.numbers
        some = numbers[: -1 : max(raw.rows // _SOME, 1)]
        if not np.isfinite(numbers[-1]) or _is_ordinary(float(numbers[-1]), some):
            continue
        rest = numbers[:-1][np.isfinite(numbers[:-1])]
        if rest.size < _FEWEST or not rest.any():
            continue
        total = float(rest.sum())
        if abs(total - numbers[-1]) <= 1e-9 * max(abs(total), float(np.abs(rest).max())):
            sums.append(name)
    if named:
        return f"is called “{named[:40]}”" + (f", and holds the sum of {sums[0]}" if sums else "")
    return f"holds the sums of {' and '.join(sums[:3])}" if len(sums) > 1 else ""


def _is_ordinary(last: float, some: Floats) -> bool:
    """Whether ``last`` lies among ``some`` numbers that are all of one sign, so that it is not their sum."""
    with np.errstate(invalid="ignore"):
        same_sign = not (bool((some < 0).any()) and bool((some > 0).any()))
        return same_sign and bool((np.abs(some) > abs(last)).any())


def _total_question(last: Sequence[str], why: str) -> ReadingQuestion:
    sentence = f"The last row {why}. A total that would be counted again in every figure?"
    return ReadingQuestion("total_row", sentence, _choices(1, "totals", "Data"))
