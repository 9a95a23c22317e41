"""The comparisons that were kept with a study, worked out anew from it as it stands."""

from culvix.errors import CulvixError
from culvix.progress import Progress, silent
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.kept_comparison import KeptComparison
from culvix.study.groups.comparison.compared_column import ComparedColumn, Comparing, compare_column, compare_columns
from culvix.study.groups.row_groups import GroupsBy

__all__ = ["compare_kept"]


def compare_kept(
    workspace: Workspace, progress: Progress = silent
) -> tuple[tuple[KeptComparison, ComparedColumn | str], ...]:
    """Each comparison in the order in which they were kept, with why there is none where that is so."""
    found: list[tuple[KeptComparison, ComparedColumn | str]] = []
    comparisons = workspace.document.comparisons
    for index, each in enumerate(comparisons):
        progress(index / len(comparisons), f"comparing {' and '.join(each.needed)}")
        try:
            found.append((each, _compare(workspace, each)))
        except CulvixError as problem:
            found.append((each, f"{' and '.join(each.needed)}: {problem}{each.remark and ' '}{each.remark}"))
    return tuple(found)


def _compare(workspace: Workspace, kept: KeptComparison) -> ComparedColumn:
    settings, table = workspace.settings, workspace.table
    missing = [name for name in kept.needed if name not in table]
    if missing:
        raise CulvixError(f"there is no column {missing[0]} any more.")
    how = Comparing(settings.alpha, settings.confidence, settings.quantile_type, kept.answers, kept.test or None)
    if kept.columns:
        analyses: list[ColumnAnalysis] = [workspace.analysis(name) for name in kept.columns]
        return compare_columns(analyses, how, paired=kept.paired)
    if not table[kept.measure].is_numeric:
        raise CulvixError(f"{kept.measure} has no numbers.")
    by = GroupsBy(kept.by, kept.ranges, kept.period)
    order = workspace.document.dictionary.of(kept.by).date_order
    return compare_column(workspace.analysis(kept.measure), table[kept.by], by, how, order)
