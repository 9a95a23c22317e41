"""A column split by the groups that another one makes, on shared bins."""

from dataclasses import dataclass

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.arrays import Floats, Ints
from culvix.stats.describe import Description, describe
from culvix.stats.sample import Sample
from culvix.study.analysis import ColumnAnalysis
from culvix.study.grouping import Grouping

__all__ = ["Group", "Split", "split"]


@dataclass(frozen=True, eq=False)
class Group:
    """The values in use of one group. ``counts`` has those in each of the shared bins, ``far`` the flagged values."""

    name: str
    sample: Sample
    description: Description
    counts: Ints
    far: Floats

    @property
    def shares(self) -> Floats:
        """Share of the group in each bin; nothing for a group without values."""
        return np.asarray(self.counts / max(self.sample.n, 1))


@dataclass(frozen=True, eq=False)
class Split:
    """A column split into ``groups`` on shared ``edges`` (shape ``(bins + 1,)``); ``apart`` rows are in none."""

    column: str
    by: str
    edges: Floats
    groups: tuple[Group, ...]
    apart: int

    def rest(self, name: str) -> Floats:
        """Share of all other groups together in each bin; zeros where there is no other."""
        others = [group for group in self.groups if group.name != name]
        n = sum(group.sample.n for group in others)
        total: Floats = np.sum([group.counts for group in others], axis=0) if n else np.zeros(self.edges.size - 1)
        return np.asarray(total / max(n, 1))

    def group(self, name: str) -> Group | None:
        return next((group for group in self.groups if group.name == name), None)


def split(
    analysis: ColumnAnalysis, groups: Grouping, *, quantile_type: int = 7, progress: Progress = silent
) -> Split | None:
    """``analysis``'s column split by ``groups`` on the bins it is shown in; None where it has no bins."""
    bars, values = analysis.histogram, analysis.sample.values
    if bars is None:
        return None
    flagged = np.zeros(values.shape, dtype=bool)
    flagged[analysis.flags.rows] = True
    used = np.flatnonzero((groups.codes >= 0) & np.isfinite(values))
    order = used[np.argsort(groups.codes[used], kind="stable")]
    ends = np.searchsorted(groups.codes[order], np.arange(len(groups.names) + 1))
    side = "left" if bars.closed == "left" else "right"
    found = []
    for place, name in enumerate(groups.names):
        progress(place / len(groups.names), f"splitting by {groups.by}")
        rows = order[ends[place] : ends[place + 1]]
        sample = Sample(values[rows])
        counts = np.diff(np.searchsorted(sample.sorted, bars.edges, side=side))  # type: ignore[call-overload]
        far = np.unique(values[rows[flagged[rows]]])
        found.append(Group(name, sample, describe(sample, quantile_type=quantile_type), counts, far))
    return Split(analysis.column.name, groups.by, bars.edges, tuple(found), int(analysis.sample.n - used.size))
