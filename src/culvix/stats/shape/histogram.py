"""Histograms whose edges are round numbers and whose counts always add up to n.

Width rules: Freedman & Diaconis 1981, Scott 1979, Sturges 1926, Doane 1976, square root; of few values, where the first
would leave too few bins, Sturges' rule stands in. An automatic width is snapped to 1, 2, 2.5 or 5 times a power of ten
and its edges to multiples of the width. Whole numbers with few distinct values get one bin each.
"""

from dataclasses import dataclass
from fractions import Fraction
from math import ceil, floor, frexp, isfinite, ldexp, log2, log10, sqrt

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.moments import moments
from culvix.stats.core.quantiles import quantile
from culvix.stats.core.sample import Sample

__all__ = ["BIN_RULES", "WHOLE_NUMBERS", "Closed", "Histogram", "histogram", "round_width"]

Closed = str
"""``"left"``: a value on an edge belongs to the bin above it; ``"right"``: to the bin below it."""

BIN_RULES: dict[str, str] = {
    "freedman_diaconis": "Freedman–Diaconis",
    "scott": "Scott",
    "sturges": "Sturges",
    "doane": "Doane",
    "square_root": "square root",
}

WHOLE_NUMBERS = "one bin per whole number"

MOST_BINS = 2000
_FEW_DISTINCT = 40
_FEW_VALUES = 50
"""Of fewer values than these a width by the IQR may leave one bin or two."""
_NO_ROOM = 1.79e308
_WIDEST = 1e6
"""A bin may be so many times as wide as all values together reach."""
"""Beyond this no edge fits between the value and the largest double."""

_LARGEST_ROUND = 1e300
"""Beyond this the next round number may be out of a double's range."""


@dataclass(frozen=True)
class Histogram:
    """Counts between edges, with what lies beyond them.

    ``edges`` has shape ``(bins + 1,)`` in the column's unit, ``counts`` shape ``(bins,)``. ``below`` and ``above``
    are the open end bins. ``rule`` names what gave the width; ``note`` says why another rule stepped in.
    """

    edges: Floats
    counts: Ints
    below: int
    above: int
    closed: Closed
    rule: str
    note: str | None = None

    @property
    def n(self) -> int:
        return int(self.counts.sum()) + self.below + self.above

    @property
    def width(self) -> float:
        return float(self.edges[1] - self.edges[0])

    def bin_of(self, value: float) -> int | None:
        """Index of the bin that holds ``value``, or None beyond the edges."""
        side = "right" if self.closed == "left" else "left"
        index = int(np.searchsorted(self.edges, value, side=side)) - 1  # type: ignore[call-overload]
        return index if 0 <= index < self.counts.size else None


def histogram(
    sample: Sample,
    rule: str = "freedman_diaconis",
    *,
    width: float | None = None,
    start: float | None = None,
    end: float | None = None,
    count: int | None = None,
    closed: Closed = "left",
) -> Histogram | None:
    """Count the values of a sample in bins.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    rule
        How wide bins are, by a name in `BIN_RULES`; a width snaps to 1, 2, 2.5 or 5 times a power of ten.
    width
        The width, in the values' unit, in place of the rule.
    start, end
        The first edge, and the place the last bin reaches; what lies beyond is counted in open end bins. Without them
        edges are multiples of the width that take in all values.
    count
        So many equal bins, in place of the rule.
    closed
        Which edge belongs to a bin, ``"left"`` or ``"right"``.

    Returns
    -------
    Histogram or None
        Edges and counts; None without values and for a range beyond a double.

    Raises
    ------
    StatisticsError
        For an unknown rule, a width that is not positive, both a width and a count, ends that do not follow each other,
        or more than 2000 bins.

    References
    ----------
    Freedman, D. & Diaconis, P. 1981: On the histogram as a density estimator: L2 theory. Zeitschrift für
    Wahrscheinlichkeitstheorie 57, 453-476.
    """
    _check(rule, width, closed)
    _check_ends(start, end)
    _check_count(count, width)
    x = sample.sorted
    if not x.size:
        return None
    low, high, note = float(x[0]), float(x[-1]), None
    if not isfinite(high - low) or max(-low, high) > _NO_ROOM:
        return None
    if width is not None:
        edges, name = _edges(x, width, start, end, closed), "chosen width"
    elif count is not None and (low < high or start is not None or end is not None):
        edges, name = _equal((low, high), start, end, count, closed), "chosen count"
    elif start is not None or end is not None:
        plain = histogram(sample, rule, closed=closed)
        if plain is None:
            return None
        edges, name, note = _edges(x, plain.width, start, end, closed), plain.rule, plain.note
    elif low == high:
        edges, name = _around(low), "one value"
    elif sample.is_whole and sample.distinct <= _FEW_DISTINCT and high - low <= 2 * _FEW_DISTINCT:
        edges = np.arange(low, high + 2) - 0.5
        name = WHOLE_NUMBERS
    else:
        raw, name, note = _rule_width(sample, rule)
        edges = _round_edges(x, raw, closed, sample.is_whole)
    return _count(x, edges, closed, name, note)


