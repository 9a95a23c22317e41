"""The dialect of a delimited text: how lines split into cells and how numbers are written, guessed with reasons.

Every candidate delimiter splits the first lines; the one whose lines agree most in their number of fields, and whose
fields look most like values, is taken. Header and preamble follow from where the numbers begin.
"""

import csv
import io
import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from culvix.errors import ReadError
from culvix.tables.lines import DELIMITERS, records

__all__ = ["Dialect", "guess_dialect", "sample_lines"]

_SAMPLE = 1 << 16
_LINES = 300
_MOST_HEADERS = 3
_COMMENTS = ("#", "%", "//", ";")
_PLAIN = re.compile(r"^[+\-−]?(\d+\.?\d*|\.\d+)([eE][+\-]?\d+)?$")
_COMMA = re.compile(r"^[+\-−]?(\d{1,3}([.'’ \u00a0\u202f]\d{3})+|\d*),\d+([eE][+\-]?\d+)?$")
_VALUE = re.compile(r"^(|[<>≤≥]?\s*[+\-−]?[\d.,]+([eE][+\-]?\d+)?\s*\S{0,5}|\d{4}-\d{2}-\d{2}.*|[^,;|\t]{1,30})$")


@dataclass(frozen=True)
class Dialect:
    """How a delimited text is written. ``reasons`` has a sentence for each part that was guessed.

    ``comment`` is the mark with which lines to leave out begin; ``header_rows`` may be 0. ``decimal`` is "." or ",".
    """

    delimiter: str = ","
    quote: str = '"'
    decimal: str = "."
    thousands: str = ""
    header_rows: int = 1
    preamble_rows: int = 0
    comment: str = ""
    reasons: Mapping[str, str] = field(default_factory=dict)

    @property
    def delimiter_name(self) -> str:
        return DELIMITERS.get(self.delimiter, repr(self.delimiter))

    def changed(self, **parts: str | int) -> "Dialect":
        """The same dialect with ``parts`` chosen by hand."""
        said = {**self.reasons, **dict.fromkeys(parts, "chosen by hand")}
        return replace(self, **parts, reasons=said)  # type: ignore[arg-type]


def sample_lines(utf8: bytes, most: int = _LINES) -> list[str]:
    """The first lines of a text, without one that is cut off."""
    sample = utf8[:_SAMPLE]
    if len(utf8) > _SAMPLE and b"\n" in sample:
        sample = sample[: sample.rfind(b"\n") + 1]
    return sample.decode("utf-8", errors="replace").splitlines()[:most]


def guess_dialect(utf8: bytes) -> Dialect:
    """The dialect that fits the beginning of ``utf8`` best. Raises ReadError where no line holds anything."""
    lines = sample_lines(utf8)
    if not any(line.strip() for line in lines):
        raise ReadError("There is no line with anything in it.")
    comment = _comment(lines)
    kept = [line for line in lines if not (comment and line.startswith(comment))]
    quote = _quote(kept)
    candidates = {delimiter: _split(kept, delimiter, quote) for delimiter in DELIMITERS}
    # A space is taken last: text is full of them.
    delimiter = max(candidates, key=lambda mark: (_quality(candidates[mark]), mark != " "))
    split = candidates[delimiter]
    width, agree = _width(split)
    preamble = _preamble(split, width)
    body = [record for record in split[preamble:] if record]
    decimal, why_decimal = _decimal(body, delimiter)
    headers, why_header = _header_rows(body, decimal)
    reasons = {
        "delimiter": f"{agree} of {sum(map(bool, split))} first lines have {width} fields with it"
        if width > 1
        else "no delimiter splits the lines alike, so there is one column",
        "decimal": why_decimal,
        "header_rows": why_header,
    }
    if quote != '"':
        reasons["quote"] = "fields begin and end with it, and none with a double one"
    if comment:
        reasons["comment"] = f"{len(lines) - len(kept)} of the first lines begin with it"
    if preamble:
        reasons["preamble_rows"] = f"they do not have the {width} fields of the lines that follow"
    return Dialect(delimiter, quote, decimal, _thousands(body, decimal), headers, preamble, comment, reasons)


def _comment(lines: Sequence[str]) -> str:
    for mark in _COMMENTS:
        if lines[0].startswith(mark) and not _looks_like_header(lines, mark):
            return mark
    return ""


def _looks_like_header(lines: Sequence[str], mark: str) -> bool:
    """Whether the first line begins with ``mark`` but has as many fields as those that follow: a name, no comment."""
    first = [line for line in lines if line.strip()][:3]
    if len(first) < 2 or first[1].startswith(mark):
        return False
    return any(first[0].count(d) == first[1].count(d) > 0 for d in DELIMITERS)


def _quote(lines: Sequence[str]) -> str:
    text = "\n".join(lines)
    single = len(re.findall(r"(?:^|[,;\t|])'[^'\n]*'(?=[,;\t|]|$)", text, re.M))
    double = len(re.findall(r'(?:^|[,;\t|])"', text, re.M))
    return "'" if single > 2 and not double else '"'


