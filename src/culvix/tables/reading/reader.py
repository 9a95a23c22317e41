"""Reading a file into a `Table`: bytes, text, cells, and then columns by what the dictionary says and the cells show.

Every cell is kept as text and numbers are read from it, so that each cell that is not a number is known by its row.
"""

import os
from collections.abc import Collection, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import replace
from functools import partial
from pathlib import Path

import polars as pl

from culvix.errors import ReadError
from culvix.files import display_path
from culvix.progress import Progress, silent
from culvix.tables.cells.missing_tokens import Token, classify_tokens, find_tokens
from culvix.tables.model.cell_texts import RawColumn
from culvix.tables.model.column_builder import make_column
from culvix.tables.model.dictionary import Dictionary
from culvix.tables.model.options.read_options import PLAIN, ReadOptions
from culvix.tables.model.raw_table import RawTable
from culvix.tables.model.sample_dictionary import dictionary_of_sample
from culvix.tables.model.table import Column, Source, Table
from culvix.tables.reading.library_output import library_output_to_log
from culvix.tables.reading.row_questions import row_questions
from culvix.tables.reading.sources import Content, as_text, read_content
from culvix.tables.reading.streams import NotStreamed, TextStream
from culvix.tables.reading.structured import read_structured
from culvix.tables.text.aligned import unaligned
from culvix.tables.text.delimited import read_delimited, read_head_of, read_thinned
from culvix.tables.text.delimiters import ALIGNED
from culvix.tables.text.dialect_guess import guess_dialect
from culvix.tables.text.ragged import RaggedLines
from culvix.tables.text.record_splitter import StrayQuote, cut

__all__ = ["make_table", "read_raw", "read_table"]

_WORKERS = min(os.cpu_count() or 1, 8)
_MOST_PACKED_CELLS, _CELLS_PER_BYTE = 20_000_000, 10


def read_table(
    path: Path | str,
    options: ReadOptions = PLAIN,
    *,
    missing_codes: Collection[str] = (),
    dictionary: Dictionary | None = None,
    progress: Progress = silent,
    checksum_first: bool = False,
) -> Table:
    """Read the file at ``path``; cells equal to one of ``missing_codes`` count as missing in every column.

    Without a ``dictionary`` the columns of a sample are described as in the table that it is one of.

    The checksum of the file is worked out when all else is done, or with ``checksum_first`` beside it.
    Raises ReadError with a sentence on what is wrong where the file is no readable table with at least one data row,
    and whatever ``progress`` raises to stop the work.
    """
    path = Path(path)
    streamed = None if options.extent.every_row or options.encoding else _streamed(path, options, progress)
    if streamed is not None:
        raw, content = streamed
    else:
        content = read_content(path, progress)
        if checksum_first:
            content.checksum.start()
        raw = read_raw(content, options, progress)
        content = content.without_data()
    raw = raw.only(options.extent)
    described = dictionary_of_sample(raw.sample) if dictionary is None else dictionary
    return make_table(raw, content, described, options, missing_codes=missing_codes, progress=progress)


def read_raw(content: Content, options: ReadOptions = PLAIN, progress: Progress = silent) -> RawTable:
    """The cells of ``content``; of a text only the rows wanted. Raises ReadError and what ``progress`` raises."""
    progress(0.3, "finding the columns")
    with _panics_as_errors(content.path):
        raw = _read_raw(content, options, progress)
    return replace(raw, questions=(*raw.questions, *row_questions(raw)))


@contextmanager
def _panics_as_errors(path: Path) -> Iterator[None]:
    """Turn what libraries raise where they give up, which is no Exception, into a sentence."""
    try:
        yield
    except MemoryError as error:
        raise ReadError(
            f"{display_path(Path(path.name))} takes more memory than there is; read a part of it."
        ) from error
    except (Exception, KeyboardInterrupt, SystemExit, GeneratorExit):
        raise
    except BaseException as error:
        why = " ".join(str(error).split())[:160]
        raise ReadError(f"{display_path(Path(path.name))} cannot be read: a library gave up on it ({why}).") from error


def _read_raw(content: Content, options: ReadOptions, progress: Progress) -> RawTable:
    if content.kind != "text":
        with library_output_to_log():
            return read_structured(content, options, progress)
    text = as_text(content.path, content.data, options.encoding)
    try:
        if content.packing:
            _check_unpacked(content, text.utf8)
        if options.extent.every_row:
            raw = read_delimited(
                text.utf8,
                options.dialect_of(lambda: guess_dialect(text.utf8)),
                encoding=text.encoding,
                ragged=options.ragged,
                leave_last=options.leave_last,
                progress=progress,
            )
        else:
            outer = options.dialect_of(lambda: guess_dialect(text.utf8))
            utf8, inner = unaligned(text.utf8, outer)
            head = read_head_of(utf8, inner)
            blocks = (utf8[start:end] for start, end in cut(utf8, head.first, head.dialect.quote))
            raw = read_thinned(
                head, blocks, options.extent, encoding=text.encoding, ragged=options.ragged, progress=progress
            )
            raw = replace(raw, dialect=outer)
    except (ReadError, StrayQuote) as error:
        raise _named(content.path, error) from error.__cause__
    return replace(raw, notes=(*text.notes, *raw.notes), questions=(*text.questions, *raw.questions))


