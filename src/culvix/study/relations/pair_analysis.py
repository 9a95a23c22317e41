"""One pair of columns, composed from the analyses of both: the same for the window and the report."""

from dataclasses import dataclass

import numpy as np

from culvix.caching import cached_property
from culvix.stats.core.arrays import Ints
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.document.row_sets import union
from culvix.study.relations.pair_view import PairView, view_pair
from culvix.study.relations.ranking import Suggestion, coefficient_name, suggest_kind
from culvix.tables.model.table import Role

__all__ = ["PairAnalysis", "analyse_pair"]


@dataclass(frozen=True, eq=False)
class PairAnalysis:
    """A pair with and without the rows flagged in either column.

    ``agreement`` has, for each of ``view.flagged``, how many methods flag it in x or y, whichever is more.
    """

    x: ColumnAnalysis
    y: ColumnAnalysis
    view: PairView
    agreement: Ints

    @property
    def titles(self) -> tuple[str, str]:
        """Both columns with their units."""
        return self.x.column.title, self.y.column.title

    @cached_property
    def suggestion(self) -> Suggestion:
        """The kind of correlation to read first."""
        names = self.x.column.name, self.y.column.name
        verdicts = dict(zip(names, (self.x.verdict, self.y.verdict), strict=True))
        values = self.x.sample.values, self.y.sample.values
        distinct = {name: each.sample.distinct for name, each in zip(names, (self.x, self.y), strict=True)}
        return suggest_kind(*names, *values, verdicts, self.x.request.settings.alpha, distinct)

    def reading(self, chosen: str | None) -> Suggestion:
        """The kind to read first: that ``chosen`` for the study, with what would be suggested, or the suggested one."""
        found = self.suggestion
        if chosen is None or chosen == found.kind:
            return found
        name = coefficient_name(chosen, self.roles)
        return Suggestion(chosen, f"{name}, as chosen for the study. Suggested of this pair is {found.reason}")

    @property
    def roles(self) -> tuple[Role, Role]:
        return self.x.column.role, self.y.column.role


def analyse_pair(x: ColumnAnalysis, y: ColumnAnalysis) -> PairAnalysis:
    """Put together ``x`` and ``y``, analyses of one study in one state; may be done on any thread.

    Rows flagged are those of the methods in force that still have both values; level and values in use are those that
    the analyses were asked with.
    """
    names = x.column.name, y.column.name
    values = x.sample.values, y.sample.values
    view = view_pair(*names, *values, union(x.flags.rows, y.flags.rows))
    agreement = np.maximum(x.flags.agreement_on(view.flagged), y.flags.agreement_on(view.flagged))
    return PairAnalysis(x, y, view, agreement)
