"""p values of tests of normality from simulated normal samples."""

from collections.abc import Mapping

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.stats.core.recorded_steps import recorded_step, rounded_to
from culvix.stats.core.sample import Sample
from culvix.stats.registry.rows import NormalityTest
from culvix.stats.resampling.simulation import SEED, SimulatedP, check_repeats, simulated_share

__all__ = ["monte_carlo_normality"]

_AFFORDABLE = 20_000_000
"""Simulated values that take about two seconds."""

_FINE = 0.005
"""Steps of so many SDs change no statistic by what matters."""


def monte_carlo_normality(
    tests: Mapping[str, NormalityTest],
    sample: Sample,
    *,
    repeats: int | None = None,
    seed: int = SEED,
    progress: Progress = silent,
) -> dict[str, SimulatedP]:
    """p of tests of normality by simulation, from the same normal samples of the same n.

    Samples stand in the same steps as ``sample`` does, where it was recorded in coarse ones: a test sees these, too.

    Parameters
    ----------
    tests
        The tests, as in `NORMALITY_TESTS`, by name.
    sample
        The values, in any unit; missing and infinite ones are left out.
    repeats
        How many samples; without it 2000, in long columns fewer, but never fewer than 19, with which p can just reach
        0.05: the standard error says what they are worth.
    seed
        What the samples begin from.
    progress
        Told how far the work is; whatever it raises ends it.

    Returns
    -------
    dict
        The simulated p by test, without those that cannot be made.

    Raises
    ------
    StatisticsError
        For fewer than one repeat.

    References
    ----------
    Davison, A. C. & Hinkley, D. V. 1997: Bootstrap Methods and their Application. Cambridge University Press, section
    4.2.
    """
    repeats = max(min(2000, _AFFORDABLE // max(sample.n, 1)), 19) if repeats is None else repeats
    check_repeats(repeats)
    results = {key: test.run(sample).statistic for key, test in tests.items()}
    observed = {key: statistic for key, statistic in results.items() if statistic is not None}
    extreme = dict.fromkeys(observed, 0)
    draw = np.random.Generator(np.random.PCG64(seed))
    step = recorded_step(sample)
    for repeat in range(repeats if observed else 0):
        if repeat % 50 == 0:
            progress(repeat / repeats, "simulating normal samples")
        simulated = Sample(_like(sample, draw.standard_normal(sample.n), step))
        for key, value in observed.items():
            statistic = tests[key].run(simulated).statistic
            # One that rounding made all equal has no statistic, and counts against nothing.
            low = tests[key].tail == "low"
            extreme[key] += statistic is None or (statistic <= value if low else statistic >= value)
    return {key: simulated_share(count, repeats, seed) for key, count in extreme.items()}


def _like(sample: Sample, z: Floats, step: float | None) -> Floats:
    """Standard normal ``z``, in the steps of ``sample`` where these are coarse; no test hangs on mean and SD."""
    centre = sample.moments
    if step is None or centre is None or not centre.sd or step < _FINE * centre.sd:
        return z
    return rounded_to(centre.mean + centre.sd * z, step, float(sample.sorted[0]))
