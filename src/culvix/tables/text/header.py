"""How many lines of names stand above the values of a table, judged from everything that tells names from values.

A line of words above numbers is easy. A line of numbers may be names, too: years, or places counted from 0. What tells
them is the cell in the corner, quotation marks, a sequence, whole numbers above decimals, and values never met below.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import polars as pl

from culvix.tables.cells.cell_kinds import KINDS
from culvix.tables.cells.token_spellings import is_missing_token
from culvix.tables.cells.units import is_unit
from culvix.tables.model.options.reading_questions import Choice, ReadingQuestion
from culvix.tables.text.number_marks import POINT, NumberMarks, written_as_number

__all__ = ["MOST_HEADERS", "InferredHeader", "infer_header"]

MOST_HEADERS = 3
_SURE = 2
_CHANCE = 0.01
_SHOWN = 6

Records = Sequence[Sequence[str]]


@dataclass(frozen=True)
class InferredHeader:
    """How many lines hold names, why, and what is to be asked about them."""

    rows: int
    reason: str
    questions: tuple[ReadingQuestion, ...] = ()


def infer_header(body: Records, marks: NumberMarks = POINT, quoted: Sequence[bool] | None = None) -> InferredHeader:
    """Judge the first lines of ``body``, whose first record is names or values.

    ``quoted`` says of each field of the first record whether it alone stands in quotation marks.
    """
    if len(body) < 2:
        numbers = sum(written_as_number(cell.strip(), marks) for record in body for cell in record)
        if body and 2 * numbers > len(body[0]):
            return InferredHeader(0, "there is one line only, and it holds numbers")
        return InferredHeader(1, "there is one line only, taken for names")
    columns = _columns_below(body)
    numeric = [position for position, cells in enumerate(columns) if _mostly_numbers(cells, marks)]
    if not numeric:
        return InferredHeader(1, "no column holds numbers; the first line is taken for names")
    first = _cells_of(body[0], numeric)
    numbers = sum(written_as_number(cell, marks) for cell in first)
    if 2 * numbers > len(first):
        return _numbers_above(body, columns, numeric, marks, quoted or [])
    return _words_above(body, numeric, marks)


def _columns_below(body: Records) -> list[list[str]]:
    """The filled cells of each column, without the lines that may be names where enough others are left."""
    first = MOST_HEADERS if len(body) > MOST_HEADERS + 1 else 1
    width = max(len(record) for record in body)
    return [
        [record[position].strip() for record in body[first:] if position < len(record) and record[position].strip()]
        for position in range(width)
    ]


def _mostly_numbers(cells: Sequence[str], marks: NumberMarks) -> bool:
    filled = [cell for cell in cells if not is_missing_token(cell)]
    return bool(filled) and 10 * sum(written_as_number(cell, marks) for cell in filled) >= 7 * len(filled)


def _cells_of(record: Sequence[str], positions: Sequence[int]) -> list[str]:
    return [record[position].strip() for position in positions if position < len(record)]


# A first line of numbers


def _numbers_above(
    body: Records, columns: Sequence[Sequence[str]], numeric: Sequence[int], marks: NumberMarks, quoted: Sequence[bool]
) -> InferredHeader:
    """Whether a first line that is mostly numbers is one of names all the same."""
    record = [cell.strip() for cell in body[0]]
    positions = [
        position for position in numeric if position < len(record) and written_as_number(record[position], marks)
    ]
    heads = [record[position] for position in positions]
    values = f"the first line has numbers in {len(positions)} of the {len(numeric)} columns of numbers"
    shown = ", ".join(cell or "(empty)" for cell in record[:_SHOWN]) + (" …" if len(record) > _SHOWN else "")
    if len(set(heads)) < len(heads):
        return InferredHeader(0, f"{values}, some of them twice, as names would not")
    if not all(_float(head, marks) == int(_float(head, marks)) for head in heads) and not (quoted and all(quoted)):
        return InferredHeader(0, f"{values}, with decimals, as names hardly have")
    signs = _signs_of_names(body, columns, numeric, positions, marks, quoted)
    found = sum(weight for weight, _ in signs)
    why = ", ".join(words for _, words in signs)
    rows = 1 if found else 0
    reason = f"the first line is taken for names, though it holds numbers: {why}" if found else values
    sentence = f"The first line reads {shown}. Does it hold the names of the columns, or values?"
    choices = (
        Choice("Names", f"columns called {shown}", {"header_rows": 1}, in_force=rows == 1),
        Choice("Values", "one row more, columns numbered", {"header_rows": 0}, in_force=rows == 0),
    )
    asked = ReadingQuestion("header_or_values", sentence, choices)
    return InferredHeader(rows, reason, () if found >= _SURE else (asked,))


def _signs_of_names(
    body: Records,
    columns: Sequence[Sequence[str]],
    numeric: Sequence[int],
    positions: Sequence[int],
    marks: NumberMarks,
    quoted: Sequence[bool],
) -> list[tuple[int, str]]:
    """What speaks for names in a first line of numbers, each with its weight."""
    record = [cell.strip() for cell in body[0]]
    heads = [_float(record[position], marks) for position in positions]
    signs: list[tuple[int, str]] = []
    if quoted and all(quoted[position] for position in positions if position < len(quoted)):
        signs.append((_SURE, "its fields are quoted, and the numbers below are not"))
    corner = record[0] if record else ""
    if 0 in numeric and 0 not in positions and len(positions) > 1:
        what = "empty" if not corner else f"the word {corner!r}"
        signs.append((_SURE, f"its first cell is {what}, above numbers"))
    elif not corner and len(positions) > 1 and columns and len(columns[0]) > 1:
        signs.append((_SURE, "its first cell is empty, and those below are not"))
    if _is_sequence(heads) and not any(_goes_on_alike(heads, _row(line, positions, marks)) for line in body[1:6]):
        signs.append((_SURE if len(heads) > 3 else 1, "its numbers are a sequence, and those below are not"))
    decimals = [
        position
        for position in positions
        if sum(marks.decimal in cell for cell in columns[position]) * 2 > len(columns[position])
    ]
    if len(decimals) == len(positions) and all(head == int(head) for head in heads):
        signs.append((_SURE if len(positions) > 2 else 1, "its numbers are whole, and those below have decimals"))
    words = (
        corner and any(letter.isalpha() for letter in corner) and all(r and r[0].strip() != corner for r in body[1:])
    )
    if words and signs and 0 not in numeric:
        signs.append((1, f"its first cell is the word {corner!r}, which does not come again"))
    if _foreign(heads, [[_float(cell, marks) for cell in columns[position]] for position in positions]):
        signs.append((1, "its numbers lie outside all values below them"))
    return signs


def _float(cell: str, marks: NumberMarks) -> float:
    """The number in ``cell``, NaN where it holds none."""
    if not written_as_number(cell, marks):
        return float("nan")
    digits = cell.replace("−", "-")
    for mark in ".,'’ \u00a0\u202f\u2009":
        if mark != marks.decimal:
            digits = digits.replace(mark, "")
    return float(digits.replace(marks.decimal, "."))


def _row(record: Sequence[str], positions: Sequence[int], marks: NumberMarks) -> list[float]:
    return [_float(cell, marks) for cell in _cells_of(record, positions)]


def _is_sequence(numbers: Sequence[float]) -> bool:
    """Whether whole numbers rise by the same step: three at least, or two that are years."""
    if len(numbers) < 2 or any(number != number or number != int(number) for number in numbers):
        return False
    steps = {b - a for a, b in pairwise(numbers)}
    years = all(1500 <= number <= 2200 for number in numbers)
    return len(steps) == 1 and steps.pop() > 0 and (len(numbers) > 2 or years)


def _goes_on_alike(heads: Sequence[float], row: Sequence[float]) -> bool:
    """Whether ``row`` is a sequence with the steps of ``heads``, too."""
    return _is_sequence(row) and row[1] - row[0] == heads[1] - heads[0]


def _foreign(heads: Sequence[float], below: Sequence[Sequence[float]]) -> bool:
    """Whether heads lie so often outside the values below that it is hardly chance."""
    chance = 1.0
    for head, column in zip(heads, below, strict=True):
        values = [value for value in column if value == value]
        ordered = values == sorted(values) or values == sorted(values, reverse=True)
        if len(values) < 3 or ordered:
            continue
        if min(values) <= head <= max(values):
            return False
        chance *= 2 / (len(values) + 1)
    return chance < _CHANCE


# A first line of words


def _words_above(body: Records, numeric: Sequence[int], marks: NumberMarks) -> InferredHeader:
    """How many lines of names follow the first: units, or the lower of two levels of names."""
    for row, record in enumerate(body[1:MOST_HEADERS], start=1):
        cells = _cells_of(record, numeric)
        if any(_is_value(cell, marks) or not cell for cell in cells):
            return InferredHeader(row, _above_words(row))
        if row > 1 and _come_again(body[1:row], body[row:]):
            break
        if not (_are_units(cells) or _is_lower_level(body[row - 1], record)):
            return InferredHeader(row, _above_words(row), _asked_second(record, row) if len(cells) > 1 else ())
    else:
        rows = min(MOST_HEADERS, len(body) - 1)
        return InferredHeader(rows, _above_words(rows))
    return InferredHeader(1, "the first line is taken for names: words of the lines after it come again below")


def _above_words(rows: int) -> str:
    return f"{'the line' if rows == 1 else f'the {rows} lines'} above the first values"


def _is_value(cell: str, marks: NumberMarks) -> bool:
    """Whether ``cell`` is a number, stands for a missing one, or holds one with something around it."""
    if written_as_number(cell, marks) or is_missing_token(cell):
        return True
    one_cell = pl.Series([cell])
    return any(one_cell.str.contains(kind.pattern)[0] for key, kind in KINDS.items() if key != "text")


def _are_units(cells: Sequence[str]) -> bool:
    """Whether most ``cells`` are units of measurement, or stand in brackets as units do."""
    units = sum(is_unit(cell) or bool(re.fullmatch(r"[(\[].{1,20}[)\]]", cell)) for cell in cells)
    return 2 * units > len(cells)


def _is_lower_level(above: Sequence[str], record: Sequence[str]) -> bool:
    """Whether ``above`` names groups of columns: some of its cells are empty or the same, and none below is."""
    heads = [cell.strip() for cell in above]
    names = [cell.strip() for cell in record]
    if len(heads) < 3 or not all(names):
        return False
    filled = [head for head in heads if head]
    return 0 < len(filled) < len(heads) or len(set(filled)) < len(filled)


def _come_again(above: Records, below: Records) -> bool:
    """Whether a cell ``above`` stands in its column ``below``, too, as names and units do not."""
    for position in range(max((len(record) for record in above), default=0)):
        words = {record[position].strip() for record in above if position < len(record)} - {""}
        if any(position < len(record) and record[position].strip() in words for record in below):
            return True
    return False


def _asked_second(record: Sequence[str], row: int) -> tuple[ReadingQuestion, ...]:
    shown = ", ".join(cell.strip() for cell in record[:_SHOWN])
    choices = (
        Choice("Values", "a row whose cells are no numbers", {"header_rows": row}, in_force=True),
        Choice("Names", "one row less, names of two lines", {"header_rows": row + 1}),
    )
    sentence = f"Line {row + 1} of the table reads {shown}. Does it hold values, or a second line of names?"
    return (ReadingQuestion("second_header", sentence, choices),)
