"""What the pictures are drawn from: small frozen data, drawn in the window, in a file or in another process."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from culvix.caching import cached_property
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.quantiles import quantile
from culvix.stats.core.sample import Sample
from culvix.stats.describe.intervals import Interval
from culvix.stats.display import NumberStyle, plural, rounded
from culvix.stats.shape.axis_scale import AXIS_SCALES, MEASURED_AXIS, AxisScale
from culvix.stats.shape.density import Density
from culvix.stats.shape.density_outline import density_outline
from culvix.stats.shape.histogram import WHOLE_NUMBERS, Histogram
from culvix.stats.shape.qq import QQ
from culvix.study.analysis.axis_parts import AxisParts
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.document.choices.picture_style import PictureStyle
from culvix.study.document.choices.settings import SCALES, WHISKERS, Settings
from culvix.study.pictures.spans import MOST_FLAGGED, Span, spans_of
from culvix.study.pictures.thinning import distinct_positions, few, representative
from culvix.study.pictures.whole_outline import WholeOutline, whole_outline
from culvix.study.whole.column_figures import ColumnOfWhole
from culvix.tables.model.table import Role

__all__ = [
    "BoxNumbers",
    "Marks",
    "ShapePicture",
    "measured_parts",
    "shape_picture",
    "with_bars",
    "with_curve",
    "with_span",
    "without_rows",
]

_MOST_MARKS = 700
_MOST_STEPS = 1500
_ENDS = 2
_MOST_POINTS = 4000


@dataclass(frozen=True)
class BoxNumbers:
    """Five numbers and the mean of the values in use; ``whiskers`` says in words how far ``low`` and ``high`` reach.

    ``notch`` is the median's interval, where it is asked for and n allows one.
    """

    low: float
    q1: float
    median: float
    q3: float
    high: float
    mean: float
    whiskers: str
    notch: Interval | None = None


@dataclass(frozen=True, eq=False)
class Marks:
    """Rows drawn one by one, each array of shape ``(k,)``: where they stand, and how many methods flag them."""

    rows: Ints
    values: Floats
    weights: Ints

    @classmethod
    def at(cls, rows: Ints, values: Floats, weights: Ints | None = None) -> "Marks":
        """Marks for ``rows`` whose value exists; of too many some are drawn that leave no gap where there is none."""
        keep = np.flatnonzero(np.isfinite(values))
        if keep.size > _MOST_MARKS:
            # Which of equal values are drawn does not matter; a stable order would cost three times as much.
            keep = keep[np.argsort(values[keep])]
            keep = keep[representative(values[keep], _MOST_MARKS)]
        strength = np.zeros(rows.size, dtype=np.int64) if weights is None else weights
        return cls(rows[keep], values[keep], strength[keep])

    def fewer(self, most: int) -> "Marks":
        """At most so many of them, which leave no gap where there is none."""
        if self.rows.size <= most:
            return self
        order = np.argsort(self.values, kind="stable")
        some = order[representative(self.values[order], most)]
        return Marks(self.rows[some], self.values[some], self.weights[some])

    @classmethod
    def plain(cls, values: Floats) -> "Marks":
        """Marks of values that stand for no row in particular."""
        nothing = np.full(values.size, -1, dtype=np.int64)
        return cls(nothing, values, np.zeros(values.size, dtype=np.int64))


@dataclass(frozen=True)
class MarkedRows:
    """How many rows are flagged and not decided, excluded, and selected; of many only some are drawn."""

    flagged: int
    excluded: int
    selected: int


@dataclass(frozen=True, eq=False)
class ShapePicture:
    """All lanes of one column, in places on ``axis``: on a measured one these are the values themselves.

    ``extent`` is the range of the values in use, ``reference`` the mean and SD of the normal that is drawn beside them.
    """

    title: str
    unit: str | None
    axis: AxisScale
    n: int
    style: NumberStyle
    scale: str
    histogram: Histogram | None
    curve: Density | None
    reference: tuple[float, float] | None
    box: BoxNumbers | None
    qq: QQ | None
    qq_rows: Ints
    spans: tuple[Span, ...]
    flagged: Marks
    excluded: Marks
    corrected: Marks
    corrected_from: Floats
    selected: Marks
    selected_counts: Ints
    marked: "MarkedRows"
    stacked: bool
    box_points: bool
    upright: bool
    extent: tuple[float, float] | None
    sample: Sample
    style_on_paper: PictureStyle
    words: Mapping[float, str]
    """What codes stand for, none on an axis that is not measured."""

    whole: WholeOutline | None = None
    """Of a sample: the whole behind it."""

    @cached_property
    def points(self) -> Marks:
        """Rows drawn one by one besides the flagged ones, which have marks of their own."""
        shown = self.sample.rows[representative(self.sample.sorted, _MOST_POINTS)]
        rows = np.setdiff1d(shown, self.flagged.rows)
        return Marks(rows, self.sample.values[rows], np.zeros(rows.size, dtype=np.int64))

    @cached_property
    def steps(self) -> tuple[Floats, Floats]:
        """Values, ascending, and the share of rows at or below each."""
        positions = few(np.arange(self.n), _MOST_STEPS)
        last = np.unique(np.searchsorted(self.sample.sorted, self.sample.sorted[positions], side="right") - 1)
        return self.sample.sorted[last], (last + 1) / max(self.n, 1)

    @property
    def sentence(self) -> str:
        """What the lanes show, in words, for who cannot see them."""
        if not self.n or self.box is None:
            return f"{self.title}: no values."
        box, value = self.box, self.style.statistic
        parts = [
            f"{self.title}: {plural(self.n, 'value')} from {value(float(self.sample.sorted[0]))} to "
            f"{value(float(self.sample.sorted[-1]))}",
            f"median {value(box.median)}, middle half from {value(box.q1)} to {value(box.q3)}",
            f"{plural(self.marked.flagged, 'value')} flagged",
        ]
        parts += [f"{plural(self.marked.excluded, 'value')} excluded"] if self.marked.excluded else []
        parts += [f"{plural(self.marked.selected, 'row')} selected"] if self.marked.selected else []
        return "; ".join(parts) + "."

    def weights_of(self, rows: Ints) -> Ints:
        """How many methods flag each of ``rows`` (same shape); 0 for those that are not marked as flagged."""
        order = np.argsort(self.flagged.rows)
        known = self.flagged.rows[order]
        if not known.size:
            return np.zeros(rows.shape, dtype=np.int64)
        position = np.minimum(np.searchsorted(known, rows), known.size - 1)
        return np.where(known[position] == rows, self.flagged.weights[order][position], 0)

    @property
    def unit_of_bars(self) -> float:
        """Height of one row in the chosen scale."""
        if self.scale == "counts" or not self.n or self.histogram is None:
            return 1.0
        return 100 / self.n if self.scale == "percent" else 1 / (self.n * self.histogram.width)

    @property
    def axis_of_bars(self) -> str:
        """What the bars' heights mean."""
        if self.histogram is None or self.scale == "density":
            return SCALES[self.scale]
        width = self.histogram.width
        if self.histogram.rule == WHOLE_NUMBERS:
            return SCALES[self.scale]
        unit = self.unit if self.axis.is_measured else AXIS_SCALES[self.axis.key].unit
        return f"{SCALES[self.scale]} per {rounded(width)}{f' {unit}' if unit else ''}"


