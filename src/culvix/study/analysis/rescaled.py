"""A column as it would be on another scale, under the decisions and in the pass of its analysis."""

from dataclasses import dataclass

from culvix.progress import Progress, silent
from culvix.stats.shape.power_transform import BoxCox
from culvix.stats.shape.transform import Scale, fitted_scale
from culvix.study.analysis.column_analysis import AnalysisRequest, ColumnAnalysis, analyse
from culvix.study.analysis.working_set import WorkingSet
from culvix.tables.model.derived.derivation import Derivation
from culvix.tables.model.derived.derived_columns import derive, name_of
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Role

__all__ = ["Rescaled", "rescale"]


@dataclass(frozen=True, eq=False)
class Rescaled:
    """The column on another scale, what was fitted for it, and the analysis it came from."""

    before: ColumnAnalysis
    after: ColumnAnalysis
    scale: Scale
    fit: BoxCox | None
    working: WorkingSet
    """The working set as it would be with the column adopted."""


def rescale(analysis: ColumnAnalysis, key: str, progress: Progress = silent) -> Rescaled:
    """Work out the column of ``analysis`` on the scale called ``key``, as if it were adopted; on any thread.

    Raises StatisticsError for a scale that is not known, cannot be fitted, or does not take every value.
    """
    request, column = analysis.request, analysis.column
    table, pass_begins = request.state.table, request.flag_basis_state
    scale, fit = fitted_scale(analysis.sample, key)
    derivation = Derivation(column.name, scale)
    made = derive(name_of(table, derivation), column, derivation, ColumnEntry(role=Role.MEASURE))
    table = table.with_columns((*table, made), table.key, table.source.provenance)
    working = WorkingSet.of(table, request.state.decisions)
    basis = None if pass_begins is None else WorkingSet.of(table, pass_begins.decisions)
    after = analyse(AnalysisRequest(made, working, request.settings, (), basis), None, progress)
    return Rescaled(analysis, after, scale, fit, working)