def _split(lines: Sequence[str], delimiter: str, quote: str) -> list[list[str]]:
    try:
        return [record for _, record in records(io.StringIO("\n".join(lines), newline=""), delimiter, quote)]
    except (ReadError, csv.Error):
        return []


def _width(split: Sequence[Sequence[str]]) -> tuple[int, int]:
    """The usual number of fields and how many lines have it; of equally usual ones the larger."""
    widths = Counter(len(record) for record in split if record)
    if not widths:
        return 1, 0
    return max(widths.items(), key=lambda item: (item[1], item[0]))


def _quality(split: Sequence[Sequence[str]]) -> tuple[float, int]:
    width, agree = _width(split)
    if width < 2:
        return 0.0, 0
    lines = sum(map(bool, split))
    cells = [cell.strip() for record in split if len(record) == width for cell in record]
    likely = sum(bool(_VALUE.match(cell)) for cell in cells) / max(len(cells), 1)
    return round(agree / lines * likely, 3), width


def _preamble(split: Sequence[Sequence[str]], width: int) -> int:
    """Lines before the first with the usual number of fields, where they are few and of another kind."""
    first = next((place for place, record in enumerate(split) if len(record) == width), 0)
    if width < 2 or first > 20:
        return 0
    # A first line with one field more or less is a broken header, which is to be told, not skipped.
    before = [len(record) for record in split[:first] if record]
    return first if all(2 * n <= width or n == 1 for n in before) else 0


def _cells_below(body: Sequence[Sequence[str]], first: int) -> list[list[str]]:
    """The columns of the lines from ``first``, stripped and without empty cells."""
    width = max((len(record) for record in body), default=0)
    return [
        [record[place].strip() for record in body[first:] if place < len(record) and record[place].strip()]
        for place in range(width)
    ]


def _decimal(body: Sequence[Sequence[str]], delimiter: str) -> tuple[str, str]:
    """A comma where whole columns write it so, and no column writes a point."""
    comma = point = 0
    for cells in _cells_below(body, 1):
        commas = sum(bool(_COMMA.match(cell)) for cell in cells)
        points = sum(bool(_PLAIN.match(cell)) and "." in cell for cell in cells)
        plain = sum(bool(_PLAIN.match(cell)) and "." not in cell for cell in cells)
        comma += commas > 0 and points == 0 and 10 * (commas + plain) >= 9 * len(cells)
        point += points > 0
    if comma and not point and delimiter != ",":
        return ",", f"{comma} columns write their numbers with a comma, and none with a point"
    return ".", "numbers are written with a point" if point else "no number shows a decimal mark"


def _thousands(body: Sequence[Sequence[str]], decimal: str) -> str:
    if decimal == ",":
        grouped = [cell for cells in _cells_below(body, 1) for cell in cells if _COMMA.match(cell)]
        marks = Counter(mark for cell in grouped for mark in ".'’ \u00a0\u202f" if mark in cell)
        return marks.most_common(1)[0][0] if marks else ""
    return ""


def _numeric(cell: str, decimal: str) -> bool:
    return bool(_PLAIN.match(cell) or (decimal == "," and _COMMA.match(cell)))


def _come_again(above: Sequence[Sequence[str]], below: Sequence[Sequence[str]]) -> bool:
    """Whether a cell ``above`` stands in its column ``below``, too, as names and units do not."""
    for place in range(max((len(record) for record in above), default=0)):
        words = {record[place].strip() for record in above if place < len(record)} - {""}
        if any(place < len(record) and record[place].strip() in words for record in below):
            return True
    return False


def _header_rows(body: Sequence[Sequence[str]], decimal: str) -> tuple[int, str]:
    """How many lines stand above the first line of values: those without a number in the columns of numbers."""
    if len(body) < 2:
        return 1, "there is one line only, taken for names"
    below = _cells_below(body, _MOST_HEADERS) if len(body) > _MOST_HEADERS + 1 else _cells_below(body, 1)
    numeric = [
        place
        for place, cells in enumerate(below)
        if cells and 10 * sum(_numeric(cell, decimal) for cell in cells) >= 7 * len(cells)
    ]
    if not numeric:
        return 1, "no column holds numbers; the first line is taken for names"
    for row, record in enumerate(body[:_MOST_HEADERS]):
        cells = [record[place].strip() for place in numeric if place < len(record)]
        numbers = sum(_numeric(cell, decimal) for cell in cells)
        if 2 * numbers > len(cells) or (row and any(_numeric(cell, decimal) or not cell for cell in cells)):
            if row == 0:
                return 0, f"the first line has numbers in {numbers} of the {len(numeric)} columns of numbers"
            if row > 1 and _come_again(body[1:row], body[row:]):
                return 1, "the first line is taken for names: words of the lines after it come again below"
            above = "the line above" if row == 1 else f"the {row} lines above"
            return row, f"{above} the first numbers hold none"
    return 1, "the first line is taken for names"
