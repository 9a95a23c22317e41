"""The recipe of a study: how its table was read and described, by which conventions, and what was decided by rule."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType

import numpy as np

from culvix.stats.core.arrays import Ints
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.choices.report_layout import ReportLayout
from culvix.study.document.choices.settings import Settings
from culvix.study.document.decisions import Cause, Decision, DecisionKind
from culvix.study.document.document import Origin
from culvix.study.document.history.history import History
from culvix.study.document.marks import Mark
from culvix.study.document.rules import Rule
from culvix.study.recipes.reference import ColumnReference, reference_of
from culvix.tables.model.derived.derivation import Derivation
from culvix.tables.model.dictionary import Dictionary
from culvix.tables.model.options.read_options import ReadOptions
from culvix.tables.model.provenance import Provenance
from culvix.tables.model.table import Source, Table

__all__ = ["FORMAT", "CellReference", "Recipe", "RecipeSource", "Step", "Thresholds", "recipe_of"]

FORMAT = "culvix-recipe/1"

_FLAGS_FOLLOW = ("alpha", "confidence", "quantile_type", "methods", "limits")
"""Settings that decide which values are flagged, besides a column's own."""


@dataclass(frozen=True)
class CellReference:
    """One value that was decided on: the ``row`` (from 1) it stood in, the cells that name the row, and its text."""

    row: int
    key: tuple[str, ...] = ()
    cell: str = ""


@dataclass(frozen=True)
class Step:
    """A decision to be made again: on what its ``rule`` means, or on single ``cells`` where they are still the same.

    ``settings`` are those it was made under, where flags would be others under the recipe's own.
    """

    kind: DecisionKind
    column: str
    rule: Rule | None = None
    cells: tuple[CellReference, ...] = ()
    cause: Cause = Cause.UNKNOWN
    reason: str = ""
    value: float | None = None
    factor: float | None = None
    shift: float = 0.0
    swapped: str | None = None
    by: str = ""
    pass_number: int = 1
    settings: Settings | None = None

    @property
    def details(self) -> dict[str, object]:
        """What a decision has besides its kind, rows, cause and reason."""
        names = ("rule", "value", "factor", "shift", "swapped", "by")
        return {name: getattr(self, name) for name in names}


@dataclass(frozen=True)
class Thresholds:
    """From where on a person must look.

    ``open_flags`` and ``missing``: how many more of all cells than in the reference are flagged without a decision, or
    missing, as a share. A column has moved where the mean distance of its quantiles is more than ``distance`` in IQRs
    of the reference, and its two-sample test has a p value below ``alpha``.
    """

    open_flags: float = 0.01
    missing: float = 0.05
    distance: float = 0.25
    alpha: float = 0.01


@dataclass(frozen=True)
class RecipeSource:
    """The table that a recipe was made with; where it was a ``sample``, of which table."""

    name: str
    sha256: str
    rows: int
    sample: Provenance | None = None


@dataclass(frozen=True)
class Recipe:
    """Everything that can be said again of another table of the same kind.

    ``key`` names the columns whose cells name a row in ``steps``. ``left_out`` says in sentences what of the study is
    not in the recipe.
    """

    format: str
    name: str
    source: RecipeSource
    reading: ReadOptions
    dictionary: Dictionary
    settings: Settings
    derivations: Mapping[str, Derivation] = field(default_factory=lambda: MappingProxyType({}))
    marks: tuple[Mark, ...] = ()
    key: tuple[str, ...] = ()
    steps: tuple[Step, ...] = ()
    thresholds: Thresholds = field(default_factory=Thresholds)
    reference: Mapping[str, ColumnReference] = field(default_factory=lambda: MappingProxyType({}))
    report: ReportLayout = field(default_factory=ReportLayout)
    left_out: tuple[str, ...] = ()


