"""What an engine can do, whichever it is: count, sum, rank, bin, correlate and sample a table that it holds."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from types import MappingProxyType
from typing import Protocol

import polars as pl

from culvix.errors import ReadError
from culvix.progress import Progress, silent
from culvix.tables.engines.edits import Edit
from culvix.tables.engines.requests import Answer, Request

__all__ = ["CAPABILITIES", "Capability", "Engine", "EngineColumn", "Kind", "StateLost"]


class StateLost(ReadError):
    """An answer had to be given up, and with it the one state of the table that all were to be of: begin again."""


class Kind(StrEnum):
    """What the values of a column are."""

    NUMBER = "number"
    YES_NO = "yes/no"
    TEXT = "text"
    DATE = "date"
    OTHER = "other"

    @property
    def has_numbers(self) -> bool:
        return self in (Kind.NUMBER, Kind.YES_NO)


@dataclass(frozen=True)
class EngineColumn:
    """A column as the engine knows it: its own name for the ``type``, and the ``label`` that is written beside it.

    ``note`` says what is lost where its numbers are taken as doubles, or why it is left out. ``whole`` numbers have no
    fractions, ``floating`` ones may be NaN or infinite. ``key``: it is of the primary key.
    """

    name: str
    kind: Kind
    type: str
    label: str = ""
    note: str = ""
    whole: bool = False
    floating: bool = False
    key: bool = False


@dataclass(frozen=True)
class Capability:
    """One thing that is asked of an engine, and how each of them does it, by its name."""

    asked: str
    by: Mapping[str, str]


def _row(asked: str, files: str, server: str) -> Capability:
    return Capability(asked, MappingProxyType({"files": files, "PostgreSQL": server}))


CAPABILITIES = (
    _row("counts, extremes", "exact", "exact"),
    _row("sums of powers", "doubles, about a first mean", "doubles, about a first mean"),
    _row("quantiles", "exact: counted below a sample's, then the values between", "the same"),
    _row("bins", "exact counts between round edges", "exact counts between round edges"),
    _row("correlation", "Pearson, rows with both values", "Pearson, rows with both values"),
    _row(
        "distinct values",
        "exact where they seem to be at most 100 000, else counted for a part of all hashes",
        "the same, else its estimate",
    ),
    _row("changes", "conditions on numbers, or on a key", "the same"),
    _row("sample", "hash of a row's place, seeded", "table: its own, repeatable; query: hash of a row's content"),
)
"""What engines can do, and how."""


class Engine(Protocol):
    """A table that is too large to be held, or lies elsewhere. Every method raises ReadError with a sentence.

    Whatever ``progress`` raises ends the work there, too: what runs in a server is cancelled.
    """

    name: str
    """That of the engine, as in `CAPABILITIES`."""

    title: str
    """What the table is called."""

    address: str
    """Where it lies, without any secret."""

    files: tuple[Path, ...]
    """The files it is read from, none of which is ever written."""

    columns: tuple[EngineColumn, ...]

    rows: int

    notes: tuple[str, ...]
    """What is to be known of how it is read."""

    pairs_at_once: bool
    """Whether pairs of columns are best asked with the first reading, before it is known which have gaps."""

    def answer(self, requests: Sequence[Request], progress: Progress = silent) -> dict[Request, Answer]:
        """Answer all ``requests`` from one reading of the table."""
        ...

    def pilot_rows(self, size: int, seed: int, progress: Progress = silent) -> pl.DataFrame:
        """About ``size`` rows from all over the table, found quickly: to begin with, not to conclude from."""
        ...

    def sample(
        self, size: int, seed: int, *, stratified_by: str | None = None, progress: Progress = silent
    ) -> pl.DataFrame:
        """``size`` rows drawn at random, the same ones for the same ``seed`` as long as the table is unchanged.

        ``stratified_by`` a column, each of its values has as many rows as any other, or all it has.
        """
        ...

    def rows_beyond(
        self, limits: Mapping[str, tuple[float, float]], most: int, progress: Progress = silent
    ) -> pl.DataFrame:
        """At most ``most`` rows in which a column has a number less than its first limit or more than its second."""
        ...

    def edited(self, edits: tuple[Edit, ...], folder: Path, progress: Progress = silent) -> pl.LazyFrame:
        """The table with ``edits`` made, without columns that are left out, to be written somewhere else.

        ``folder`` is empty, and for files on the way that are needed until then.
        """
        ...

    def close(self) -> None:
        """Let the table go."""
        ...
