"""What a matrix of all columns shows besides coefficients of numbers: categories, and small pictures of every pair."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.pictures.groups.small_pictures import SmallPictures, small, small_boxes, small_counts, small_of_groups
from culvix.study.relations.category_matrix import CategoryMatrix, category_matrix
from culvix.study.relations.category_pairs import categories_of, category_pairs
from culvix.tables.model.table import Role, Table

__all__ = ["MOST_PICTURED", "MatrixParts", "categories_beside", "categories_of_matrix", "matrix_parts"]

MOST_PICTURED = 14
"""Up to so many columns each pair has a picture of its own."""


@dataclass(frozen=True, eq=False)
class MatrixParts:
    """The ``categories`` beside the numbers, None without any; ``smalls`` where there is room for them."""

    categories: CategoryMatrix | None
    smalls: SmallPictures | None


def categories_beside(table: Table, numeric: Sequence[str]) -> list[str]:
    """Names of the columns that make groups and are not among the ``numeric`` ones of a matrix."""
    return [column.name for column in categories_of(table) if column.name not in numeric]


def matrix_parts(
    table: Table,
    analyses: Mapping[str, ColumnAnalysis],
    categories: Sequence[str],
    progress: Progress = silent,
) -> MatrixParts:
    """The parts of a matrix of the columns of ``analyses``, numbers, and the ``categories``, named as in ``table``.

    Raises what ``progress`` raises.
    """
    values = {name: each.sample.values for name, each in analyses.items()}
    beside = categories_of_matrix(table, values, categories, progress)
    groups = [grouping(table[name]) for name in categories]
    if len(values) + len(groups) > MOST_PICTURED:
        return MatrixParts(beside, None)
    progress(1.0, "drawing small pictures")
    flat = [grouping(each.column) for each in analyses.values() if each.column.role is Role.YES_NO]
    return MatrixParts(beside, _smalls(analyses, groups, flat, progress))


def categories_of_matrix(
    table: Table, values: Mapping[str, Floats], categories: Sequence[str], progress: Progress = silent
) -> CategoryMatrix | None:
    """How the ``categories`` go with the columns of ``values`` (shape ``(rows,)`` by name) and each other, if any.

    Raises what ``progress`` raises.
    """
    if not categories:
        return None
    columns = [column.name for column in table if column.name in values or column.name in categories]
    groups = [grouping(table[name]) for name in categories]
    return category_matrix(columns, category_pairs(groups, values, progress))


def _smalls(
    analyses: Mapping[str, ColumnAnalysis], groups: Sequence[Grouping], flat: Sequence[Grouping], progress: Progress
) -> SmallPictures:
    """The small pictures of columns and pairs; columns of numbers that are ``flat``, too, are drawn as groups."""
    columns = {name: small(each.sample.values, each.axis.scale) for name, each in analyses.items()}
    columns |= {each.by: small_of_groups(each) for each in groups}
    boxes = {}
    drawn = {each.by for each in flat}
    for each in (*groups, *flat):
        for name, analysis in analyses.items():
            if name in drawn:
                continue
            progress(1.0, f"drawing {name} by {each.by}")
            boxes[each.by, name] = small_boxes(each, analysis.sample.values, analysis.axis.scale)
    counts = {(one.by, other.by): small_counts(one, other) for one, other in combinations((*groups, *flat), 2)}
    return SmallPictures(columns, boxes, counts)