def recipe_of(workspace: Workspace, history: History, name: str = "") -> Recipe:
    """The recipe of the study that stands in ``workspace``; ``history`` tells what settings it was decided under."""
    document, table = workspace.document, workspace.table
    source, key = table.source, _key_of(table)
    counted = [name for name, each in document.derivations.items() if each.counts is not None]
    left_out = [f"{name} counts flags of the rows of {source.name}, which another table has not." for name in counted]
    if document.report.summary:
        left_out.append(f"The sentences written for the first page of the report are about {source.name}.")
    under = _settings_at(history, len(document.decisions))
    steps = [
        _step(decision, table, key, _other_settings(settings, document.settings, decision.column))
        for decision, settings in zip(document.decisions, under, strict=True)
    ]
    return Recipe(
        format=FORMAT,
        name=name or document.name,
        source=RecipeSource(source.name, source.sha256, table.rows, source.sample),
        reading=_reading(source),
        dictionary=document.dictionary,
        settings=document.settings,
        derivations={name: each for name, each in document.derivations.items() if name not in counted},
        marks=document.marks,
        key=key,
        steps=tuple(steps),
        reference={column.name: reference_of(workspace, column) for column in table.as_read},
        report=replace(document.report, summary=(), date=""),
        left_out=tuple(left_out),
    )


def _reading(source: Source) -> ReadOptions:
    """How the table is read, without why it was judged to be written like that."""
    options = Origin.of(source).options
    return options if options.dialect is None else replace(options, dialect=replace(options.dialect, reasons={}))


def _key_of(table: Table) -> tuple[str, ...]:
    if table.key:
        return tuple(name for name in table.key if name in table)
    label = table.label_column
    return () if label is None else (label.name,)


def _settings_at(history: History, decisions: int) -> list[Settings]:
    """The settings that each decision in force was made under, as far back as the history tells."""
    found: list[Settings] = [history.documents[0].settings] * len(history.documents[0].decisions)
    for document in history.documents[1 : history.cursor + 1]:
        found = found[: len(document.decisions)]
        found += [document.settings] * (len(document.decisions) - len(found))
    return found[:decisions]


def _other_settings(before: Settings, now: Settings, column: str) -> Settings | None:
    """``before`` where flags of ``column`` are others under ``now``, else None."""

    def flags(settings: Settings) -> tuple[object, ...]:
        own = settings.of(column)
        return (*(getattr(settings, name) for name in _FLAGS_FOLLOW), own.limits, own.flag_scale, own.flag_within)

    return None if flags(before) == flags(now) else replace(before, columns={column: before.of(column)})


def _step(decision: Decision, table: Table, key: Sequence[str], settings: Settings | None) -> Step:
    of_rule = decision.rule is not None
    return Step(
        kind=decision.kind,
        column=decision.column,
        rule=decision.rule,
        cells=() if of_rule else _cells(table, decision.rows, decision.column, key),
        cause=decision.cause,
        reason=decision.reason,
        value=decision.value,
        factor=decision.factor,
        shift=decision.shift,
        swapped=decision.swapped,
        by=decision.by,
        pass_number=decision.pass_number,
        # An interval means the same values whatever is flagged.
        settings=settings if decision.rule is not None and decision.rule.kind != "between" else None,
    )


def _cells(table: Table, rows: Ints, column: str, key: Sequence[str]) -> tuple[CellReference, ...]:
    """``rows`` (from 0) as another table can be asked for them."""
    texts = [
        table[name].raw.texts.at(rows).str.strip_chars().fill_null("").to_list() for name in (*key, column) if name
    ]
    if not column or table[column].derivation is not None:
        cells = [""] * rows.size
        keys = texts[: len(key)]
    else:
        cells, keys = texts[-1], texts[:-1]
    numbers = (np.asarray(rows) + 1).tolist()
    named = list(zip(*keys, strict=True)) if keys else [()] * len(numbers)
    return tuple(CellReference(*each) for each in zip(numbers, named, cells, strict=True))
