"""The whole with the decisions made on a sample of it, written by the engine that holds it."""

import os
from dataclasses import dataclass
from pathlib import Path

import polars as pl

from culvix.errors import ReadError, WriteError
from culvix.files import display_path, write_by
from culvix.places import scratch_folder
from culvix.progress import Progress, silent
from culvix.stats.display import plural
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.decisions import Decision, DecisionKind
from culvix.study.whole.conditions import DecisionOnWhole, codes_of, count_decisions
from culvix.tables.engines.edits import Act, Edit, KeysWhere, NumbersWhere, Where
from culvix.tables.engines.engine import Engine, Kind

__all__ = ["CLEANED_WHOLE", "CleanedWhole", "edits_of", "write_cleaned_whole"]

CLEANED_WHOLE = (".parquet", ".csv")
"""Endings of files that a cleaned whole is written as."""
_ACTS = {
    DecisionKind.KEEP: Act.KEEP,
    DecisionKind.EXCLUDE_VALUE: Act.EMPTY,
    DecisionKind.MISSING: Act.EMPTY,
    DecisionKind.EXCLUDE_ROW: Act.LEAVE_OUT,
    DecisionKind.CORRECT: Act.SET,
}


def edits_of(workspace: Workspace, decisions: tuple[DecisionOnWhole, ...]) -> tuple[Edit, ...]:
    """What the ``decisions`` of a study of a sample change in the whole; numbers that stand for nothing are emptied.

    Raises ReadError where one of them is no condition on the whole: without it the whole would not be what was decided.
    """
    left = [each for each in decisions if each.where is None]
    if left:
        many = plural(len(left), "decision")
        raise ReadError(f"{many} cannot be made on the whole ({left[0].sentence}); undo or make it by a rule.")
    empty = [
        Edit(NumbersWhere(column.name, code, code), column.name, Act.EMPTY)
        for column in workspace.table
        if column.is_numeric and column.derivation is None
        for code in codes_of(workspace, column.name)
    ]
    made = [(each.where, edit) for each in decisions if each.where for edit in _edits(each.decision, each.where)]
    # A rule means what was not decided on before; a decision on single rows holds whatever was before.
    by_rule = [edit for where, edit in reversed(made) if isinstance(where, NumbersWhere)]
    return (*empty, *by_rule, *(edit for where, edit in made if isinstance(where, KeysWhere)))


def _edits(decision: Decision, where: Where) -> tuple[Edit, ...]:
    act = _ACTS[decision.kind]
    if decision.swapped is not None:
        one, other = decision.columns
        return Edit(where, one, act, other=other), Edit(where, other, act, other=one)
    return (Edit(where, decision.column, act, decision.value, decision.factor, decision.shift),)


@dataclass(frozen=True)
class CleanedWhole:
    """What was written: the ``decisions`` with the rows that meet each, and columns that no table's file holds."""

    decisions: tuple[DecisionOnWhole, ...]
    left_out: tuple[str, ...]


def write_cleaned_whole(
    engine: Engine, workspace: Workspace, path: Path, progress: Progress = silent, *, sources: tuple[Path, ...] = ()
) -> CleanedWhole:
    """Write the table that ``engine`` holds with the decisions of a study.

    The ending of ``path`` says what is written, Parquet or delimited text. Raises WriteError where it cannot be or is
    of the table itself, the sample, or one of ``sources``, ReadError for decisions that are no conditions, and what
    ``engine`` and ``progress`` raise.
    """
    decisions = count_decisions(engine, workspace, lambda share, doing: progress(0.3 * share, doing))
    edits = edits_of(workspace, decisions)
    folder = Path(engine.address)
    if engine.files and os.path.isdir(folder) and path.resolve().is_relative_to(folder.resolve()):
        raise WriteError(f"{display_path(path)} would be in the folder that is the table; choose another place.")
    try:
        with scratch_folder() as pieces:
            frame = engine.edited(edits, pieces, lambda share, doing: progress(0.3 + 0.7 * share, doing))
            never = (*engine.files, workspace.table.source.path, *sources)
            write_by(path, lambda temporary: _sink(frame, path, temporary), sources=never)
    except (pl.exceptions.PolarsError, OSError) as error:
        why = " ".join(str(error).split())[:200]
        raise WriteError(f"{display_path(path)} cannot be written: {why}") from error
    return CleanedWhole(decisions, tuple(each.name for each in engine.columns if each.kind is Kind.OTHER))


def _sink(frame: pl.LazyFrame, path: Path, temporary: Path) -> None:
    if path.suffix.lower() == CLEANED_WHOLE[0]:
        frame.sink_parquet(temporary, engine="streaming")
    else:
        frame.sink_csv(temporary, engine="streaming")