def shape_picture(
    analysis: ColumnPreview,
    working: WorkingSet,
    selected: Ints,
    settings: Settings | None = None,
    *,
    qq_points: int = 800,
    measured: bool = False,
    whole: ColumnOfWhole | None = None,
) -> ShapePicture:
    """The lanes of ``analysis`` with the decisions of ``working`` and the ``selected`` rows marked.

    ``settings`` say how they are drawn; by default those under which the analysis was made. ``measured`` leaves the
    axis measured whatever its scale. ``whole`` is the column in the table that this one is a sample of.
    """
    settings = settings or analysis.request.settings
    parts = measured_parts(analysis) if measured else analysis.axis
    axis, sample, on = parts.scale, parts.sample, parts.scale.positions
    imported, name = analysis.column.sample, analysis.column.name
    excluded, corrected = working.excluded(name), working.corrected(name)
    # Of many, some are drawn; each of these from the place it was moved from.
    drawn = Marks.at(corrected.rows, on(corrected.values))
    flags = analysis.flags
    decided = np.zeros(sample.values.size, dtype=bool)
    decided[excluded] = decided[corrected.rows] = True
    plain = ~decided[flags.rows]
    centre = sample.moments
    # Between codes, or two values and no more, there is nothing for a curve to run through.
    smooth = analysis.column.role not in (Role.YES_NO, Role.ORDERED) and sample.distinct > 2
    two_valued = analysis.column.role is Role.YES_NO
    points = parts.qq.thinned(qq_points) if parts.qq and not two_valued else None
    outline = whole_outline(whole, axis)
    at_flags = on(analysis.flag_basis.values[flags.rows[plain]])
    return ShapePicture(
        title=analysis.column.title,
        unit=analysis.column.unit,
        axis=axis,
        n=sample.n,
        style=parts.style,
        scale=settings.of(name).scale,
        histogram=parts.histogram,
        curve=parts.outline if smooth else None,
        reference=(centre.mean, centre.sd) if smooth and centre and centre.sd else None,
        box=_box(analysis, settings, axis),
        qq=points,
        qq_rows=sample.rows[points.positions] if points else np.zeros(0, dtype=np.int64),
        spans=() if two_valued else (*spans_of(analysis, axis), *(outline.spans if outline else ())),
        flagged=Marks.at(flags.rows[plain], at_flags, flags.agreement[plain]),
        excluded=Marks.at(excluded, on(imported.values[excluded])),
        corrected=drawn,
        corrected_from=on(imported.values[drawn.rows]),
        selected=Marks.at(selected, sample.values[selected]),
        selected_counts=_counts(sample, parts.histogram, selected),
        marked=MarkedRows(int(np.count_nonzero(plain)), int(excluded.size), int(selected.size)),
        stacked=settings.stacked_points,
        box_points=settings.box_points,
        upright=settings.upright,
        extent=(float(sample.sorted[0]), float(sample.sorted[-1])) if sample.n else None,
        sample=sample,
        style_on_paper=settings.picture_style,
        words=analysis.column.words_of_numbers if axis.is_measured else {},
        whole=outline,
    )


