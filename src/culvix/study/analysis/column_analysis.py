"""Everything the study says about one numeric column, worked out from an immutable request.

Numbers and pictures describe the working set; flags refer to the column as imported. Parts are kept
by what they depend on, so that changing one limit recomputes one method.
"""

from collections.abc import Callable, Hashable, Mapping
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import partial
from typing import TypeVar

import numpy as np

from culvix.caching import cached_property
from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Ints
from culvix.stats.core.sample import Sample
from culvix.stats.describe.deferred import DeferredFigures, deferred_figures
from culvix.stats.describe.description import Description, Number, describe
from culvix.stats.display import NumberStyle, style_for
from culvix.stats.measured_style import AxisStyle
from culvix.stats.normality.result import NormalityResult
from culvix.stats.normality.verdict import Verdict, judge_normality
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.registry import NORMALITY_TESTS, OUTLIER_METHODS, STATISTICS, NormalityTest
from culvix.stats.registry.statistics import figures_of
from culvix.stats.shape.axis_scale import MEASURED_AXIS
from culvix.stats.shape.density import Density, density, usual_rule
from culvix.stats.shape.histogram import Histogram, histogram
from culvix.stats.shape.qq import QQ, qq
from culvix.study.analysis.axis_parts import Axis, AxisParts, axis_of
from culvix.study.analysis.findings.axis_finding import about_axis, axis_asked_about
from culvix.study.analysis.findings.findings import Finding, Question, detect_findings, resolve
from culvix.study.analysis.grouping import grouping
from culvix.study.analysis.outliers.flags import (
    Flags,
    flag_column,
    method_refused,
    methods_in_force,
    run_method,
    run_scaled,
    run_within,
)
from culvix.study.analysis.result_cache import PartCache
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.document.choices.settings import MEASURED, Settings
from culvix.tables.model.dictionary import Bounds
from culvix.tables.model.role_inference import CODES_OR_AMOUNTS
from culvix.tables.model.table import Column, Role

__all__ = ["AnalysisRequest", "ColumnAnalysis", "ColumnPreview", "analyse", "preview_column"]

_LONG = 50_000
"""A column with more rows than this is worked out on two threads."""

_Part = TypeVar("_Part")


@dataclass(frozen=True, eq=False)
class AnalysisRequest:
    """What one analysis depends on; ``version`` names what the decisions in ``state`` make of the column.

    Flags refer to the values at the beginning of this pass, those of ``flag_basis_state``: in the first, the column as
    imported. ``within`` is the column in whose groups they are found, ``valid_range`` what is declared for the column.
    """

    column: Column
    state: WorkingSet
    settings: Settings
    version: Hashable
    flag_basis_state: WorkingSet | None = None
    flag_basis_version: Hashable = ()
    within: Column | None = None
    valid_range: Bounds = (None, None)

    @cached_property
    def working(self) -> Sample:
        """The values in use; they are put together when they are first asked for, off the interface thread."""
        return self.state.sample(self.column)

    @cached_property
    def flag_basis(self) -> Sample:
        """The values that the flags refer to."""
        return self.column.sample if self.flag_basis_state is None else self.flag_basis_state.sample(self.column)

    @cached_property
    def key(self) -> Hashable:
        """Equal keys have equal analyses."""
        chosen = self.settings
        return (
            # The column itself stands for how its cells were read.
            *(self.column, self.version, self.valid_range, self.flag_basis_version, self.within),
            *(chosen.alpha, chosen.verdict_test, chosen.confidence, chosen.quantile_type, chosen.closed),
            *(chosen.decimals, chosen.trim, chosen.qq_line, chosen.qq_band),
            *(chosen.methods, tuple(chosen.limits.items()), chosen.of(self.column.name)),
        )


@dataclass(frozen=True, eq=False)
class ColumnPreview:
    """What the lanes of one column show: known before its tests are."""

    request: AnalysisRequest
    description: Description
    figures: Mapping[str, Number]
    """Every statistic of the registry, by key; ``description`` has a note for one that is None."""

    histogram: Histogram | None
    density: Density | None
    qq: QQ | None
    axis: AxisParts
    flags: Flags
    style: NumberStyle

    @property
    def column(self) -> Column:
        return self.request.column

    @property
    def sample(self) -> Sample:
        return self.request.working

    @property
    def flag_basis(self) -> Sample:
        """The values that the flags refer to."""
        return self.request.flag_basis


