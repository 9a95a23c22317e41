"""How numbers are written: which mark stands before decimals and which groups thousands, judged from all columns.

A cell such as "1.080" is a number either way. What decides is what stands beside it: cells that can be read in one way
only, in its own column and then in the others. Where nothing decides, both readings are told and the analyst is asked.
"""

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cache

from culvix.stats.display import plural
from culvix.tables.cells.token_spellings import is_missing_token
from culvix.tables.model.options.reading_questions import Choice, ReadingQuestion

__all__ = ["COMMA", "POINT", "InferredMarks", "NumberMarks", "infer_marks", "written_as_number"]

_SPACES = " \u00a0\u202f\u2009"
_GROUPERS = ".,'’" + _SPACES
_SIGN, _EXPONENT = r"[+\-−]?", r"(?:[eE][+\-]?\d+)?"
_NUMBER_LIKE = re.compile(rf"^{_SIGN}[\d.,'’{_SPACES}]*\d[\d.,'’{_SPACES}]*{_EXPONENT}$")
_AROUND = re.compile(r"^[<>≤≥~]=?\s*|^[€$£¥]\s*|\s*(?:[%€$£¥*†‡]|\s[a-zA-Zµ°]{1,3}(?:/\w{1,3})?)$")
_SHOWN = 3


@dataclass(frozen=True)
class NumberMarks:
    """The decimal mark, "." or ",", and the mark that groups thousands, empty where none does."""

    decimal: str = "."
    thousands: str = ""

    @property
    def words(self) -> str:
        """The marks in words: "a decimal comma"."""
        names = {".": "point", ",": "comma", "'": "apostrophe", "’": "apostrophe"}
        plain = f"a decimal {names[self.decimal]}"
        return f"{plain} and thousands grouped by a {names.get(self.thousands, 'space')}" if self.thousands else plain


POINT, COMMA = NumberMarks("."), NumberMarks(",")


def written_as_number(cell: str, marks: NumberMarks) -> bool:
    """Whether ``cell`` is a plain number under ``marks``."""
    return bool(_pattern(marks).match(cell))


@cache
def _pattern(marks: NumberMarks) -> re.Pattern[str]:
    decimal = re.escape(marks.decimal)
    groups = "".join(re.escape(mark) for mark in _GROUPERS if mark != marks.decimal) if marks.decimal == "," else ""
    groups = groups or re.escape(marks.thousands)
    grouped = rf"|\d{{1,3}}(?:[{groups}]\d{{3}})+" if groups else ""
    return re.compile(rf"^{_SIGN}(?:(?:\d+{grouped})(?:{decimal}\d*)?|{decimal}\d+){_EXPONENT}$")


@dataclass
class _Seen:
    """What the cells of one column show. ``open_*`` are cells such as 1.080, which can be read either way."""

    cells: int = 0
    numbers: int = 0
    point: int = 0
    comma: int = 0
    open_point: list[str] = field(default_factory=list)
    open_comma: list[str] = field(default_factory=list)
    groups: Counter[str] = field(default_factory=Counter)
    """Marks that can only group thousands."""

    short_whole: int = 0
    long_whole: int = 0
    """Whole numbers of up to three digits, and of more, written without any mark."""

    @property
    def is_numeric(self) -> bool:
        return self.numbers > 0 and 10 * self.numbers >= 7 * self.cells

    @property
    def decimal(self) -> str:
        """The mark that decimals of the column certainly have; empty where nothing tells or both do."""
        comma, point = self.comma or self.groups["."], self.point or self.groups[","]
        return "," if comma and not point else "." if point and not comma else ""


_WHOLE = re.compile(r"^[+\-]?(\d+)$", re.M)
_WITH_POINT = re.compile(r"^[+\-]?\d*\.\d+$", re.M)
_CERTAIN_POINT = re.compile(r"^[+\-]?(?:0\.\d+|\d*\.(?!\d{3}$)\d+)$", re.M)


def _all_plain(cells: Sequence[str]) -> _Seen | None:
    """The same for a column whose cells are all whole or have a point that is certainly a decimal one; most are."""
    joined = "\n".join(cells)
    whole = _WHOLE.findall(joined)
    point = len(_WITH_POINT.findall(joined))
    if len(whole) + point < len(cells):
        return None
    certain = len(_CERTAIN_POINT.findall(joined))
    if point and not certain:
        return None
    short = sum(len(digits) <= 3 for digits in whole)
    return _Seen(len(cells), len(cells), point=certain, short_whole=short, long_whole=len(whole) - short)


