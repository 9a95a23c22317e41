"""The matrix of all columns that says of each pair what is known of it."""

from collections.abc import Mapping, Sequence

import numpy as np

from culvix.charts.plots.matrix.chart import MatrixChart
from culvix.stats.display import coefficient, count, p_value
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.relations.category_matrix import CategoryMatrix
from culvix.study.relations.finding import RelationFinding
from culvix.study.relations.ranking import Relations

__all__ = ["NamedMatrix"]


class NamedMatrix(MatrixChart):
    """Shows ``relations``, with the ``categories`` beside them, and names the ``findings`` of a pair."""

    def __init__(self) -> None:
        super().__init__()
        self.relations: Relations | None = None
        self.categories: CategoryMatrix | None = None
        self.findings: Mapping[frozenset[str], Sequence[RelationFinding]] = {}

    def text_at(self, row: int, column: int) -> str:
        picture, relations = self.picture, self.relations
        if picture is None or relations is None:
            return ""
        if row == column:
            return picture.names[row]
        one, other = picture.names[row], picture.names[column]
        named = frozenset((one, other))
        lines = [f"{one} and {other}"]
        if self.categories is not None and named & self.categories.categories:
            pair = self.categories.pairs.get(named)
            return "\n".join([*lines, pair.sentence if pair else "Not compared."])
        i, j = sorted((relations.columns.index(one), relations.columns.index(other)))
        for key, matrix in relations.matrices.items():
            r, p, note = float(matrix.r[i, j]), float(matrix.p[i, j]), matrix.notes.get((i, j), "")
            shown = "" if np.isnan(r) else f"{coefficient(r)}, {p_value(p)}. "
            lines.append(f"{CORRELATION_KINDS[key].name}: {shown}{note}".rstrip(". ") + "." * bool(note))
        noted = self.findings.get(named, ())
        return "\n".join([*lines, f"n {count(int(picture.n[row, column]))}", *(each.sentence for each in noted)])
