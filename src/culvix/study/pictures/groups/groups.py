"""A column split by the groups that another one makes, all in one form."""

from dataclasses import dataclass

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.describe.description import Description, describe
from culvix.stats.shape.axis_scale import on_axis
from culvix.study.analysis.axis_parts import bounds_on
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.grouping import Grouping
from culvix.study.pictures.groups.group_forms import GroupForm

__all__ = ["FEW", "Group", "Split", "split"]

FEW = 5
"""Of fewer values than these, heights say little: one alone would stand five times as high as any other group."""


@dataclass(frozen=True, eq=False)
class Group:
    """The values in use of one group. ``heights`` and ``points`` are those of the split's form, ``far`` is flagged.

    Points and flagged values are places on the axis of the form.
    """

    name: str
    sample: Sample
    description: Description
    heights: Floats
    points: tuple[Floats, Floats]
    far: Floats


@dataclass(frozen=True, eq=False)
class Split:
    """A column split into ``groups``, all in one ``form``; ``outside`` rows are in none."""

    column: str
    by: str
    form: GroupForm
    groups: tuple[Group, ...]
    outside: int

    def rest(self, name: str) -> Floats:
        """The heights of all other groups together; zeros where there is no other."""
        others = [group for group in self.groups if group.name != name]
        n = sum(group.sample.n for group in others)
        total = sum((group.sample.n * group.heights for group in others), np.zeros_like(self.groups[0].heights))
        return np.asarray(total / max(n, 1))

    @property
    def measured(self) -> tuple[Group, ...]:
        """The groups whose heights tell of more than a few values, by which all are drawn; where none does, all."""
        return tuple(group for group in self.groups if group.sample.n >= FEW) or self.groups

    def group(self, name: str) -> Group | None:
        return next((group for group in self.groups if group.name == name), None)


def split(
    analysis: ColumnAnalysis,
    groups: Grouping,
    form: str = "bars",
    *,
    quantile_type: int = 7,
    progress: Progress = silent,
) -> Split | None:
    """``analysis``'s column split by ``groups``, in one of `FORMS`; None where it has no bins."""
    axis, values = analysis.axis, analysis.sample.values
    bars, on = axis.histogram, axis.scale
    if bars is None:
        return None
    flagged = np.zeros(values.shape, dtype=bool)
    flagged[analysis.flags.rows] = True
    used = np.flatnonzero((groups.codes >= 0) & np.isfinite(values))
    order = used[np.argsort(groups.codes[used], kind="stable")]
    ends = np.searchsorted(groups.codes[order], np.arange(len(groups.names) + 1))
    settings = analysis.request.settings
    bounds = bounds_on(on, analysis.request.valid_range)
    shape = GroupForm(form, bars, settings.of(analysis.column.name), on, bounds)
    found = []
    for position, name in enumerate(groups.names):
        progress(position / len(groups.names), f"splitting by {groups.by}")
        rows = order[ends[position] : ends[position + 1]]
        sample = Sample(values[rows])
        placed = on_axis(sample, on)
        far = np.unique(on.positions(values[rows[flagged[rows]]]))
        description = describe(sample, quantile_type=quantile_type)
        found.append(Group(name, sample, description, shape.heights(placed), shape.points(placed), far))
    return Split(analysis.column.name, groups.by, shape, tuple(found), int(analysis.sample.n - used.size))
