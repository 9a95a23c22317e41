"""A recipe run on another table: read and described the same way, decided by the same rules, and compared."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from culvix.errors import Cancelled, ReadError
from culvix.progress import Progress, silent
from culvix.stats.display import count, plural
from culvix.study.analysis.workspace import Workspace
from culvix.study.carrying.carry_over import derivations_that_fit, marks_that_fit
from culvix.study.document.discrepancy import Discrepancy
from culvix.study.recipes.drift import discrepancies
from culvix.study.recipes.recipe import Recipe
from culvix.study.recipes.replay import Repeated, replay
from culvix.study.study import Study, new_document
from culvix.tables import read_table
from culvix.tables.model.table import Table

__all__ = ["Applied", "apply_recipe", "apply_to_table"]


@dataclass(frozen=True, eq=False)
class Applied:
    """The ``study`` that results, what became of each step, and what a person must look at.

    ``notes`` are sentences on what is of no account for the result, but should be known.
    """

    study: Study
    repeated: tuple[Repeated, ...]
    discrepancies: tuple[Discrepancy, ...]
    notes: tuple[str, ...]

    @property
    def needs_review(self) -> bool:
        return bool(self.discrepancies)


def apply_recipe(recipe: Recipe, path: Path, progress: Progress = silent) -> Applied:
    """Run ``recipe`` on the file at ``path``. Raises ReadError where that cannot be read as a table."""
    table, reading = _read(recipe, path, lambda share, doing: progress(0.5 * share, doing))
    applied = apply_to_table(recipe, table, lambda share, doing: progress(0.5 + 0.5 * share, doing))
    return replace(applied, discrepancies=(*reading, *applied.discrepancies))


def _read(recipe: Recipe, path: Path, progress: Progress) -> tuple[Table, tuple[Discrepancy, ...]]:
    """The table as the recipe reads it; as it looks itself where far more of the columns are found that way."""
    asked, as_it_looks = recipe.reading, replace(recipe.reading, dialect=None, encoding=None, part=None)
    try:
        table: Table | None = read_table(path, asked, dictionary=recipe.dictionary, progress=progress)
        failure = ""
    except Cancelled:
        raise
    except ReadError as error:
        table, failure = None, error.sentence
    if table is not None and (_found(recipe, table) == len(recipe.reference) or asked == as_it_looks):
        return table, ()
    try:
        other = read_table(path, as_it_looks, dictionary=recipe.dictionary, progress=progress)
    except Cancelled:
        raise
    except ReadError:
        if table is None:
            raise
        return table, ()
    if table is not None and _found(recipe, other) <= _found(recipe, table):
        return table, ()
    found = f"{count(_found(recipe, other))} of {plural(len(recipe.reference), 'column')}"
    why = failure or "Read as the recipe says, its columns are not found."
    sentence = (
        f"{path.name} is written another way than {recipe.source.name}, and was read as it looks ({found}). {why}"
    )
    return other, (Discrepancy("reading", sentence),)


def _found(recipe: Recipe, table: Table) -> int:
    """How many of the columns that the recipe knows are in ``table``."""
    return sum(name in table for name in recipe.reference)


def apply_to_table(recipe: Recipe, table: Table, progress: Progress = silent) -> Applied:
    """Run ``recipe`` on ``table``, which was read under its dictionary. May be done on any thread."""
    derivations, lost = derivations_that_fit(recipe.derivations, table)
    begun = replace(new_document(table, recipe.settings, recipe.dictionary), derivations=derivations)
    workspace = Workspace.of(begun, table)
    marks, gone = marks_that_fit(recipe.marks, workspace.table)
    study = Study(workspace.with_document(replace(begun, marks=marks, report=recipe.report)))
    misfits = [Discrepancy("derived_column", sentence) for sentence in lost]
    misfits += [Discrepancy("mark", f"The mark {name} has no column here.", "") for name in gone]
    progress(0.1, "making the decisions again")
    repeated = replay(recipe, study)
    misfits += [
        Discrepancy("decision", f"A decision cannot be made again ({each.step.kind}, {_where(each)}): {each.obstacle}")
        for each in repeated
        if each.obstacle
    ]
    found = []
    for done, each in enumerate(discrepancies(recipe, study.workspace)):
        progress(min(0.2 + done / 100, 0.9), "comparing with the reference")
        found.append(each)
    study.set_discrepancies((*misfits, *found))
    return Applied(study, repeated, (*misfits, *found), tuple(_notes(recipe, repeated)))


def _where(repeated: Repeated) -> str:
    rule = repeated.step.rule
    return f"{repeated.step.column or 'whole rows'}, {rule.text if rule else 'single rows'}"


def _notes(recipe: Recipe, repeated: Sequence[Repeated]) -> Iterator[str]:
    lost = sum(len(each.cells) for each in repeated if not each.obstacle)
    if lost:
        where = f"of {recipe.source.name} are about rows that are not in this table, or are other by now"
        yield f"Decisions on {plural(lost, 'single value')} {where}; they were not made again."
    for each in repeated:
        if each.step.rule is not None and not each.obstacle and not each.rows.size:
            yield f"The rule “{each.step.column}: {each.step.rule.text}” means no row here."