def _check(rule: str, width: float | None, closed: Closed) -> None:
    if rule not in BIN_RULES:
        raise StatisticsError(f"There is no bin rule called {rule!r}; there are {', '.join(BIN_RULES)}.")
    if closed not in ("left", "right"):
        raise StatisticsError(f"The closed side of a bin is 'left' or 'right', not {closed!r}.")
    if width is not None and not (isfinite(width) and width > 0):
        raise StatisticsError("A bin width must be a positive number.")


def _check_ends(start: float | None, end: float | None) -> None:
    for name, edge in (("first", start), ("last", end)):
        if edge is not None and not (isfinite(edge) and abs(edge) <= _NO_ROOM):
            raise StatisticsError(f"The {name} edge must be a finite number.")
    if start is not None and end is not None and not start < end:
        raise StatisticsError(f"The first edge {start:g} must lie below the last one, {end:g}.")


def _check_count(count: int | None, width: float | None) -> None:
    if count is None:
        return
    if width is not None:
        raise StatisticsError("Choose the width of the bins or their count, not both.")
    if not 1 <= count <= MOST_BINS:
        raise StatisticsError(f"There can be 1 to {MOST_BINS} bins, not {count}.")


def _equal(extremes: tuple[float, float], start: float | None, end: float | None, count: int, closed: Closed) -> Floats:
    """``count`` equal bins between two places, an extreme on an open outer edge taken in by a hair."""
    first, last = extremes[0] if start is None else start, extremes[1] if end is None else end
    if not first < last:
        raise StatisticsError(f"There is no room for bins between {first:g} and {last:g}.")
    edges = np.linspace(first, last, count + 1)
    if closed == "left" and end is None:
        edges[-1] = np.nextafter(last, np.inf)
    if closed == "right" and start is None:
        edges[0] = np.nextafter(first, -np.inf)
    if not (np.diff(edges) > 0).all():
        raise StatisticsError(f"{count} bins are more than there are numbers between {first:g} and {last:g}.")
    return edges


def _count(x: Floats, edges: Floats, closed: Closed, rule: str, note: str | None) -> Histogram:
    side = "left" if closed == "left" else "right"
    at = np.searchsorted(x, edges, side=side)  # type: ignore[call-overload]
    return Histogram(edges, np.diff(at), int(at[0]), int(x.size - at[-1]), closed, rule, note)


def _rule_width(sample: Sample, rule: str) -> tuple[float, str, str | None]:
    """Raw width by ``rule``, the name of the rule used and a note where another had to step in."""
    x, n = sample.sorted, sample.n
    span = float(x[-1] - x[0])
    sturges = span / (log2(n) + 1)
    if rule == "freedman_diaconis":
        iqr = quantile(x, 0.75) - quantile(x, 0.25)
        width = 2 * iqr / n ** (1 / 3)
        if n < _FEW_VALUES and width > sturges:
            note = f"Of {n} values Freedman–Diaconis would leave too few bins; Sturges' rule stands in."
            return sturges, BIN_RULES["sturges"], note
        if iqr > 0:
            return width, BIN_RULES[rule], None
        return (
            sturges,
            BIN_RULES["sturges"],
            "The IQR is 0, so Sturges' rule stands in for Freedman–Diaconis.",
        )
    if rule == "sturges":
        return sturges, BIN_RULES[rule], None
    if rule == "square_root":
        return span / sqrt(n), BIN_RULES[rule], None
    centre = moments(x)
    if rule == "scott" and centre.sd:
        return 3.49 * centre.sd / n ** (1 / 3), BIN_RULES[rule], None
    if rule == "doane" and centre.g1 is not None and n > 2:
        spread = sqrt(6 * (n - 2) / ((n + 1) * (n + 3)))
        return span / (1 + log2(n) + log2(1 + abs(centre.g1) / spread)), BIN_RULES[rule], None
    return (
        sturges,
        BIN_RULES["sturges"],
        f"{BIN_RULES[rule]} has nothing to work with at n = {n}; Sturges' rule stands in.",
    )