@dataclass(frozen=True, eq=False)
class ColumnAnalysis(ColumnPreview):
    """Numbers, pictures, flags, tests and verdict of one column."""

    normality: dict[str, NormalityResult]
    verdict: Verdict
    questions: tuple[Question, ...]

    def findings(self, working: WorkingSet) -> list[Finding]:
        """What there is to settle about the column, given the decisions in ``working``."""
        return resolve(self.column.name, self.questions, working)


_NO_QUESTION = {
    Role.YES_NO: "A yes/no column has two values; whether it is normal is not a question.",
    Role.ORDERED: "Ordered codes are ranks, not measurements; whether they are normal is not a question.",
}


def _no_outliers(column: Column) -> str:
    """Why no value of ``column`` is an outlier, empty where one may be."""
    if column.role is Role.YES_NO:
        return "A yes/no column has no outliers."
    if column.derivation is not None and not column.is_data:
        return f"It follows {column.derivation.source}, where values are flagged; give it a role to take it as data."
    if column.asks == CODES_OR_AMOUNTS:
        return "Whether these are codes or amounts is not settled yet; codes have no outliers."
    return ""


@dataclass(frozen=True, eq=False)
class DeferredPart:
    """The second tier of a column: figures of the working set, and all outlier methods on the column as imported."""

    figures: DeferredFigures
    outliers: dict[str, OutlierResult]


def _bars(sample: Sample, rule: str, closed: str, by_hand: dict[str, float | int | None]) -> Histogram | None:
    """The bars as set by hand; by the rule, with a note, where later decisions have made that impossible."""
    try:
        return histogram(sample, rule, closed=closed, **by_hand)  # type: ignore[arg-type]
    except StatisticsError as refused:
        bars = histogram(sample, rule, closed=closed)
        return None if bars is None else replace(bars, note=f"{refused.sentence} The rule stands in.")


def _key_of(axis: Axis | None) -> str:
    return MEASURED if axis is None else axis.scale.key


