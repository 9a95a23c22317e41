"""A frame as a file: delimited text, Parquet, or a spreadsheet.

Text that a spreadsheet would take for a formula is written behind an apostrophe in delimited text, as is text that
begins with an apostrophe itself, so that taking one apostrophe away gives back what was there. The cells of a
spreadsheet say that they are text, and Parquet has no formulas: in both nothing is changed.
"""

import io

import polars as pl

from culvix.errors import WriteError
from culvix.report.formats.survey_files import STARTS

__all__ = ["FRAME_KINDS", "as_it_was", "frame_file"]

FRAME_KINDS = (".csv", ".parquet", ".xlsx")
_MOST_ROWS = 1_048_575
_MOST_COLUMNS = 16_384


def as_it_was(text: str) -> str:
    """A cell of delimited text without the apostrophe that made it harmless."""
    return text[1:] if text[:1] == "'" and text[1:2] in ("'", *STARTS) and len(text) > 1 else text


def frame_file(frame: pl.DataFrame, suffix: str) -> bytes:
    """``frame`` as a file of the kind ``suffix``. Raises WriteError for a kind that is none, and too long a frame."""
    kind, data = suffix.lower(), io.BytesIO()
    if kind not in FRAME_KINDS:
        raise WriteError(f"A table is written as {', '.join(FRAME_KINDS)}, not {suffix or 'without an ending'}.")
    if kind == ".parquet":
        frame.write_parquet(data)
    elif kind == ".csv":
        _harmless(frame).write_csv(data)
    else:
        if frame.height > _MOST_ROWS or frame.width > _MOST_COLUMNS:
            raise WriteError(
                f"A spreadsheet holds {_MOST_ROWS} rows and {_MOST_COLUMNS} columns; write .csv or .parquet instead."
            )
        frame.write_excel(data, autofit=False, table_style=None)
    return data.getvalue()


def _harmless(frame: pl.DataFrame) -> pl.DataFrame:
    texts = [pl.col(name) for name, kind in frame.schema.items() if kind == pl.String]
    safe = [
        pl.when(text.str.slice(0, 1).is_in(["'", *STARTS])).then(pl.lit("'") + text).otherwise(text).alias(name)
        for text, name in ((text, text.meta.output_name()) for text in texts)
    ]
    heads = {name: f"'{name}" for name in frame.columns if name[:1] in ("'", *STARTS)}
    return frame.with_columns(safe).rename(heads)
