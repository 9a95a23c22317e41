"""What was said of a table, taken over to another reading of the same file."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from culvix.errors import CulvixError
from culvix.stats.display import plural
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.document import Origin
from culvix.study.document.history.shared_sequence import SharedSequence
from culvix.study.document.marks import Mark, marked_rows
from culvix.study.study import Study
from culvix.tables.model.derived.derivation import Derivation
from culvix.tables.model.dictionary import ColumnEntry, Dictionary
from culvix.tables.model.table import Table

__all__ = ["CarriedOver", "carry_over", "derivations_that_fit", "marks_that_fit"]


@dataclass(frozen=True, eq=False)
class CarriedOver:
    """The study of the new reading, and a sentence for everything of the old one that does not fit it."""

    study: Study
    lost: tuple[str, ...]


def carry_over(workspace: Workspace, table: Table, dictionary: Dictionary, steps: int) -> CarriedOver:
    """Put what ``workspace`` has besides decisions on ``table``, another reading of its file under ``dictionary``.

    Settings, initials, ticks, marks and derived columns stay wherever their columns do. ``steps`` is how many acts can
    be undone before, which none can after. May be done on any thread.
    """
    old = workspace.document
    derivations, lost = derivations_that_fit(old.derivations, table)
    names = {*(column.name for column in table), *derivations}
    document = replace(
        old,
        origin=Origin.of(table.source),
        dictionary=_with_ranges(dictionary, old.dictionary),
        derivations=derivations,
        decisions=SharedSequence(),
        passes=(),
        viewed=tuple(name for name in old.viewed if name in names),
        reviewed=tuple(name for name in old.reviewed if name in names),
        picks=tuple(pick for pick in old.picks if pick.column in names),
        comparisons=tuple(each for each in old.comparisons if set(each.needed) <= names),
    )
    described = Workspace.of(document, table)
    marks, gone = marks_that_fit(old.marks, described.table)
    if gone:
        lost.append(f"{plural(len(gone), 'mark')} without a column now: {', '.join(gone)}.")
    if steps:
        lost.append(f"{plural(steps, 'step')} made before cannot be undone any more; what they set stays.")
    return CarriedOver(Study(described.with_document(replace(document, marks=marks))), tuple(lost))


def _with_ranges(dictionary: Dictionary, before: Dictionary) -> Dictionary:
    """``dictionary`` with the valid ranges declared ``before`` of columns that it says nothing of."""
    silent = {name: entry for name, entry in before.entries.items() if name not in dictionary.entries}
    ranges = {name: ColumnEntry(valid_range=entry.valid_range) for name, entry in silent.items()}
    declared = {name: entry for name, entry in ranges.items() if entry.valid_range != (None, None)}
    return dictionary.with_each(declared) if declared else dictionary


def derivations_that_fit(
    derivations: Mapping[str, Derivation], table: Table, *, counted: bool = False
) -> tuple[dict[str, Derivation], list[str]]:
    """The columns that can be worked out from those of ``table``, and a sentence for each that cannot.

    Counts of flags are about the rows of one reading, and fit another one only where they are ``counted`` for it.
    """
    fitting: dict[str, Derivation] = {}
    lost = []
    for name, derivation in derivations.items():
        obstacle = _obstacle(name, derivation, table, fitting, counted=counted)
        if obstacle:
            lost.append(f"{name} is gone: {obstacle}")
        else:
            fitting[name] = derivation
    return fitting, lost


def _obstacle(
    name: str, derivation: Derivation, table: Table, fitting: Mapping[str, Derivation], *, counted: bool
) -> str:
    """Why the column called ``name`` cannot be worked out any more, empty where it can."""
    source = derivation.source
    gone = [each for each in derivation.sources if each not in table and each not in fitting]
    if gone:
        return f"{gone[0]}, which it follows, is not in this reading."
    if derivation.rule is not None:
        return _obstacle_to_rule(name, derivation, table)
    if derivation.counts is not None and not counted:
        return f"it has the flags of {source} as they were read before."
    if name in table:
        return "a column of this name is in the file now."
    if source in table and not table[source].is_numeric:
        return f"{name} follows {source}, which has no numbers any more."
    return ""


def _obstacle_to_rule(name: str, derivation: Derivation, table: Table) -> str:
    if name in table:
        return "a column of this name is in the file now."
    known = {source: table[source] for source in derivation.sources if source in table}
    if derivation.rule is None or len(known) < len(derivation.sources):
        # What follows another column that is worked out is known when that is.
        return ""
    try:
        derivation.rule.check(known, derivation.source)
    except CulvixError as problem:
        return str(problem)
    return ""


def marks_that_fit(marks: Sequence[Mark], table: Table) -> tuple[tuple[Mark, ...], list[str]]:
    """Those of ``marks`` whose rules can be applied to ``table``, and the names of the others."""
    fitting = tuple(mark for mark in marks if _fits(mark, table))
    return fitting, [mark.name for mark in marks if mark not in fitting]


def _fits(mark: Mark, table: Table) -> bool:
    """Whether the rule of ``mark`` can be applied to ``table``."""
    try:
        marked_rows(mark, table)
    except CulvixError:
        return False
    return True
