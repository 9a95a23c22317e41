"""What the profile document holds only when asked for by name: random figures, and those that need a choice.

Each is worked out from the working set and is ready to be written as JSON. Whatever cannot be given is null beside a
note that says why.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import combinations
from types import MappingProxyType
from typing import Any

import numpy as np

from culvix.errors import CulvixError, StatisticsError
from culvix.progress import Progress, silent
from culvix.report.documents.group_figures import group_figures
from culvix.stats.core.arrays import Floats
from culvix.stats.core.quantiles import PERCENTILES
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.by_group import correlation_by_group
from culvix.stats.correlation.distance import distance_correlation
from culvix.stats.correlation.partial import partial_correlation
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.describe.hodges_lehmann import hodges_lehmann, hodges_lehmann_interval
from culvix.stats.describe.intervals import quantile_interval
from culvix.stats.multivariate.row_distances import row_distances
from culvix.stats.normality.monte_carlo import monte_carlo_normality
from culvix.stats.outliers.scoped import within_groups
from culvix.stats.registry import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS
from culvix.stats.resampling.column_bootstrap import BOOTSTRAPPED, BootstrapInterval, bootstrap_interval
from culvix.stats.resampling.pair_bootstrap import bootstrap_correlation
from culvix.stats.resampling.simulation import SEED, SimulatedP
from culvix.stats.shape.dip import dip_test
from culvix.stats.shape.power_transform import fit_box_cox, fit_yeo_johnson
from culvix.stats.shape.transform import TRANSFORMS, judge, transform
from culvix.study.analysis.grouping import grouping
from culvix.study.analysis.outliers.flags import run_method
from culvix.study.analysis.workspace import Workspace
from culvix.tables.model.table import Column, Role

__all__ = ["COLUMN_EXTRAS", "TABLE_EXTRAS", "Asked", "check_asked", "column_extras", "table_extras"]

Json = dict[str, Any]

MOST_GROUPS = 200
_MOST_REPEATS = 1_000_000


@dataclass(frozen=True)
class Asked:
    """What is asked for: extras by ``names``, groups ``by`` a column, correlations ``given`` others; and the seed.

    ``repeats`` None leaves each random figure its own number of repeats. Raises StatisticsError for a seed below 0
    and a number of repeats that is none.
    """

    names: frozenset[str] = frozenset()
    by: str | None = None
    given: tuple[str, ...] = ()
    seed: int = SEED
    repeats: int | None = None

    def __post_init__(self) -> None:
        if self.seed < 0:
            raise StatisticsError("A seed is a whole number from 0 up.")
        if self.repeats is not None and not 1 <= self.repeats <= _MOST_REPEATS:
            raise StatisticsError(f"Random figures are repeated 1 to {_MOST_REPEATS} times, not {self.repeats}.")

    @property
    def repeated(self) -> dict[str, int]:
        """The settings of a random figure, as keyword arguments."""
        return {"seed": self.seed} if self.repeats is None else {"seed": self.seed, "repeats": self.repeats}


def column_extras(workspace: Workspace, column: Column, asked: Asked, progress: Progress = silent) -> Json:
    """What is asked for of one numeric column, by name. Raises whatever ``progress`` raises."""
    sample = workspace.working.sample(column)
    found = {
        name: run(workspace, column, sample, asked, progress)
        for name, run in COLUMN_EXTRAS.items()
        if name in asked.names
    }
    if asked.by is not None:
        found["outliers_by_group"] = _outliers_by_group(workspace, column, asked.by)
        found["by_group"] = group_figures(workspace, column, grouping(workspace.table[asked.by]))
    return found


def table_extras(workspace: Workspace, columns: Sequence[Column], asked: Asked, progress: Progress = silent) -> Json:
    """What is asked for of all numeric ``columns`` together, by name. Raises whatever ``progress`` raises."""
    found = {
        name: run(workspace, columns, asked, progress) for name, run in TABLE_EXTRAS.items() if name in asked.names
    }
    if asked.by is not None:
        found["correlation_by_group"] = _correlation_by_group(workspace, columns, asked.by)
    if asked.given:
        found["partial_correlation"] = _partial(workspace, columns, asked.given)
    return found


def _bootstrap(workspace: Workspace, column: Column, sample: Sample, asked: Asked, progress: Progress) -> Json:
    found: Json = {}
    for key in BOOTSTRAPPED:
        progress(0.0, f"resampling {column.name}")
        result = bootstrap_interval(
            sample, key, confidence=workspace.settings.confidence, **asked.repeated, progress=progress
        )
        found[key] = _bootstrapped(result)
    return found


def _bootstrapped(result: BootstrapInterval) -> Json:
    return {
        "estimate": result.estimate,
        "interval": None if result.low is None else [result.low, result.high],
        "method": result.method,
        "repeats": result.repeats,
        "seed": result.seed,
        "note": result.note,
    }


def _intervals(workspace: Workspace, column: Column, sample: Sample, asked: Asked, progress: Progress) -> Json:
    progress(0.0, f"looking through the means of pairs of {column.name}")
    confidence = workspace.settings.confidence
    ends = hodges_lehmann_interval(sample, confidence)
    centre = {"estimate": hodges_lehmann(sample), "interval": None if ends is None else list(ends)}
    quantiles = {str(p): list(quantile_interval(sample, p / 100, confidence)) for p in PERCENTILES}
    return {"hodges_lehmann": centre, "percentiles": quantiles}


def _unimodality(workspace: Workspace, column: Column, sample: Sample, asked: Asked, progress: Progress) -> Json:
    result = dip_test(sample, **asked.repeated, progress=progress)
    found: Json = {"dip": result.dip, "p": None, "n": result.n, "note": result.note}
    return found if result.p is None else found | _simulated(result.p)


def _simulated(result: SimulatedP) -> Json:
    return {"p": result.p, "standard_error": result.standard_error, "repeats": result.repeats, "seed": result.seed}


def _monte_carlo(workspace: Workspace, column: Column, sample: Sample, asked: Asked, progress: Progress) -> Json:
    simulated = monte_carlo_normality(NORMALITY_TESTS, sample, **asked.repeated, progress=progress)
    return {key: _simulated(result) for key, result in simulated.items()}


def _transformations(workspace: Workspace, column: Column, sample: Sample, asked: Asked, progress: Progress) -> Json:
    before = judge(sample)
    found: Json = {"none": {"skewness": before.skewness, "qq_correlation": before.qq_correlation}}
    for key, chosen in TRANSFORMS.items():
        progress(0.0, f"transforming {column.name}")
        try:
            after = judge(Sample(transform(sample, key)))
            found[key] = {"name": chosen.name, "skewness": after.skewness, "qq_correlation": after.qq_correlation}
            if after.qq_correlation is None:
                found[key]["note"] = "Fewer than three values, or none that differ on this scale, have no shape."
        except StatisticsError as error:
            found[key] = {"name": chosen.name, "skewness": None, "qq_correlation": None, "note": error.sentence}
    for key, fit in (("box_cox", fit_box_cox), ("yeo_johnson", fit_yeo_johnson)):
        progress(0.0, f"transforming {column.name}")
        try:
            power = fit(sample, workspace.settings.confidence)
            found[key] = {"power": power.power, "interval": list(power.interval), "plain": power.plain, "n": power.n}
            found[key] |= {"divisor": power.divisor} | ({} if power.note is None else {"note": power.note})
        except StatisticsError as error:
            found[key] = {"power": None, "interval": None, "plain": None, "n": sample.n, "note": error.sentence}
    return found


_ColumnExtra = Callable[[Workspace, Column, Sample, Asked, Progress], Json]

COLUMN_EXTRAS: Mapping[str, _ColumnExtra] = MappingProxyType(
    {
        "bootstrap": _bootstrap,
        "intervals": _intervals,
        "monte_carlo": _monte_carlo,
        "transformations": _transformations,
        "unimodality": _unimodality,
    }
)
"""Extras of a column, by the name they are asked for and written under."""


def _robust_correlation(workspace: Workspace, columns: Sequence[Column], asked: Asked, progress: Progress) -> Json:
    values = [workspace.working.sample(column).values for column in columns]
    found: Json = {"columns": [column.name for column in columns]}
    for key, kind in CORRELATION_KINDS.items():
        if not kind.documented:
            progress(0.0, f"correlating by {kind.name}")
            matrix = kind.matrix(values)
            found[key] = {name: _listed(part) for name, part in (("r", matrix.r), ("p", matrix.p))}
            found[key]["n"] = matrix.n.tolist()
    return found


def _distance_correlation(workspace: Workspace, columns: Sequence[Column], asked: Asked, progress: Progress) -> Json:
    def run(x: Floats, y: Floats) -> Json:
        return _coefficient(distance_correlation(x, y, **asked.repeated, progress=progress))

    return {"pairs": _pairs(workspace, columns, run), "seed": asked.seed}


def _bootstrap_correlation(workspace: Workspace, columns: Sequence[Column], asked: Asked, progress: Progress) -> Json:
    confidence = workspace.settings.confidence

    def run(x: Floats, y: Floats) -> Json:
        return {
            key: _bootstrapped(
                bootstrap_correlation(x, y, key, confidence=confidence, **asked.repeated, progress=progress)
            )
            for key, kind in CORRELATION_KINDS.items()
            if kind.documented
        }

    return {"pairs": _pairs(workspace, columns, run)}


def _multivariate(workspace: Workspace, columns: Sequence[Column], asked: Asked, progress: Progress) -> Json:
    measures = [column for column in columns if column.role is Role.MEASURE]
    found: Json = {"columns": [column.name for column in measures], "seed": asked.seed}
    try:
        values = [workspace.working.sample(column).values for column in measures]
        result = row_distances(values, seed=asked.seed, progress=progress)
    except StatisticsError as error:
        return {**found, "rows": None, "note": error.sentence}
    flagged = np.isin(result.rows, result.flagged)
    return {
        **found,
        "rows": workspace.table.numbers_of(result.rows).tolist(),
        "classical": result.classical.tolist(),
        "robust": result.robust.tolist(),
        "cutoff": result.cutoff,
        "classical_cutoff": result.classical_cutoff,
        "flagged": workspace.table.numbers_of(result.flagged).tolist(),
        "contributions": result.contributions[flagged].tolist(),
    }


_TableExtra = Callable[[Workspace, Sequence[Column], Asked, Progress], Json]

TABLE_EXTRAS: Mapping[str, _TableExtra] = MappingProxyType(
    {
        "robust_correlation": _robust_correlation,
        "distance_correlation": _distance_correlation,
        "bootstrap_correlation": _bootstrap_correlation,
        "multivariate": _multivariate,
    }
)
"""Extras of the whole table, by the name they are asked for and written under."""


BY_NAME = tuple(key for key, kind in CORRELATION_KINDS.items() if kind.slow)
"""Kinds of correlation whose matrix a long table has only when they are asked for."""


def _pairs(workspace: Workspace, columns: Sequence[Column], run: Callable[[Floats, Floats], Json]) -> list[Json]:
    found = []
    for first, second in combinations(columns, 2):
        x, y = workspace.working.sample(first).values, workspace.working.sample(second).values
        found.append({"x": first.name, "y": second.name, **run(x, y)})
    return found


def _coefficient(pair: PairCorrelation) -> Json:
    found: Json = {"r": pair.r, "p": pair.p, "n": pair.n, "note": pair.note}
    return found if pair.p_by is None else found | {"p_by": pair.p_by}


def _listed(matrix: Floats) -> list[list[float | None]]:
    return [[value if np.isfinite(value) else None for value in row] for row in matrix.tolist()]


def check_asked(workspace: Workspace, asked: Asked) -> None:
    """Raise CulvixError for a name there is no extra of, an unknown column, or one that cannot serve."""
    known_names = (*COLUMN_EXTRAS, *TABLE_EXTRAS, *BY_NAME)
    unknown = sorted(asked.names - set(known_names))
    if unknown:
        known = ", ".join(known_names)
        raise CulvixError(f"There is nothing called {unknown[0]!r} to add; there are {known}.")
    for name in asked.given:
        if not workspace.table[name].is_numeric:
            raise CulvixError(
                f"Correlations can be given numeric columns only; {name} is read as {workspace.table[name].role}."
            )
    if asked.by is not None:
        groups = workspace.table[asked.by].distinct
        if groups > MOST_GROUPS:
            raise CulvixError(f"{asked.by} has {groups} different values; at most {MOST_GROUPS} groups can be made.")


def _groups(workspace: Workspace, name: str) -> list[str | None]:
    """The group of each row; None where it is missing or the whole row is excluded."""
    column = workspace.table[name]
    used = column.present & workspace.working.rows_in_use
    return [text if in_use else None for text, in_use in zip(column.text, used.tolist(), strict=True)]


def _outliers_by_group(workspace: Workspace, column: Column, by: str) -> Json:
    if column.name == by:
        return {"by": by, "methods": None, "note": "A column cannot be judged within its own groups."}
    labels = _groups(workspace, by)
    bounds = workspace.bounds(column.name)
    methods = {}
    for key in OUTLIER_METHODS:
        run = partial(run_method, key, settings=workspace.settings, valid_range=bounds, column=column.name)
        result = within_groups(column.sample, labels, run)
        methods[key] = {
            "rows": workspace.table.numbers_of(result.rows).tolist(),
            "scores": result.scores.tolist(),
            "groups": {
                name: {"lower": found.lower, "upper": found.upper, "n": found.n, "note": found.note}
                for name, found in result.groups.items()
            },
        }
    return {"by": by, "methods": methods}


def _correlation_by_group(workspace: Workspace, columns: Sequence[Column], by: str) -> Json:
    labels = _groups(workspace, by)
    others = [column for column in columns if column.name != by]

    def both(x: Floats, y: Floats) -> Json:
        found = {}
        for key, kind in CORRELATION_KINDS.items():
            if kind.ranks:
                result = correlation_by_group(x, y, labels, kind.run, alpha=workspace.settings.alpha)
                found[key] = {
                    "pooled": _coefficient(result.pooled),
                    "within": _coefficient(result.within),
                    "groups": {name: _coefficient(pair) for name, pair in result.groups.items()},
                    "reverses": result.reverses,
                }
        return found

    return {"by": by, "pairs": _pairs(workspace, others, both)}


def _partial(workspace: Workspace, columns: Sequence[Column], given: Sequence[str]) -> Json:
    controls = [workspace.working.sample(workspace.table[name]).values for name in given]
    others = [column for column in columns if column.name not in given]

    def both(x: Floats, y: Floats) -> Json:
        return {
            "pearson": _coefficient(partial_correlation(x, y, controls)),
            "spearman": _coefficient(partial_correlation(x, y, controls, ranks=True)),
        }

    return {"given": list(given), "pairs": _pairs(workspace, others, both)}
