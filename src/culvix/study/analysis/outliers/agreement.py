"""The agreement list: every flagged value of one column or of all, which methods flag it, and by how far."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.describe.description import MAD_TO_SD
from culvix.stats.multivariate.row_distances import RowDistances
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.grouping import grouping
from culvix.study.analysis.outliers.flags import Flags
from culvix.study.analysis.working_set import WorkingSet

__all__ = ["FlaggedValues", "JointDistances", "deviations", "flagged_values"]


@dataclass(frozen=True, eq=False)
class FlaggedValues:
    """Flagged values, one a line; all arrays have shape ``(k,)``, ``by`` has ``(k, methods)``.

    ``positions`` index ``columns``, ``rows`` count from 0, ``values`` are those the flags refer to. ``deviations`` are
    distances from the median in scaled MADs, NaN where a column has no such scale. ``agreement`` of ``able`` methods
    flag the value, those in ``by`` in the order of ``methods``. ``decided``: a decision stands on it. ``groups`` names
    the group within which it was judged ("tank T1"), empty where it was judged among all; its deviation is then from
    the median of the group.
    """

    columns: tuple[str, ...]
    methods: tuple[str, ...]
    positions: Ints
    rows: Ints
    values: Floats
    deviations: Floats
    agreement: Ints
    able: Ints
    by: Bools
    decided: Bools
    groups: np.ndarray

    def __len__(self) -> int:
        return int(self.rows.size)

    def take(self, lines: Ints) -> "FlaggedValues":
        """Some of the lines, in the order of ``lines``."""
        taken = {name: array[lines] for name, array in vars(self).items() if isinstance(array, np.ndarray)}
        return replace(self, **taken)  # type: ignore[arg-type]

    def ordered(self) -> "FlaggedValues":
        """Most agreement first, and among equals the farthest."""
        far = np.nan_to_num(np.abs(self.deviations), nan=-1.0)
        return self.take(np.lexsort((self.rows, self.positions, -far, -self.agreement)))

    def column(self, line: int) -> str:
        return self.columns[int(self.positions[line])]


JointDistances = tuple[tuple[str, ...], RowDistances]
"""Columns looked at together, and the distances of their rows."""


def _by_distance(found: RowDistances, position: int, methods: int, working: WorkingSet) -> tuple[np.ndarray, ...]:
    """The rows beyond the cut-off, as the other lines are."""
    at = np.flatnonzero(found.robust > found.cutoff)
    every = np.ones(at.size, dtype=np.int64)
    far, out = found.robust[at], ~working.rows_in_use[found.rows[at]]
    no = np.zeros((at.size, methods), dtype=bool)
    none = np.full(at.size, "", dtype=object)
    return position * every, found.rows[at], far, far / found.cutoff, every, every, no, out, none


def deviations(sample: Sample, values: Floats) -> Floats:
    """Distances of ``values`` from the median of ``sample`` in scaled MADs; NaN where the MAD is 0 or none."""
    scale = MAD_TO_SD * sample.mad
    if not (np.isfinite(scale) and scale > 0):
        return np.full(values.shape, np.nan)
    with np.errstate(over="ignore"):
        return np.asarray((values - sample.median) / scale)


def _grouped(preview: ColumnPreview, values: Floats) -> tuple[np.ndarray, Floats]:
    """The group of each flagged value of ``preview`` and its deviation there; among all where nothing is grouped."""
    rows, within = preview.flags.rows, preview.request.within
    names = np.full(rows.size, "", dtype=object)
    far = deviations(preview.flag_basis, values)
    if within is None:
        return names, far
    groups = grouping(within)
    for code in np.unique(groups.codes[rows]).tolist():
        mine = groups.codes[rows] == code
        if code >= 0:
            names[mine] = f"{groups.by} {groups.names[code]}"
            own = Sample(preview.flag_basis.values[groups.codes == code])
            far[mine] = deviations(own, values[mine])
    return names, far


def _by(flags: Flags, methods: tuple[str, ...]) -> Bools:
    """Which of ``methods`` flag each row of ``flags``; one that is not in force for the column flags none."""
    found = np.zeros((flags.rows.size, len(methods)), dtype=bool)
    for position, key in enumerate(flags.results):
        found[:, methods.index(key)] = flags.by[:, position]
    return found


def flagged_values(
    looks: Sequence[ColumnPreview], working: WorkingSet, distances: JointDistances | None = None
) -> FlaggedValues:
    """Every flagged value of the columns of ``looks``, which were worked out under the same settings.

    Rows flagged by their distance over several columns ``distances`` follow, one line each, under the names of those
    columns; their value is the distance, and their deviation how many times the cut-off it is.
    """
    used = {key for preview in looks for key in preview.flags.results}
    methods = tuple(key for key in OUTLIER_METHODS if key in used)
    parts: list[tuple[np.ndarray, ...]] = []
    for position, preview in enumerate(looks):
        flags = preview.flags
        values = preview.flag_basis.values[flags.rows]
        decided = np.isin(flags.rows, working.decided(preview.column.name), assume_unique=True)
        every = np.ones(flags.rows.size, dtype=np.int64)
        groups, far = _grouped(preview, values)
        parts.append(
            (
                *(position * every, flags.rows, values, far, flags.agreement, flags.able * every),
                *(_by(flags, methods), decided, groups),
            )
        )
    names = tuple(preview.column.name for preview in looks)
    if distances is not None:
        names, part = (
            (*names, " with ".join(distances[0])),
            _by_distance(distances[1], len(looks), len(methods), working),
        )
        parts.append(part)
    if not parts:
        none, nothing = np.zeros(0, dtype=np.int64), np.zeros(0)
        no = np.zeros((0, len(methods)), dtype=bool)
        return FlaggedValues(
            names,
            methods,
            none,
            none,
            nothing,
            nothing,
            none,
            none,
            no,
            np.zeros(0, dtype=bool),
            np.zeros(0, dtype=object),
        )
    return FlaggedValues(names, methods, *(np.concatenate(part) for part in zip(*parts, strict=True)))
