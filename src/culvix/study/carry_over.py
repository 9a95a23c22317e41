"""What was said of a table, taken over to another reading of the same file."""

from dataclasses import dataclass

from culvix.errors import CulvixError
from culvix.stats.display import plural
from culvix.study.document.marks import Mark, marked_rows
from culvix.study.study import Study
from culvix.tables.model.derivation import derive
from culvix.tables.model.dictionary import Dictionary
from culvix.tables.model.table import Column, Table

__all__ = ["CarriedOver", "carry_over"]


@dataclass(frozen=True, eq=False)
class CarriedOver:
    """The study of the new reading, and a sentence for everything of the old one that does not fit it."""

    study: Study
    lost: tuple[str, ...]


def carry_over(study: Study, table: Table, dictionary: Dictionary, steps: int) -> CarriedOver:
    """Put what ``study`` has besides decisions on ``table``, another reading of its file under ``dictionary``.

    Settings, initials, ticks, marks and derived columns stay wherever their columns do. ``steps`` is how many acts can
    be undone before, which none can after. May be done on any thread where ``study`` is a snapshot.
    """
    lost = []
    for column in study.table:
        if column.derivation is not None:
            try:
                table = table.with_derived(_derived_anew(column, table, dictionary))
            except CulvixError as error:
                lost.append(f"{column.name} is gone: {error.sentence}")
    # What the dictionary says of a column holds, its valid range included.
    new = Study(table, study.settings.without_ranges(dictionary.entries), study.name, dictionary)
    new.initials = study.initials
    new.take_review(study)
    new.viewed, new.reviewed = ({name for name in names if name in table} for names in (study.viewed, study.reviewed))
    new.picks = tuple(pick for pick in study.picks if pick.column in table)
    new.marks = tuple(mark for mark in study.marks if _fits(mark, table))
    gone = [mark.name for mark in study.marks if mark not in new.marks]
    if gone:
        lost.append(f"{plural(len(gone), 'mark')} without a column now: {', '.join(gone)}.")
    if steps:
        lost.append(f"{plural(steps, 'step')} made before cannot be undone any more; what they set stays.")
    return CarriedOver(new, tuple(lost))


def _derived_anew(column: Column, table: Table, dictionary: Dictionary) -> Column:
    derivation = column.derivation
    assert derivation is not None
    if derivation.source not in table:
        raise CulvixError(f"{derivation.source}, which it follows, is not in this reading.")
    if derivation.scale is None:
        raise CulvixError(f"it has the flags of {derivation.source} as they were read before.")
    if column.name in table:
        raise CulvixError("a column of this name is in the file now.")
    return derive(column.name, table[derivation.source], derivation, dictionary.of(column.name), lenient=True)


def _fits(mark: Mark, table: Table) -> bool:
    """Whether the rule of ``mark`` can be applied to ``table``."""
    try:
        marked_rows(mark, table)
    except CulvixError:
        return False
    return True
