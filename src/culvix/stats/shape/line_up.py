"""Line-up: the picture of a sample hidden among those of normal samples, for an eye to pick it out.

Buja, Cook, Hofmann, Lawrence, Lee, Swayne & Wickham 2009: where the real picture cannot be told from m − 1 pictures of
what the hypothesis makes, nothing speaks against it; where it is picked out, the chance of doing so under the
hypothesis is 1/m. The simulated samples have the same n, mean and SD, and are rounded as the values are, so that
nothing but the shape gives the real one away.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.moments import moments
from culvix.stats.core.normal_scores import BLOM, upper_scores
from culvix.stats.core.sample import Sample
from culvix.stats.display import decimals_of
from culvix.stats.shape.histogram import histogram

__all__ = ["FORMS", "PANELS", "LineUp", "line_up", "null_samples"]

PANELS = 20

FORMS: dict[str, str] = {"histogram": "histograms", "qq": "Q-Q pictures"}

_POINTS = 160
_TAIL = 20
_MOST_BINS = 120


@dataclass(frozen=True, eq=False)
class LineUp:
    """Twenty pictures, the real one at ``position`` (from 0).

    ``across`` is the shared range of values. In the histogram form ``edges`` has shape ``(bins + 1,)`` and ``heights``
    shape ``(20, bins)``, counts of values; in the Q-Q form ``z`` has shape ``(m,)`` and ``heights`` shape ``(20, m)``,
    the values at those normal quantiles.
    """

    form: str
    seed: int
    position: int
    n: int
    across: tuple[float, float]
    heights: Floats
    edges: Floats | None = None
    z: Floats | None = None


def null_samples(sample: Sample, count: int, seed: int) -> Iterator[Floats]:
    """``count`` normal samples, each ascending with shape ``(n,)``, with n, mean, SD and decimals of ``sample``.

    Raises StatisticsError below n = 3 or without a spread.
    """
    if sample.n < 3:
        raise StatisticsError(f"A line-up needs at least three values; there are {sample.n}.")
    mean, sd = sample.fit
    decimals = decimals_of(sample)
    draw = np.random.default_rng(seed)
    for _ in range(count):
        z = np.sort(draw.standard_normal(sample.n))
        centre = moments(z)
        values = mean + sd * (z - centre.mean) / (centre.sd or 1.0)
        yield values if decimals is None else np.round(values, decimals)


def line_up(sample: Sample, form: str = "histogram", seed: int = 1, progress: Progress = silent) -> LineUp:
    """Hide a sample among normal ones like it, for the eye to pick it out.

    Parameters
    ----------
    sample
        The values, at least three with a spread.
    form
        The picture, one of `FORMS`.
    seed
        What the others and the place begin from; the same one makes the same line-up.
    progress
        Told how far the work is; whatever it raises ends it.

    Returns
    -------
    LineUp
        What each panel shows, and which of them is the sample's.

    Raises
    ------
    StatisticsError
        For an unknown form, below n = 3, and without a spread.

    References
    ----------
    Buja, A., Cook, D., Hofmann, H., Lawrence, M., Lee, E.-K., Swayne, D. F. & Wickham, H. 2009: Statistical inference
    for exploratory data analysis and model diagnostics. Philosophical Transactions of the Royal Society A 367,
    4361-4383.
    """
    if form not in FORMS:
        raise StatisticsError(f"A line-up is made of {' or '.join(FORMS)}, not of {form!r}.")
    samples = [sample.sorted]
    for made in null_samples(sample, PANELS - 1, seed):
        progress(len(samples) / PANELS, "simulating normal samples")
        samples.append(made)
    # A stream of its own, so that the place does not follow from the samples.
    position = int(np.random.default_rng((seed, 20)).integers(PANELS))
    samples.insert(position, samples.pop(0))
    across = min(float(x[0]) for x in samples), max(float(x[-1]) for x in samples)
    if form == "qq":
        at = _positions(sample.n)
        z = np.where(2 * at < sample.n, -1.0, 1.0) * upper_scores(
            np.minimum(at, sample.n - 1 - at) + 1.0, sample.n, BLOM
        )
        return LineUp(form, seed, position, sample.n, across, np.array([x[at] for x in samples]), z=z)
    edges = _edges(sample, across)
    counts = np.array([np.diff(np.searchsorted(x, edges)) for x in samples], dtype=np.float64)
    return LineUp(form, seed, position, sample.n, across, counts, edges=edges)


def _edges(sample: Sample, across: tuple[float, float]) -> Floats:
    """The bins of the sample itself, continued over the range of all."""
    bars = histogram(sample)
    if bars is None:
        raise StatisticsError("The range of these values is beyond what a number can hold.")
    width = max(bars.width, (across[1] - across[0]) / _MOST_BINS)
    first = float(bars.edges[0])
    low, high = np.floor((across[0] - first) / width), np.floor((across[1] - first) / width) + 1
    return np.asarray(first + width * np.arange(low, high + 1))


def _positions(n: int) -> Ints:
    """Places in order that are drawn: both tails whole, and even steps between."""
    if n <= _POINTS:
        return np.arange(n)
    middle = np.linspace(_TAIL, n - 1 - _TAIL, _POINTS - 2 * _TAIL).astype(np.int64)
    return np.unique(np.concatenate((np.arange(_TAIL), middle, np.arange(n - _TAIL, n))))