class _Parts:
    """The parts of one analysis, each made only where no earlier analysis left it in the memo."""

    def __init__(self, request: AnalysisRequest, cache: PartCache) -> None:
        self.sample = request.working
        self.imported, self.flag_basis = request.column.sample, request.flag_basis
        self.flag_basis_version, self.within = request.flag_basis_version, request.within
        self.settings = request.settings
        self.name = request.column.name
        self.chosen = request.settings.of(self.name)
        self.version = request.version
        self.role = request.column.role
        self.no_outliers = _no_outliers(request.column)
        self.bounds = request.valid_range
        self._cache = cache

    def _part(self, make: Callable[[], _Part], *depends: Hashable) -> _Part:
        return self._cache.part(depends, make)

    def description(self) -> Description:
        s = self.settings
        return self._part(
            lambda: describe(self.sample, quantile_type=s.quantile_type, confidence=s.confidence, trim=s.trim),
            *("description", self.version, s.quantile_type, s.confidence, s.trim),
        )

    def figures(self, description: Description) -> dict[str, Number]:
        s, rows = self.settings, tuple(STATISTICS.values())
        return self._part(
            lambda: figures_of(description, self.sample),
            *("figures", self.version, s.quantile_type, s.confidence, s.trim, rows),
        )

    def flags(self) -> Flags:
        results = {key: self.outliers(key) for key in methods_in_force(self.settings, self.bounds)}
        return self._part(lambda: flag_column(results), "agreement", *map(self._flags_depend_on, results))

    def _flags_depend_on(self, key: str) -> Hashable:
        """All that the flags of one method depend on."""
        limits, bounds = self.settings.limits_of(self.name, key), self.bounds
        flag_basis = (self.flag_basis_version, self.chosen.flag_scale, self.within, self.no_outliers)
        return ("flags", key, limits, self.settings.quantile_type, bounds, *flag_basis)

    def outliers(self, key: str) -> OutlierResult:
        """One method of the table on the values that are judged."""
        return self._part(lambda: self._flagged_by(key), self._flags_depend_on(key))

    def _flagged_by(self, key: str) -> OutlierResult:
        bounds, scale, method = self.bounds, self.chosen.flag_scale, OUTLIER_METHODS[key]

        if self.no_outliers and not method.follows_range:
            return method_refused(key, self.flag_basis, self.settings, self.no_outliers)

        def run(sample: Sample) -> OutlierResult:
            return run_method(key, sample, self.settings, bounds, column=self.name)

        def scaled(sample: Sample) -> OutlierResult:
            return run(sample) if scale == MEASURED else run_scaled(run, sample, scale)

        within = self.within
        # The declared range is the same for all groups, and on every scale.
        if method.follows_range or within is None:
            return run(self.flag_basis) if method.follows_range else scaled(self.flag_basis)
        groups = self._part(lambda: grouping(within), "grouping", within)
        return run_within(scaled, self.flag_basis, groups)

    def deferred(self) -> DeferredFigures:
        return self._part(lambda: deferred_figures(self.sample), "deferred", self.version)

    def histogram(self, axis: Axis | None = None) -> Histogram | None:
        """The bars, in the column's unit or on an ``axis`` of another scale; by hand they belong to the axis in use."""
        chosen, closed = self.chosen, self.settings.closed
        by_hand = chosen.bins if axis is not None or chosen.scale_of_axis == MEASURED else {}
        sample = self.sample if axis is None else axis.sample
        return self._part(
            lambda: _bars(sample, chosen.bin_rule, closed, by_hand),
            *("histogram", self.version, chosen.bin_rule, *by_hand.values(), closed, _key_of(axis)),
        )

    def density(self, axis: Axis | None = None) -> Density | None:
        """The density estimate, of values in the column's unit or of places on an ``axis`` of another scale."""
        rule, bounds = self.chosen.bandwidth_rule, self.bounds if axis is None else axis.bounds
        width = self.chosen.bandwidth if axis is not None or self.chosen.scale_of_axis == MEASURED else None
        sample = self.sample if axis is None else axis.spread
        return self._part(
            lambda: density(sample, rule or usual_rule(sample), bandwidth=width, bounds=bounds),
            *("density", self.version, bounds, rule, width, _key_of(axis)),
        )

    def qq(self, axis: Axis | None = None) -> QQ | None:
        """The Q-Q points, of values in the column's unit or of places on an ``axis`` of another scale."""
        line, band, level = self.settings.qq_line, self.settings.qq_band, self.settings.confidence
        sample = self.sample if axis is None else axis.sample
        return self._part(
            lambda: qq(sample, line=line, band=band, level=level),
            *("qq", self.version, line, band, level, _key_of(axis)),
        )

    def axis(self) -> Axis | None:
        """The axis of another scale that the pictures have; None where it is measured."""
        key = self.chosen.scale_of_axis
        return self._part(lambda: axis_of(self.sample, key, self.bounds), "axis", self.version, key, self.bounds)

    def axis_asked_about(self) -> str | None:
        """The scale of the axis that would show more than a measured one, where there is one."""
        return self._part(lambda: axis_asked_about(self.role, self.sample), "asked axis", self.version, self.role)

    def tests(self) -> dict[str, NormalityResult]:
        return {
            key: self._part(partial(test.run, self.sample), "test", key, self.version)
            for key, test in NORMALITY_TESTS.items()
        }

    def without(self, test: NormalityTest, rows: Ints) -> NormalityResult | None:
        """``test`` without the values of ``rows`` that are in use; None where there are none."""
        doubtful = rows[np.isfinite(self.sample.values[rows])]
        if not doubtful.size:
            return None
        depends = ("without", test.key, self.version, doubtful.tobytes())
        return self._part(lambda: test.run(self.sample.without(doubtful)), *depends)

    def verdict(self, tests: "Future[dict[str, NormalityResult]]", flags: Flags, points: QQ | None) -> Verdict:
        """The verdict; what it needs besides ``tests`` is worked out while they are."""
        suggested, doubtful = self.settings.verdict_test_at(self.sample.n), flags.most
        without = self.without(suggested, doubtful)
        return judge_normality(
            self.sample,
            tests.result()[suggested.key],
            without,
            points,
            alpha=self.settings.alpha,
            flagged=int(np.isfinite(self.sample.values[doubtful]).sum()),
            not_a_question=_NO_QUESTION.get(self.role),
        )

    def style(self, sd: float | None) -> NumberStyle:
        decimals = self.settings.decimals
        return self._part(lambda: style_for(self.imported, sd, decimals), "style", self.version, decimals)


