"""Reading a delimited text file into a `Table`.

Polars splits the lines, every cell as text; numbers are then read from the text, so that each cell that is not a
number is known by its row. Lines with too few or too many fields are refused rather than padded or cut.
"""

import io
from collections.abc import Collection
from pathlib import Path

import numpy as np
import polars as pl

from culvix.errors import ReadError
from culvix.progress import Progress, silent
from culvix.stats.arrays import Floats, Ints
from culvix.stats.display import plural
from culvix.tables.cells import ParsedCells, parse_cells
from culvix.tables.lines import DELIMITERS, find_misfits, guess_delimiter, read_header
from culvix.tables.roles import YES_NO_WORDS, infer_role
from culvix.tables.sources import RawText, read_text
from culvix.tables.table import NUMERIC_ROLES, Column, Role, Source, Table
from culvix.tables.units import label_and_unit

__all__ = ["read_table"]


def read_table(path: Path | str, *, missing_codes: Collection[str] = (), progress: Progress = silent) -> Table:
    """Read the delimited text file at ``path``; cells equal to one of ``missing_codes`` count as missing.

    Raises ReadError with a sentence on what is wrong where the file is no readable table with at least one
    data row, and whatever ``progress`` raises to stop the work.
    """
    path = Path(path)
    raw = read_text(path, progress)
    progress(0.3, "finding the columns")
    delimiter = guess_delimiter(raw.utf8)
    try:
        header = read_header(raw.utf8, delimiter)
        frame, blank = _split(raw.utf8, delimiter, len(header.names))
    except ReadError as error:
        raise ReadError(f"{path.name}: {error}") from error.__cause__
    if not frame.height:
        raise ReadError(f"{path.name} has a header of {plural(len(header.names), 'column')} but no data rows.")
    columns = []
    for place, name in enumerate(header.names):
        progress(0.5 + 0.4 * place / len(header.names), f"reading {name}")
        columns.append(_column(name, frame.to_series(place), missing_codes))
    progress(0.9, "looking for repeated rows")
    repeated = _repeated_rows(frame)
    source = _source(path, raw, delimiter, header.notes, blank)
    return Table(tuple(columns), frame.height, source, repeated)


def _source(path: Path, raw: RawText, delimiter: str, notes: tuple[str, ...], blank: int) -> Source:
    said = (*raw.notes, *notes)
    if blank:
        said = (*said, f"{plural(blank, 'blank line')} left out.")
    return Source(path, raw.sha256, raw.size, raw.encoding, DELIMITERS[delimiter], said)


def _split(utf8: bytes, delimiter: str, width: int) -> tuple[pl.DataFrame, int]:
    """All cells as text, and the number of blank lines left out."""
    try:
        frame = pl.read_csv(io.BytesIO(utf8), separator=delimiter, has_header=True, infer_schema=False)
    except pl.exceptions.NoDataError:
        return pl.DataFrame(schema=[str(place) for place in range(width)]), 0
    except pl.exceptions.PolarsError as error:
        _refuse(utf8, delimiter, width)
        raise ReadError("The lines cannot be split into columns; a quotation mark may never be closed.") from error
    if frame.width != width:
        _refuse(utf8, delimiter, width)
        raise ReadError(f"The header has {plural(width, 'field')}, but the lines split into {frame.width}.")
    if width == 1 or not frame.to_series(width - 1).null_count():
        return frame, 0
    # A cut-off line and a blank line both show as an empty last cell; only the lines themselves can tell.
    blank = _refuse(utf8, delimiter, width)
    if blank:
        keep = np.ones(frame.height, dtype=bool)
        keep[[row for row in blank if row < frame.height]] = False
        frame = frame.filter(pl.Series(keep))
    return frame, len(blank)


def _refuse(utf8: bytes, delimiter: str, width: int) -> tuple[int, ...]:
    """Rows that are blank lines. Raises ReadError naming the first line with another number of fields."""
    misfits = find_misfits(utf8, delimiter, width)
    if misfits.line is not None:
        fields = plural(misfits.fields, "field")
        raise ReadError(
            f"Line {misfits.line} has {fields} where the header has {width}; "
            f"the columns are taken to be separated by a {DELIMITERS[delimiter]}."
        )
    return misfits.blank


def _column(name: str, text: pl.Series, missing_codes: Collection[str]) -> Column:
    text = text.alias(name)
    cells = parse_cells(text, missing_codes)
    label, unit = label_and_unit(name)
    judged = infer_role(name, text, cells, has_unit=unit is not None)
    values, integers, unread = _numbers(judged.role, text, cells)
    missing = int(cells.missing.sum())
    return Column(name, judged.role, judged.reason, text, missing, values, integers, unread, unit, label)


def _numbers(role: Role, text: pl.Series, cells: ParsedCells) -> tuple[Floats | None, Ints | None, Ints]:
    """Values, exact whole numbers and unread rows that go with ``role``."""
    if role not in NUMERIC_ROLES:
        return None, None, np.zeros(0, dtype=np.int64)
    if role is Role.YES_NO and not cells.numbers:
        words = text.str.strip_chars().str.to_lowercase()
        coded = words.replace_strict(YES_NO_WORDS, default=None, return_dtype=pl.Float64)
        values = np.where(cells.missing, np.nan, coded.fill_null(np.nan).to_numpy())
        return values, None, np.flatnonzero(np.isnan(values) & ~cells.missing)
    return cells.values, cells.integers, np.flatnonzero(cells.unread)


def _repeated_rows(frame: pl.DataFrame) -> Ints:
    first = frame.to_struct("row").is_first_distinct().to_numpy()
    return np.flatnonzero(~first)