def _scan_cells(cells: Sequence[str]) -> _Seen:
    all_plain = _all_plain(cells)
    if all_plain is not None:
        return all_plain
    filled = [cell for cell in cells if not is_missing_token(cell)]
    seen = _Seen(len(filled))
    for written in filled:
        # What stands around a number says nothing of its marks: "<0.5", "12.5 %", "€ 3.80".
        cell = _AROUND.sub("", written)
        if not _NUMBER_LIKE.match(cell):
            continue
        seen.numbers += 1
        _take(seen, re.sub(r"[eE].*$", "", cell.lstrip("+-−")), "e" in cell.lower())
    return seen


def _take(seen: _Seen, digits: str, exponent: bool) -> None:
    """Add one number, without its sign and exponent, to what was ``seen``."""
    marks = [mark for mark in digits if not mark.isdigit()]
    last = max(digits.rfind("."), digits.rfind(","))
    if not marks:
        seen.short_whole += len(digits) <= 3
        seen.long_whole += len(digits) > 3
        return
    kinds = set(marks)
    for mark in kinds - {".", ","}:
        seen.groups[mark] += 1
    if last < 0:
        return
    decimal, other = digits[last], "." if digits[last] == "," else ","
    grouped = re.fullmatch(rf"[1-9]\d{{0,2}}(?:\{decimal}\d{{3}})+", digits) is not None
    if other in kinds:
        # The later of two marks stands before the decimals.
        seen.groups[other] += 1
        grouped = False
    elif grouped and marks.count(decimal) > 1:
        seen.groups[decimal] += 1
        return
    if marks.count(decimal) > 1:
        return
    if grouped and not exponent and not kinds - {decimal}:
        (seen.open_point if decimal == "." else seen.open_comma).append(digits)
    elif decimal == ".":
        seen.point += 1
    else:
        seen.comma += 1


@dataclass(frozen=True)
class InferredMarks:
    """The marks of the file, of columns (by place) that are written otherwise, why, and what is to be asked."""

    marks: NumberMarks
    columns: Mapping[int, NumberMarks]
    reason: str
    questions: tuple[ReadingQuestion, ...] = ()


def infer_marks(columns: Sequence[Sequence[str]], names: Sequence[str], delimiter: str) -> InferredMarks:
    """Judge the marks from the stripped, filled cells of each column; ``names`` are only for the words."""
    seen = [_scan_cells(cells) for cells in columns]
    numeric = [position for position, each in enumerate(seen) if each.is_numeric]
    certain = Counter(seen[position].decimal for position in numeric)
    points, commas = certain["."], certain[","]
    open_positions = [position for position in numeric if _is_open(seen[position])]
    if points or commas:
        decimal = "," if commas > points or (commas == points and delimiter != ",") else "."
        reason = _words(decimal, points, commas)
        against = [position for position in open_positions if _speaks_against(seen[position], decimal, delimiter)]
        questions: tuple[ReadingQuestion, ...] = (_question(decimal, seen, against, names),) if against else ()
    elif open_positions:
        decimal, why = _likelier([seen[position] for position in open_positions], delimiter)
        reason = f"cells such as {_sample(seen, open_positions)} can be read either way; {why}"
        questions = (_question(decimal, seen, open_positions, names),)
    else:
        decimal, reason, questions = ".", "no number shows a decimal mark", ()
    marks = NumberMarks(decimal, _group_mark([seen[position] for position in numeric], decimal))
    own = {}
    for position in numeric:
        each = _own(seen[position], marks)
        if each != marks:
            own[position] = each
    for position, each in own.items():
        if each.decimal != decimal:
            reason += f"; the column {names[position]} is written with {each.words}"
    return InferredMarks(marks, own, reason, questions)


def _is_open(seen: _Seen) -> bool:
    """Whether a column can be read either way, as far as it alone tells."""
    either = bool(seen.open_point) != bool(seen.open_comma)
    return not seen.decimal and either and not (seen.point or seen.comma) and not seen.long_whole


