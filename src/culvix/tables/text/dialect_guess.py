"""The dialect of a delimited text, guessed with reasons.

Every candidate delimiter splits the first lines; the one whose lines agree most in their number of fields, and whose
fields look most like values, is taken. Header and preamble follow from where the numbers begin.
"""

import csv
import io
import re
from collections import Counter
from collections.abc import Sequence

from culvix.errors import ReadError
from culvix.tables.text.delimiters import ALIGNED, DELIMITERS, unaligned_line
from culvix.tables.text.dialect import Dialect
from culvix.tables.text.header import infer_header
from culvix.tables.text.lines import records
from culvix.tables.text.number_marks import infer_marks

__all__ = ["guess_dialect", "sample_lines"]

_SAMPLE = 1 << 16
_LINES = 300
_WINDOW, _WINDOWS = 1 << 12, 12
_COMMENTS = ("#", "%", "//", ";")
_VALUE = re.compile(
    r"^(|[<>≤≥]?\s*[+\-−]?[\d.,'’ \u00a0\u202f]+([eE][+\-]?\d+)?\s*\S{0,5}|\d{4}-\d{2}-\d{2}.*|[^,;|\t]{1,30})$"
)
_SEPARATOR_LINE = re.compile(r"^\ufeff?\"?sep=(.)\"?\s*$", re.I)
_BLANKS = (" ", *ALIGNED)
_DOUBT = 0.05
_FARTHEST_HEADER = 20
_LINES_COMPARED = 6


def sample_lines(utf8: bytes, most: int = _LINES) -> list[str]:
    """The first lines of a text, without one that is cut off."""
    sample = utf8[:_SAMPLE]
    if len(utf8) > _SAMPLE and b"\n" in sample:
        sample = sample[: sample.rfind(b"\n") + 1]
    return sample.decode("utf-8", errors="replace").splitlines()[:most]


