"""Flags: every outlier method of the table in one pass over a column as imported, and how far they agree."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from culvix.caching import cached_property
from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Bools, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.display import plural
from culvix.stats.outliers.each_side import each_side
from culvix.stats.outliers.result import OutlierResult, cannot_flag
from culvix.stats.outliers.scoped import on_scale, within_codes
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.grouping import Grouping
from culvix.study.document.choices.settings import Settings
from culvix.study.document.row_sets import union

__all__ = [
    "Flags",
    "flag_column",
    "method_refused",
    "methods_in_force",
    "run_method",
    "run_scaled",
    "run_within",
]


@dataclass(frozen=True, eq=False)
class Flags:
    """Results by method key, and the rows (from 0, ascending) that any of them flags.

    ``by`` has shape ``(rows, methods)`` in the order of ``results``: which methods flag which row.
    """

    results: dict[str, OutlierResult]
    rows: Ints
    by: Bools

    @property
    def _votes(self) -> Bools:
        """Which methods have a vote on every row.

        Those that flag one value at the most have none on the others; a declared range is no opinion, and votes only
        where it is alone.
        """
        methods = [OUTLIER_METHODS[key] for key in self.results]
        votes = np.array([not (method.single or method.follows_range) for method in methods], dtype=bool)
        return votes if votes.any() else np.array([not method.single for method in methods], dtype=bool)

    @cached_property
    def agreement(self) -> Ints:
        """How many methods flag each of ``rows``; at least 1."""
        return np.asarray(np.maximum(self.by[:, self._votes].sum(axis=1), 1), dtype=np.int64)

    @property
    def able(self) -> int:
        """Number of methods with a vote that could be applied at all."""
        return sum(result.applies for result, votes in zip(self.results.values(), self._votes, strict=True) if votes)

    @property
    def voting(self) -> list[str]:
        """The methods with a vote that could be applied."""
        pairs = zip(self.results.items(), self._votes, strict=True)
        return [key for (key, result), votes in pairs if votes and result.applies]

    @property
    def most(self) -> Ints:
        """Rows flagged by more than half of the methods that could be applied."""
        return self.rows[2 * self.agreement > self.able]

    @property
    def all_agree(self) -> Ints:
        """Rows flagged by every method that could be applied."""
        return np.asarray(self.rows[self.agreement == self.able], dtype=np.int64)

    def agreement_on(self, rows: Ints) -> Ints:
        """How many methods flag each of ``rows``; same shape."""
        if not self.rows.size:
            return np.zeros(rows.shape, dtype=np.int64)
        position = np.minimum(np.searchsorted(self.rows, rows), self.rows.size - 1)
        return np.where(self.rows[position] == rows, self.agreement[position], 0)


def methods_in_force(settings: Settings, bounds: tuple[float | None, float | None]) -> tuple[str, ...]:
    """The methods whose flags count in a column: the chosen ones, and its declared range wherever there is one."""
    declared = bounds != (None, None)
    return tuple(
        key
        for key, method in OUTLIER_METHODS.items()
        if (key in settings.methods) or (declared and method.follows_range)
    )


def run_method(
    key: str,
    sample: Sample,
    settings: Settings,
    valid_range: tuple[float | None, float | None] = (None, None),
    *,
    column: str = "",
) -> OutlierResult:
    """One method of the table on ``sample``, with the limits that ``settings`` have for ``column``.

    ``valid_range`` is what is declared for it.
    """
    method, limits = OUTLIER_METHODS[key], settings.limits_of(column, key)
    options: dict[str, float | int | None] = {}
    if limits is not None and limits[0] != limits[1]:
        sides = [settings.with_own_limits(column, key, (limit, limit)) for limit in limits]
        below, above = (run_method(key, sample, side, valid_range, column=column) for side in sides)
        return each_side(sample, below, above)
    if method.limit is not None and limits is not None:
        options[method.limit.key] = limits[0]
    if method.follows_quantiles:
        options["quantile_type"] = settings.quantile_type
    if method.follows_range:
        options["lower"], options["upper"] = valid_range
    return method.run(sample, **options)


def method_refused(key: str, sample: Sample, settings: Settings, why: str) -> OutlierResult:
    """The result of a method that is not run on ``sample``, and ``why``."""
    plain = run_method(key, Sample(sample.values[:0]), settings)
    return cannot_flag(plain.method, plain.score_name, sample.n, plain.settings, why)


def run_within(result_of: Callable[[Sample], OutlierResult], sample: Sample, groups: Grouping) -> OutlierResult:
    """A method, as ``result_of`` runs it, within each of ``groups`` by itself; there is no one span for all of them."""
    found = within_codes(sample, groups.codes, groups.names, result_of)
    results = list(found.groups.values())
    first = next((result for result in results if result.applies), None) or result_of(Sample(sample.values[:0]))
    order = np.argsort(sample.values[found.rows], kind="stable")
    left_out = [name for name, result in found.groups.items() if not result.applies]
    note = f"within the {plural(len(results), 'group')} of {groups.by}, each with a span of its own"
    if left_out:
        note += f"; {', '.join(left_out[:3])}{' …' if len(left_out) > 3 else ''} cannot be judged"
    return replace(
        first,
        lower=None,
        upper=None,
        rows=found.rows[order],
        scores=found.scores[order],
        n=sum(result.n for result in results),
        settings={**first.settings, "within": groups.by},
        note=note,
        applies=any(result.applies for result in results),
        groups=found.groups,
    )


def run_scaled(result_of: Callable[[Sample], OutlierResult], sample: Sample, scale: str) -> OutlierResult:
    """A method on the values on ``scale``, its span mapped back; not applicable where a value has no place there."""
    try:
        return on_scale(sample, scale, result_of)
    except StatisticsError as error:
        plain = result_of(Sample(sample.values[:0]))
        return cannot_flag(plain.method, plain.score_name, sample.n, {**plain.settings, "scale": scale}, str(error))


def flag_column(results: dict[str, OutlierResult]) -> Flags:
    """Flags from the ``results`` of all methods on one column."""
    parts = [result.rows for result in results.values()]
    rows = union(*parts)
    by = np.zeros((rows.size, len(parts)), dtype=bool)
    for position, flagged in enumerate(parts):
        by[np.searchsorted(rows, flagged), position] = True
    return Flags(results, rows, by)