def _speaks_against(seen: _Seen, decimal: str, delimiter: str) -> bool:
    """Whether a column that can be read either way would itself be read otherwise than the other columns say."""
    if not seen.short_whole or (decimal == "," and seen.open_point) or (decimal == "." and seen.open_comma):
        # Beside certain decimals of one mark the other can only group.
        return False
    return _likelier([seen], delimiter)[0] != decimal


def _words(decimal: str, points: int, commas: int) -> str:
    if not points or not commas:
        if decimal == "," and commas:
            column = "column writes its" if commas == 1 else "columns write their"
            return f"{commas} {column} numbers with a decimal comma, and none with a point"
        return "numbers are written with a point"
    return f"{plural(points, 'column')} with a decimal point, {commas} with a comma; each is read as it is written"


def _likelier(seen: Sequence[_Seen], delimiter: str) -> tuple[str, str]:
    """The decimal mark that speaks for itself more where no cell decides, and why."""
    mark = "." if any(each.open_point for each in seen) else ","
    other = "," if mark == "." else "."
    cells = [cell for each in seen for cell in each.open_point + each.open_comma]
    if any(each.short_whole for each in seen) and any(cell.endswith("0") for cell in cells):
        return other, "read as thousands, because smaller numbers beside them have no mark and a final zero is written"
    if mark == "," and delimiter == ",":
        return other, "read as thousands, because commas separate the fields, too"
    return mark, "read as decimals"


def _sample(seen: Sequence[_Seen], positions: Sequence[int]) -> str:
    cells = [cell for position in positions for cell in seen[position].open_point + seen[position].open_comma]
    return ", ".join(dict.fromkeys(cells[:_SHOWN]))


def _question(decimal: str, seen: Sequence[_Seen], positions: Sequence[int], names: Sequence[str]) -> ReadingQuestion:
    """Which of the two readings is meant, each with what it gives."""
    cells = [cell for position in positions for cell in seen[position].open_point + seen[position].open_comma]
    shown = list(dict.fromkeys(cells))[:_SHOWN]
    mark = "." if any(seen[position].open_point for position in positions) else ","
    word = "point" if mark == "." else "comma"
    decimals, thousands = (NumberMarks(mark), NumberMarks("," if mark == "." else ".", mark))
    choices = []
    for marks, label in ((decimals, f"A decimal {word}"), (thousands, "Thousands")):
        read = [cell.replace(mark, "." if marks is decimals else "") for cell in shown]
        change = {"decimal": marks.decimal, "thousands": marks.thousands, "own_marks": {}}
        choices.append(Choice(label, ", ".join(read), change, in_force=marks.decimal == decimal))
    called = ", ".join(names[position] for position in positions[:5])
    sentence = f"Is the {word} in {', '.join(shown)} ({called}) a decimal mark, or does it group thousands?"
    return ReadingQuestion(
        "decimal_or_thousands", sentence, tuple(choices), tuple(names[position] for position in positions)
    )


def _group_mark(seen: Sequence[_Seen], decimal: str) -> str:
    """The mark that groups thousands in most columns that show one; empty where none does."""
    votes: Counter[str] = Counter()
    for each in seen:
        votes[_grouping(each, decimal)] += 1
    del votes[""]
    return votes.most_common(1)[0][0] if votes else ""


def _grouping(seen: _Seen, decimal: str) -> str:
    """The mark that groups the thousands of one column; none where larger numbers are written without."""
    other = "," if decimal == "." else "."
    marks = Counter({mark: n for mark, n in seen.groups.items() if mark != decimal})
    open_cells = seen.open_comma if decimal == "." else seen.open_point
    if open_cells:
        marks[other] += len(open_cells)
    if not marks or (decimal == "." and seen.long_whole):
        return ""
    return marks.most_common(1)[0][0]


def _own(seen: _Seen, marks: NumberMarks) -> NumberMarks:
    """The marks of one column: its own where its cells are certain, else those of the file."""
    decimal = seen.decimal or marks.decimal
    if seen.point and seen.comma:
        decimal = marks.decimal
    if not seen.decimal and decimal == "." and seen.open_comma and (seen.long_whole or seen.comma):
        # Larger numbers stand here without a mark, so that the comma groups nothing.
        decimal = ","
    thousands = _grouping(seen, decimal)
    if decimal == marks.decimal and not thousands:
        return marks if decimal == "," else replace(marks, thousands="")
    return NumberMarks(decimal, thousands)
