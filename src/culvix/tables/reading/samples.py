"""What a Parquet file says of the table that it is a sample of."""

import io
import os
from pathlib import Path

import msgspec
import polars as pl

from culvix.errors import ReadError
from culvix.files import open_regular
from culvix.tables.model.provenance import SAMPLE_KEY, Provenance

__all__ = ["sample_in", "sample_of"]

_MARK = b"PAR1"
"""With which a Parquet file begins."""


def sample_in(data: bytes) -> Provenance | None:
    """What the Parquet file ``data`` is a sample of; None where it is none, or does not say it as it should."""
    try:
        written = pl.read_parquet_metadata(io.BytesIO(data)).get(SAMPLE_KEY)
        return None if written is None else msgspec.json.decode(written, type=Provenance)
    except (pl.exceptions.PolarsError, OSError, msgspec.MsgspecError):
        # A file that is damaged is refused where its cells are read.
        return None


def sample_of(path: Path) -> Provenance | None:
    """What the file at ``path`` is a sample of; None where it is none, or no Parquet file."""
    if not os.path.isfile(path):
        # A pipe would be waited for.
        return None
    try:
        with open_regular(path) as file:
            data = file.read(len(_MARK))
            return sample_in(data + file.read()) if data == _MARK else None
    except (OSError, ReadError):
        # Whatever keeps it from being read is told where it is.
        return None