class _Here(Executor):
    """Does at once what is submitted: for columns so short that another thread would cost more than it spares."""

    def submit(self, work: Callable[..., _Part], /, *args: object, **options: object) -> "Future[_Part]":
        done: Future[_Part] = Future()
        done.set_result(work(*args, **options))
        return done


def deferred_part(request: AnalysisRequest, cache: PartCache | None = None) -> DeferredPart:
    """Work out what the prompt analysis of ``request`` leaves for later: slow figures, and every outlier method."""
    parts = _Parts(request, PartCache() if cache is None else cache)
    return DeferredPart(parts.deferred(), {key: parts.outliers(key) for key in OUTLIER_METHODS})


def preview_column(
    request: AnalysisRequest, cache: PartCache | None = None, progress: Progress = silent
) -> ColumnPreview:
    """Work out what the lanes show of ``request``, taking parts from ``cache`` and leaving new ones there."""
    parts = _Parts(request, PartCache() if cache is None else cache)
    with _beside(request) as beside:
        return _preview(parts, request, beside, progress)


def analyse(request: AnalysisRequest, cache: PartCache | None = None, progress: Progress = silent) -> ColumnAnalysis:
    """Work out ``request``, taking parts from ``cache`` and leaving new ones there."""
    parts = _Parts(request, PartCache() if cache is None else cache)
    with _beside(request) as beside:
        preview = _preview(parts, request, beside, progress)
        progress(0.7, f"testing {request.column.name}")
        tests = beside.submit(parts.tests)
        verdict = parts.verdict(tests, preview.flags, preview.qq)
    questions = detect_findings(
        request.column, preview.flag_basis, preview.flags, preview.style, request.settings, request.valid_range
    )
    questions += about_axis(request.working, parts.axis_asked_about(), parts.chosen, preview.style)
    return ColumnAnalysis(**vars(preview), normality=tests.result(), verdict=verdict, questions=questions)


def _beside(request: AnalysisRequest) -> Executor:
    """Where a part of ``request`` is worked out beside another."""
    return ThreadPoolExecutor(1) if request.working.values.size > _LONG else _Here()


def _preview(parts: _Parts, request: AnalysisRequest, beside: Executor, progress: Progress) -> ColumnPreview:
    progress(0.0, f"describing {request.column.name}")
    # The order of the rows is asked for by every picture; the density needs nothing of what is done meanwhile.
    order = beside.submit(lambda: (request.working.rows, request.flag_basis.rows))
    description = parts.description()
    smooth = beside.submit(parts.density)
    progress(0.3, f"flagging {request.column.name}")
    flags = parts.flags()
    progress(0.5, f"drawing {request.column.name}")
    figures = parts.figures(description)
    bars, points, style = parts.histogram(), parts.qq(), parts.style(description.sd)
    order.result()
    axis, curve = parts.axis(), smooth.result()
    pictured = AxisParts(MEASURED_AXIS, parts.sample, bars, curve, points, style)
    if axis is not None:
        own_style = AxisStyle.over(style, axis.scale)
        on_axis = parts.histogram(axis), parts.density(axis), parts.qq(axis)
        pictured = AxisParts(axis.scale, axis.sample, *on_axis, own_style)
    # Known before the lanes are drawn, which happens where nothing else should wait.
    _ = pictured.outline
    return ColumnPreview(request, description, figures, bars, curve, points, pictured, flags, style)