def round_width(raw: float, *, whole: bool = False) -> tuple[int, int]:
    """The width m × 10^k nearest to ``raw`` on a log scale, m one of 10, 20, 25 and 50, as (m, k).

    With ``whole`` no width falls between whole numbers.
    """
    k = floor(log10(raw)) - 1
    choices = [(m, k + shift) for shift in (0, 1) for m in (10, 20, 25, 50)]
    if whole:
        choices = [(m, e) for m, e in choices if e >= 0 or (e == -1 and m != 25)] or [(10, -1)]
    return min(choices, key=lambda choice: abs(log10(choice[0]) + choice[1] - log10(raw)))


def _multiples(first: int, last: int, m: int, k: int) -> Floats:
    """The numbers j·m·10^k for j from ``first`` to ``last``, each rounded once."""
    scaled = np.arange(first, last + 1, dtype=np.float64) * m
    if k >= 0:
        return np.asarray(scaled * 10.0**k, dtype=np.float64)
    if k >= -300:
        return np.asarray(scaled / 10.0**-k, dtype=np.float64)
    return np.asarray(scaled / 1e300 / 10.0 ** (-k - 300), dtype=np.float64)


def _round_edges(x: Floats, raw: float, closed: Closed, whole: bool) -> Floats:
    low, high = float(x[0]), float(x[-1])
    if max(-low, high) > _LARGEST_ROUND:
        return _plain(low, high)
    # A bin narrower than the spacing of doubles at this size would have edges that coincide.
    finest = 4 * float(np.spacing(max(abs(low), abs(high))))
    raw = max(raw, (high - low) / MOST_BINS, finest, 5e-323)
    while True:
        m, k = round_width(raw, whole=whole)
        width = float(_multiples(1, 1, m, k)[0])
        if width >= finest and (high - low) / width <= MOST_BINS:
            first, last = floor(low / width), ceil(high / width)
            edges = _multiples(first - 1, last + 1, m, k)
            if bool((np.diff(edges) > 0).all()) and isfinite(float(edges[0])) and isfinite(float(edges[-1])):
                return _trimmed(edges, low, high, closed)
            return _plain(low, high)
        raw *= 2


def _trimmed(edges: Floats, low: float, high: float, closed: Closed) -> Floats:
    """The shortest run of ``edges`` that takes in both extremes under the edge convention."""
    if closed == "left":
        first = int(np.searchsorted(edges, low, side="right")) - 1
        last = int(np.searchsorted(edges, high, side="right"))
    else:
        first = int(np.searchsorted(edges, low, side="left")) - 1
        last = int(np.searchsorted(edges, high, side="left"))
    return edges[max(first, 0) : last + 1]


def _plain(low: float, high: float) -> Floats:
    """Two bins that hold everything, where no round number fits between neighbouring doubles."""
    outer = float(np.nextafter(low, -np.inf)), float(np.nextafter(high, np.inf))
    return np.array([outer[0], low / 2 + high / 2, outer[1]])


def _around(value: float) -> Floats:
    """One bin around the only value: one unit wide, or a tenth of the value's own size."""
    reach = 0.5 if 0.5 <= abs(value) < 1e6 or value == 0 else ldexp(0.05, min(frexp(value)[1], 1023))
    with np.errstate(over="ignore"):
        edges = np.array([value - reach, value + reach])
    if edges[0] < value < edges[1] and bool(np.isfinite(edges).all()):
        return edges
    return np.array([np.nextafter(value, -np.inf), np.nextafter(value, np.inf)])


def _edges(x: Floats, width: float, start: float | None, end: float | None, closed: Closed) -> Floats:
    """Edges ``width`` apart. Raises StatisticsError where they would be too many."""
    low, high = float(x[0]), float(x[-1])
    first, last = low if start is None else start, high if end is None else end
    bins = (last - first) / width
    if width > _WIDEST * max(last - first, abs(first), abs(last), 1.0):
        raise StatisticsError(f"A width of {width:g} is out of all proportion to values from {low:g} to {high:g}.")
    if not (bins <= MOST_BINS and isfinite(first / width) and max(abs(first), abs(last)) / width <= 2**52):
        raise StatisticsError(f"A width of {width:g} would need more than {MOST_BINS} bins.")
    if start is None and end is None:
        return _trimmed(_steps(0.0, width, floor(low / width) - 1, ceil(high / width) + 1), low, high, closed)
    if end is None:
        return _steps(first, width, 0, max(floor(bins) + 1, 1))
    whole = max(ceil(bins * (1 - 1e-12)), 1)
    if start is not None:
        return _steps(start, width, 0, whole)
    return _steps(end, width, -whole - int(closed == "right"), 0)


def _steps(start: float, width: float, first: int, last: int) -> Floats:
    """start + j · width for j from ``first`` to ``last``, each rounded once, as decimals would have it."""
    origin, step = Fraction(repr(start)), Fraction(repr(width))
    return np.array([float(origin + j * step) for j in range(first, last + 1)])