def _further_lines(utf8: bytes) -> list[str]:
    """Whole lines from evenly taken places farther down: what the first lines do not show about numbers."""
    lines: list[str] = []
    for start in range(_SAMPLE, len(utf8) - _WINDOW, max((len(utf8) - _SAMPLE) // _WINDOWS, _WINDOW)):
        block = utf8[start : start + _WINDOW].split(b"\n")[1:-1]
        lines += [line.decode("utf-8", errors="replace") for line in block]
    return lines


def guess_dialect(utf8: bytes) -> Dialect:
    """The dialect that fits the beginning of ``utf8`` best. Raises ReadError where no line holds anything."""
    lines = sample_lines(utf8)
    if not any(line.strip() for line in lines):
        raise ReadError("There is no line with anything in it.")
    declared = _SEPARATOR_LINE.match(lines[0])
    above = 1 if declared is not None and declared[1] in DELIMITERS else 0
    comment = _comment(lines[above:])
    body_lines = [line for line in lines[above:] if not (comment and line.startswith(comment))]
    quote = _quote(body_lines)
    delimiter, split = _delimiter(body_lines, quote, declared[1] if above and declared is not None else "")
    width, agree = _width(split)
    preamble = _preamble(split, width)
    body = [record for record in split[preamble:] if record]
    names = [cell.strip() or f"column {position}" for position, cell in enumerate(body[0] if body else [], start=1)]
    names += [f"column {position}" for position in range(len(names) + 1, width + 1)]
    below = _cells_below(body, 1, width)
    further = _split(_further_lines(utf8), delimiter, quote)
    for position, cells in enumerate(_cells_below(further, 0, width)):
        below[position] += cells
    numbers = infer_marks(below, names, delimiter)
    header = infer_header(body, numbers.marks, _quoted_alone(body_lines, body, delimiter, quote))
    reasons = {"delimiter": _delimiter_reason(split, width, agree, bool(above))}
    reasons |= {"decimal": numbers.reason, "header_rows": header.reason}
    if quote != '"':
        reasons["quote"] = "fields begin and end with it, and none with a double one"
    if comment:
        reasons["comment"] = f"{len(lines) - above - len(body_lines)} of the first lines begin with it"
    if preamble:
        reasons["preamble_rows"] = f"they do not fill the {width} fields of the lines that follow"
    return Dialect(
        delimiter,
        quote,
        numbers.marks.decimal,
        numbers.marks.thousands,
        header.rows,
        preamble + above,
        comment,
        numbers.columns,
        reasons,
        (*header.questions, *numbers.questions),
    )


def _delimiter_reason(split: Sequence[Sequence[str]], width: int, agree: int, declared: bool) -> str:
    if declared:
        return "the first line says so"
    if width > 1:
        return f"{agree} of {sum(map(bool, split))} first lines have {width} fields with it"
    return "no delimiter splits the lines alike, so there is one column"


def _delimiter(lines: Sequence[str], quote: str, declared: str) -> tuple[str, list[list[str]]]:
    """The delimiter whose lines agree most, or the one the text tells itself, and the lines split by it."""
    if declared:
        return declared, _split(lines, declared, quote)
    wide = any("  " in line or "\t" in line for line in lines)
    marks = [mark for mark in DELIMITERS if wide or mark not in ALIGNED]
    candidates = {mark: _split(lines, mark, quote) for mark in marks}
    qualities = {mark: _quality(split) for mark, split in candidates.items()}
    ranked = sorted(marks, key=lambda mark: (mark in _BLANKS, marks.index(mark)))

    # Spaces are taken only where they are clearly better: text is full of them.
    def fit(mark: str) -> tuple[float, int, int]:
        quality, width = qualities[mark]
        first = next((len(record) for record in candidates[mark] if record), 0)
        if mark in _BLANKS and first not in (width, width - 1):
            # Names that do not split alike show that spaces stand within cells.
            return 0.0, 0, -ranked.index(mark)
        if mark == " " and _mostly_empty(candidates[mark]):
            # Runs of spaces align columns.
            return 0.0, 0, -ranked.index(mark)
        return quality - _DOUBT * (mark in _BLANKS), width * (mark not in ALIGNED), -ranked.index(mark)

    delimiter = max(ranked, key=fit)
    if qualities[delimiter][0] == 0.0:
        # One column it is; a mark that stands in no line leaves every cell whole.
        delimiter = next((mark for mark in ranked if not any(mark in line for line in lines)), delimiter)
    return delimiter, candidates[delimiter]


def _mostly_empty(split: Sequence[Sequence[str]]) -> bool:
    cells = sum(len(record) for record in split)
    return 3 * sum(not cell for record in split for cell in record) > cells


def _quoted_alone(lines: Sequence[str], body: Sequence[Sequence[str]], delimiter: str, quote: str) -> list[bool]:
    """Of each field of the first record, whether it stands in quotation marks and those below it do not."""
    if len(body) < 2 or not quote:
        return []
    fields = re.compile(rf"(?:^|{re.escape(delimiter)})\s*({quote})?")
    marked = []
    for line in [line for line in lines if line.strip()][-len(body) :][:_LINES_COMPARED]:
        marked.append([bool(found[1]) for found in fields.finditer(re.sub(rf"{quote}[^{quote}]*{quote}", quote, line))])
    first, below = marked[0], marked[1:]
    if len(first) != len(body[0]):
        return []
    return [
        mark and not any(row[position] for row in below if position < len(row)) for position, mark in enumerate(first)
    ]


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
    if delimiter in ALIGNED:
        lines, delimiter = [unaligned_line(line, delimiter) for line in lines], "\t"
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
    """Lines before the first that fills its fields, where they are few and of another kind."""
    if width < 2:
        return 0
    filled = [_filled(record) for record in split]
    first = next((position for position, record in enumerate(split) if len(record) == width), 0)
    # Lines above the table may be padded with delimiters: they then fill their first fields only.
    while width > 2 and first < min(len(split) - 1, _FARTHEST_HEADER) and filled[first] <= max(width // 3, 1):
        first += 1
        if filled[first] > width // 2 and len(split[first]) == width:
            break
    else:
        first = next((position for position, record in enumerate(split) if len(record) == width), 0)
    if first > _FARTHEST_HEADER:
        return 0
    # A first line with one field more or less is a broken header, which is to be told, not skipped.
    before = [number for number in filled[:first] if number]
    return first if all(2 * n <= width or n == 1 for n in before) else 0


def _filled(record: Sequence[str]) -> int:
    """How many fields a line fills, from its beginning on; those behind the last filled one are padding."""
    last = max((position for position, cell in enumerate(record, start=1) if cell.strip()), default=0)
    return last if last else min(len(record), 1)


def _cells_below(body: Sequence[Sequence[str]], first: int, width: int) -> list[list[str]]:
    """The columns of the lines from ``first``, stripped and without empty cells."""
    return [
        [record[position].strip() for record in body[first:] if position < len(record) and record[position].strip()]
        for position in range(width)
    ]