def _check_unpacked(content: Content, utf8: bytes) -> None:
    """Raise ReadError where a short packed file has so many cells that they would fill the memory."""
    end = utf8.find(b"\n")
    first = utf8[: end if end >= 0 else len(utf8)]
    width = 1 + max(first.count(mark) for mark in (b",", b";", b"\t", b"|"))
    cells = width * utf8.count(b"\n")
    if cells > max(_MOST_PACKED_CELLS, _CELLS_PER_BYTE * content.size):
        raise ReadError(f"It unpacks to some {cells // 10**6} million cells; no table of its size does.")


def _named(path: Path, error: Exception) -> ReadError:
    if isinstance(error, StrayQuote):
        words = "A quotation mark stands within a field, so that rows cannot be counted; read the whole file"
        return ReadError(f"{path.name}: {words}.")
    if isinstance(error, RaggedLines):
        return RaggedLines(f"{path.name}: {error}", error.lines, error.choices)
    return ReadError(str(error) if path.name in str(error) else f"{path.name}: {error}")


def _streamed(path: Path, options: ReadOptions, progress: Progress) -> tuple[RawTable, Content] | None:
    """The rows wanted from a text that is never held whole; None where the file is no UTF-8 text."""
    try:
        stream = TextStream.open(path)
        head = read_head_of(stream.head, options.dialect_of(lambda: guess_dialect(stream.head)))
        if head.dialect.delimiter in ALIGNED:
            return None
        blocks = stream.blocks(head.first, head.dialect.quote)
        raw = read_thinned(head, blocks, options.extent, ragged=options.ragged, progress=progress)
        for _ in blocks:
            # The checksum is that of the whole file.
            progress(0.2, f"reading {path.name} to its end")
    except NotStreamed:
        return None
    except (ReadError, StrayQuote) as error:
        raise _named(path, error) from error.__cause__
    return raw, stream.content()


def make_table(
    raw: RawTable,
    content: Content,
    dictionary: Dictionary,
    options: ReadOptions = PLAIN,
    *,
    missing_codes: Collection[str] = (),
    progress: Progress = silent,
) -> Table:
    """Judge the cells of ``raw`` under ``dictionary``. Raises whatever ``progress`` raises."""
    columns = []
    with ThreadPoolExecutor(_WORKERS, "judging") as pool:
        try:
            words, found = zip(*pool.map(_tokens, raw.columns), strict=True)
            progress(0.7, "looking for missing values")
            judge = partial(_build_column, dictionary, missing_codes)
            positions = raw.positions or range(len(raw.names))
            inferred = pool.map(judge, raw.names, raw.columns, classify_tokens(found, raw.columns), positions, words)
            for position, column in enumerate(inferred):
                progress(0.7 + 0.2 * position / len(raw.names), f"judging {raw.names[position]}")
                columns.append(column)
        except BaseException:
            pool.shutdown(wait=True, cancel_futures=True)
            raise
    source = Source(
        path=content.path,
        checksum=content.checksum,
        size=content.size,
        encoding=raw.encoding,
        delimiter=raw.dialect.delimiter_name if raw.dialect is not None else "",
        notes=raw.notes,
        kind=raw.kind,
        dialect=raw.dialect,
        parts=raw.parts,
        part=raw.part,
        provenance=dictionary.provenance,
        questions=(*(raw.dialect.questions if raw.dialect is not None else ()), *raw.questions),
        options=options,
        names=raw.every_name or raw.names,
        sample=raw.sample,
    )
    table = Table(tuple(columns), raw.rows, source, raw, raw.rows_in_file, raw.text, dictionary.key)
    content.checksum.start()
    return table


def _tokens(raw: RawColumn) -> tuple[pl.Series, tuple[Token, ...]]:
    """The odd cells of a column, stripped, and the spellings for a missing value among them."""
    words = raw.nonnumeric_texts.str.strip_chars() if raw.nonnumeric_rows.size else raw.nonnumeric_texts
    return words, find_tokens(raw, words)


def _build_column(
    dictionary: Dictionary,
    codes: Collection[str],
    name: str,
    raw: RawColumn,
    tokens: tuple[Token, ...],
    position: int,
    words: pl.Series,
) -> Column:
    entry, not_missing = dictionary.of(name), dictionary.not_missing
    return make_column(name, raw, entry, codes, tokens, not_missing, is_first=not position, words=words)
