"""The document: everything the analyst said and chose about one table, as one value of plain data.

Whatever is computed follows from a document and the table it is about, and is no part of it.
"""

import os
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from types import MappingProxyType
from urllib.parse import unquote_to_bytes, urlsplit

from culvix.errors import ReadError
from culvix.study.document.choices.report_layout import ReportLayout
from culvix.study.document.choices.settings import Settings
from culvix.study.document.choices.view import View
from culvix.study.document.decisions import Decision
from culvix.study.document.discrepancy import Discrepancy
from culvix.study.document.history.shared_sequence import SharedSequence
from culvix.study.document.kept_comparison import KeptComparison
from culvix.study.document.marks import Mark
from culvix.study.document.picks import Pick
from culvix.tables.model.derived.derivation import Derivation
from culvix.tables.model.dictionary import Dictionary
from culvix.tables.model.options.read_options import PLAIN, ReadOptions
from culvix.tables.model.provenance import Provenance
from culvix.tables.model.table import Source

__all__ = ["OUTSIDE_UNDO", "VERSION", "Document", "Origin", "changed_sections"]

VERSION = 1

OUTSIDE_UNDO = (
    *("name", "initials", "viewed", "reviewed", "noted", "marks", "picks", "comparisons", "discrepancies", "view"),
)
"""Sections that undo and redo leave as they are: what was looked at stays looked at."""


@dataclass(frozen=True)
class Origin:
    """Where a table comes from: the ``uri`` of its file (RFC 8089), its ``size`` in bytes, and how it is read."""

    uri: str
    size: int
    options: ReadOptions = PLAIN
    sample: Provenance | None = None
    """The table that the file is a sample of, which stays where it is."""

    @classmethod
    def of(cls, source: Source) -> "Origin":
        """The origin of a table with this ``source``, read the same way again by the dialect that was found."""
        options = source.options
        if source.dialect is not None:
            # What could be meant otherwise is asked again whenever the file is read.
            options = replace(options, dialect=replace(source.dialect, questions=()))
        # A name may hold bytes that are no text; a URI has a way to write them.
        return cls(source.path.absolute().as_uri(), source.size, options, source.sample)

    @property
    def path(self) -> Path:
        """Where the file is. Raises ReadError where the URI is none of a file."""
        try:
            return Path(os.fsdecode(unquote_to_bytes(urlsplit(self.uri).path)))
        except ValueError as error:
            raise ReadError(f"Where the table comes from is no place of a file: {self.uri[:120]!r}.") from error


@dataclass(frozen=True)
class Document:
    """All that was said and chose, each kind in a section of its own; equal documents give equal figures.

    ``derivations`` are the columns worked out from others, by name, in the order in which they were added. Of the
    ``decisions``, those before the first of ``passes`` were made in the first pass, and so on. ``viewed`` and
    ``reviewed`` name columns, ``comparisons`` of groups are kept for the report, ``noted`` has the keys of findings
    about the whole table, ``discrepancies`` what is not as in the table that a recipe or an earlier reading had.
    """

    version: int
    name: str
    origin: Origin
    dictionary: Dictionary = field(default_factory=Dictionary)
    derivations: Mapping[str, Derivation] = field(default_factory=lambda: MappingProxyType({}))
    settings: Settings = field(default_factory=Settings)
    decisions: SharedSequence[Decision] = field(default_factory=SharedSequence)
    passes: tuple[int, ...] = ()
    initials: str = ""
    viewed: tuple[str, ...] = ()
    reviewed: tuple[str, ...] = ()
    noted: tuple[tuple[str, ...], ...] = ()
    marks: tuple[Mark, ...] = ()
    picks: tuple[Pick, ...] = ()
    comparisons: tuple[KeptComparison, ...] = ()
    discrepancies: tuple[Discrepancy, ...] = ()
    view: View = field(default_factory=View)
    report: ReportLayout = field(default_factory=ReportLayout)

    @property
    def pass_number(self) -> int:
        """The pass over the data, from 1: flags refer to the values at its beginning."""
        return len(self.passes) + 1

    def with_valid_range(self, column: str, bounds: tuple[float | None, float | None]) -> "Document":
        """The same document with another valid range of ``column``. Raises ReadError for ends the wrong way round."""
        entry = replace(self.dictionary.of(column), valid_range=bounds)
        return replace(self, dictionary=self.dictionary.with_entry(column, entry))

    def with_tick(self, section: str, key: str | tuple[str, ...], ticked: bool) -> "Document":
        """The same document with ``key`` among those of ``section`` (viewed, reviewed or noted), or not."""
        others = tuple(each for each in getattr(self, section) if each != key)
        return replace(self, **{section: (*others, key) if ticked else others})  # type: ignore[arg-type]


def changed_sections(before: Document, after: Document) -> frozenset[str]:
    """The names of the sections in which two documents differ."""
    pairs = ((name, getattr(before, name), getattr(after, name)) for name in vars(after))
    return frozenset(name for name, old, new in pairs if old is not new and old != new)