def measured_parts(analysis: ColumnPreview) -> AxisParts:
    """What is pictured of ``analysis`` on a measured axis, whatever the scale of its own is."""
    parts = (analysis.histogram, analysis.density, analysis.qq)
    return AxisParts(MEASURED_AXIS, analysis.sample, *parts, analysis.style)


def without_rows(picture: ShapePicture) -> ShapePicture:
    """``picture`` for lanes that draw no single rows, such as histogram and box, without the values of all of them.

    One whose box shows rows as points keeps them.
    """
    if picture.box_points or picture.sample.n < _ENDS:
        return picture
    return replace(picture, sample=Sample.of(picture.sample.sorted[[0, -1]]))


def with_bars(picture: ShapePicture, bars: Histogram, selected: Ints) -> ShapePicture:
    """The same ``picture`` with other bars, in which the ``selected`` rows are counted anew."""
    return replace(picture, histogram=bars, selected_counts=_counts(picture.sample, bars, selected))


def _box(analysis: ColumnPreview, settings: Settings, axis: AxisScale) -> BoxNumbers | None:
    d = analysis.description
    if d.mean is None or d.q1 is None or d.q3 is None or d.median is None or d.iqr is None:
        return None
    low, high = _whiskers(analysis, (d.q1, d.q3), settings)
    text = WHISKERS[settings.whiskers]
    if settings.whiskers == "fences":
        reach = settings.limits_of(analysis.column.name, "iqr_fences") or (1.5, 1.5)
        text = f"farthest value within {' and '.join(f'{each:g}' for each in dict.fromkeys(reach))} IQR"
    notch = d.ci_median if settings.notch else None
    if notch is not None:
        notch = axis.position(notch[0]), axis.position(notch[1])
    positions = [axis.position(value) for value in (min(low, d.q1), d.q1, d.median, d.q3, max(high, d.q3), d.mean)]
    five, mean = positions[:5], positions[5]
    return BoxNumbers(five[0], five[1], five[2], five[3], five[4], mean, text, notch)


def _whiskers(analysis: ColumnPreview, quartiles: tuple[float, float], settings: Settings) -> tuple[float, float]:
    """How far the whiskers reach."""
    x = analysis.sample.sorted
    if settings.whiskers == "extremes":
        return float(x[0]), float(x[-1])
    if settings.whiskers == "percentiles":
        return quantile(x, 0.05, settings.quantile_type), quantile(x, 0.95, settings.quantile_type)
    q1, q3 = quartiles
    below, above = settings.limits_of(analysis.column.name, "iqr_fences") or (1.5, 1.5)
    low = x[min(int(np.searchsorted(x, q1 - below * (q3 - q1), side="left")), x.size - 1)]
    high = x[max(int(np.searchsorted(x, q3 + above * (q3 - q1), side="right")) - 1, 0)]
    return float(low), float(high)


def with_span(picture: ShapePicture, key: str, lower: float, upper: float, sample: Sample) -> ShapePicture:
    """The same ``picture`` with another span of the method ``key``, which flags what lies outside it in ``sample``.

    Its ends ``lower`` and ``upper`` and the sample are in the column's unit.
    """
    x, on = sample.sorted, picture.axis
    low, high = int(np.searchsorted(x, lower, side="left")), int(np.searchsorted(x, upper, side="right"))
    outside = distinct_positions(on.positions(np.concatenate((x[:low], x[high:]))), MOST_FLAGGED)
    ends = on.position(lower), on.position(upper)
    spans = (
        replace(s, lower=ends[0], upper=ends[1], flagged=outside, beyond=(low, x.size - high)) if s.key == key else s
        for s in picture.spans
    )
    return replace(picture, spans=tuple(spans))


def with_curve(picture: ShapePicture, curve: Density) -> ShapePicture:
    """The same ``picture`` with another density."""
    return replace(picture, curve=density_outline(curve, picture.sample))


def _counts(sample: Sample, bars: Histogram | None, rows: Ints) -> Ints:
    """How many of ``rows`` stand in each bin."""
    if bars is None:
        return np.zeros(0, dtype=np.int64)
    values = np.sort(sample.values[rows])
    side = "left" if bars.closed == "left" else "right"
    return np.diff(np.searchsorted(values[np.isfinite(values)], bars.edges, side=side))  # type: ignore[call-overload,no-any-return]
