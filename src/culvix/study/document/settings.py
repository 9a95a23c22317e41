"""Every convention in force, and the choices made for single columns."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from math import isfinite
from types import MappingProxyType

from culvix.errors import StatisticsError
from culvix.stats.core.quantiles import QUANTILE_TYPES
from culvix.stats.display import plural
from culvix.stats.registry import NORMALITY_TESTS, OUTLIER_METHODS, NormalityTest, suggested_test
from culvix.stats.shape.density import BANDWIDTH_RULES
from culvix.stats.shape.histogram import BIN_RULES
from culvix.stats.shape.transform import SCALE_NAMES, TRANSFORMS

__all__ = ["FLAG_SCALES", "MEASURED", "SCALES", "WHISKERS", "ColumnSettings", "Settings", "replaced"]

MEASURED = "measured"

SCALES: dict[str, str] = {"counts": "rows", "percent": "% of rows", "density": "density"}

FLAG_SCALES = {key: scale.name for key, scale in TRANSFORMS.items() if scale.inverse is not None}
"""Scales on which outliers can be looked for: a span found there has a place among the values as measured."""

WHISKERS: dict[str, str] = {
    "fences": "farthest value within the fences",
    "extremes": "smallest and largest value",
    "percentiles": "5th and 95th percentile",
}
"""How far the whiskers of a box reach."""


_WORDS = {
    "alpha": "the level α",
    "confidence": "the confidence of intervals",
    "quantile_type": "the type of quartiles",
    "decimals": "the decimals",
    "closed": "the side of bin edges",
    "trim": "the trimmed share",
    "qq_line": "the line of Q-Q",
    "qq_band": "the band of Q-Q",
    "whiskers": "the whiskers",
    "notch": "the notch",
    "box_points": "the rows over the box",
    "stacked_points": "the dots",
    "upright": "the direction of the axis",
    "verdict_test": "the test that gives the verdict",
    "methods": "the outlier methods",
}


_COLUMN_WORDS = {
    "bin_rule": "the rule for bins",
    "bin_width": "the bin width",
    "bin_count": "the number of bins",
    "bin_start": "the first edge",
    "bin_end": "the last edge",
    "scale": "the scale of bars",
    "bandwidth_rule": "the rule for the bandwidth",
    "bandwidth": "the bandwidth",
    "axis": "the axis",
    "valid_range": "the valid range",
    "flag_within": "the groups of flags",
    "flag_scale": "the scale of flags",
    "limits": "own limits",
}


def _words(value: object) -> str:
    """A setting as a history has it."""
    if value is None:
        return "by the rule"
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, tuple):
        if value and isinstance(value[0], tuple):
            return ", ".join(f"{OUTLIER_METHODS[key].short} {low:g} and {high:g}" for key, low, high in value)
        if not value:
            return "none"
        if any(isinstance(each, str) for each in value):
            return plural(len(value), "method")
        return " to ".join("open" if end is None else _words(end) for end in value)
    if isinstance(value, float):
        return f"{value:.6g}".replace("-", "−")
    return str(value).replace("_", " ")


def _changes(words: Mapping[str, str], before: object, after: object, whose: str = "") -> list[str]:
    """Each field named in ``words`` that differs, ``whose`` it is, with what it was and what it is."""
    pairs = [(name, getattr(before, key), getattr(after, key)) for key, name in words.items()]
    return [f"{name}{whose} {_words(old)} → {_words(new)}" for name, old, new in pairs if old != new]


def _default_limits() -> Mapping[str, float]:
    return MappingProxyType({key: method.limit.default for key, method in OUTLIER_METHODS.items() if method.limit})


@dataclass(frozen=True)
class ColumnSettings:
    """How one column is pictured, all in the column's own unit.

    ``bin_width`` or ``bin_count`` overrides the rule; ``bin_start`` and ``bin_end`` are where the first bin begins and
    the last one ends. ``bandwidth`` overrides ``bandwidth_rule``. ``axis`` is ``"measured"`` or a transformation under
    which the lanes are shown, too. ``valid_range`` is declared by the analyst. Flags are found within the groups of the
    column ``flag_within``, where one is named, and on the scale ``flag_scale``; ``limits`` holds the limits of methods
    that are this column's own, below and above.
    """

    bin_rule: str = "freedman_diaconis"
    bin_width: float | None = None
    bin_count: int | None = None
    bin_start: float | None = None
    bin_end: float | None = None
    scale: str = "counts"
    bandwidth_rule: str = "isj"
    bandwidth: float | None = None
    axis: str = "measured"
    valid_range: tuple[float | None, float | None] = (None, None)
    flag_within: str | None = None
    flag_scale: str = "measured"
    limits: tuple[tuple[str, float, float], ...] = ()

    def own_limits(self, method: str) -> tuple[float, float] | None:
        """The limits of ``method`` below and above that are this column's own, None where it has none."""
        return next(((below, above) for key, below, above in self.limits if key == method), None)

    @property
    def bins(self) -> dict[str, float | int | None]:
        """Bins by hand, as `histogram` takes them."""
        return {"width": self.bin_width, "count": self.bin_count, "start": self.bin_start, "end": self.bin_end}


def replaced(settings: "Settings", **changes: object) -> "Settings":
    """The same settings with some fields changed. Raises StatisticsError where one is outside its range."""
    return replace(settings, **changes)  # type: ignore[arg-type]


@dataclass(frozen=True)
class Settings:
    """Conventions of a study. Raises StatisticsError where one is outside its range.

    ``limits`` has the limit of each outlier method, ``methods`` those whose flags count; ``decimals`` fixes the
    decimal places of statistics, None lets each column's own resolution decide. ``whiskers``, ``notch`` (the median's
    interval) and ``box_points`` (every row) say how boxes are drawn, ``stacked_points`` how dots are. ``upright`` lets
    the values of all pictures run up, not to the right. ``verdict_test`` gives the verdict on normality wherever it is
    valid, None leaves it to the one suggested at each n.
    """

    alpha: float = 0.05
    confidence: float = 0.95
    quantile_type: int = 7
    decimals: int | None = None
    closed: str = "left"
    trim: float = 0.1
    qq_line: str = "moments"
    qq_band: str = "pointwise"
    whiskers: str = "fences"
    notch: bool = False
    box_points: bool = False
    stacked_points: bool = False
    upright: bool = False
    verdict_test: str | None = None
    methods: tuple[str, ...] = ("z_score", "iqr_fences", "modified_z")
    limits: Mapping[str, float] = field(default_factory=_default_limits)
    columns: Mapping[str, ColumnSettings] = field(default_factory=lambda: MappingProxyType({}))

    def __post_init__(self) -> None:
        if not 0 < self.alpha < 1:
            raise StatisticsError(f"The level α lies between 0 and 1, not at {self.alpha:g}.")
        if not 0 < self.confidence < 1:
            raise StatisticsError(f"The confidence level lies between 0 and 1, not at {self.confidence:g}.")
        if self.quantile_type not in QUANTILE_TYPES:
            raise StatisticsError(f"There is no quantile type {self.quantile_type}; the types are 1 to 9.")
        if self.whiskers not in WHISKERS:
            raise StatisticsError(f"Whiskers reach to {', '.join(WHISKERS)}, not to {self.whiskers!r}.")
        if not 0 <= self.trim < 0.5:
            raise StatisticsError(f"The share trimmed from each end lies between 0 and 0.5, not at {self.trim:g}.")
        if self.verdict_test is not None and self.verdict_test not in NORMALITY_TESTS:
            raise StatisticsError(f"There is no test of normality {self.verdict_test!r}.")
        if not self.methods or set(self.methods) - set(OUTLIER_METHODS):
            raise StatisticsError("At least one outlier method of the table must be chosen.")
        for key, value in self.limits.items():
            if not value > 0:
                raise StatisticsError(f"The limit of {OUTLIER_METHODS[key].name} must be above 0, not {value:g}.")

    def of(self, column: str) -> ColumnSettings:
        return self.columns.get(column, ColumnSettings())

    def verdict_test_at(self, n: int) -> NormalityTest:
        """The test that gives the verdict at this n: the chosen one where it is valid, or else the suggested one."""
        chosen = None if self.verdict_test is None else NORMALITY_TESTS[self.verdict_test]
        if chosen is None or n < chosen.smallest_n or (chosen.largest_n is not None and n > chosen.largest_n):
            return suggested_test(n)
        return chosen

    def with_limit(self, method: str, value: float) -> "Settings":
        """The same settings with another limit for ``method``."""
        return replace(self, limits=MappingProxyType({**self.limits, method: value}))

    def limits_of(self, column: str, method: str) -> tuple[float, float] | None:
        """The limits of ``method`` in ``column``, below and above; None for a method that has no limit."""
        common = self.limits.get(method)
        own = self.of(column).own_limits(method)
        return own or (None if common is None else (common, common))

    def with_own_limits(self, column: str, method: str, limits: tuple[float, float] | None) -> "Settings":
        """The same settings with limits of ``method`` for ``column`` alone, or with None those of all columns."""
        chosen = self.of(column)
        kept = tuple(each for each in chosen.limits if each[0] != method)
        own = () if limits is None else ((method, *limits),)
        return self.with_column(column, replace(chosen, limits=(*kept, *own)))

    def with_methods(self, methods: Iterable[str]) -> "Settings":
        """The same settings with other methods chosen, in the order of the table."""
        chosen = set(methods)
        return replace(self, methods=tuple(key for key in OUTLIER_METHODS if key in chosen))

    def with_column(self, column: str, chosen: ColumnSettings) -> "Settings":
        """The same settings with another picture of ``column``."""
        for kind, said, known in (
            ("bin rule", chosen.bin_rule, BIN_RULES),
            ("scale", chosen.scale, SCALES),
            ("bandwidth rule", chosen.bandwidth_rule, BANDWIDTH_RULES),
            ("transformation", chosen.axis, (MEASURED, *SCALE_NAMES)),
            ("scale with a way back", chosen.flag_scale, (MEASURED, *FLAG_SCALES)),
        ):
            if said not in known:
                raise StatisticsError(f"There is no {kind} {said!r}.")
        for key, *limits in chosen.limits:
            if self.limits.get(key) is None or not all(isfinite(limit) and limit > 0 for limit in limits):
                raise StatisticsError(f"The limits of {key} must be above 0, not {limits[0]:g} and {limits[1]:g}.")
        return replace(self, columns=MappingProxyType({**self.columns, column: chosen}))

    def changed_from(self, before: "Settings") -> str:
        """What was changed since ``before``, from what to what, in a few words."""
        columns = [name for name in {**before.columns, **self.columns} if before.of(name) != self.of(name)]
        if columns:
            more = f" and {plural(len(columns) - 1, 'more column')}" if len(columns) > 1 else ""
            whose = f" of {columns[0]}{more}"
            return ", ".join(_changes(_COLUMN_WORDS, before.of(columns[0]), self.of(columns[0]), whose))
        limits = [key for key, value in self.limits.items() if before.limits[key] != value]
        if limits:
            key = limits[0]
            return f"the limit of {OUTLIER_METHODS[key].name} {_words(before.limits[key])} → {_words(self.limits[key])}"
        return ", ".join(_changes(_WORDS, before, self)) or "settings"

    def _verdict_text(self) -> str:
        if self.verdict_test is None:
            return "by the test suggested at each n"
        return f"by {NORMALITY_TESTS[self.verdict_test].name} where it is valid, else by the test suggested at each n"

    def stated(self) -> list[tuple[str, str]]:
        """The conventions in words, for the report."""
        rows = [
            ("Level α", f"{self.alpha:g}"),
            ("Confidence of intervals", f"{100 * self.confidence:g} %"),
            ("Quartiles and percentiles", QUANTILE_TYPES[self.quantile_type]),
            ("SD and variance", "n−1 in the denominator"),
            ("Skewness and excess kurtosis", "G1 and G2, adjusted for n (Joanes & Gill 1998)"),
            ("Trimmed and winsorised mean", f"{100 * self.trim:g} % at each end"),
            ("Values on a bin edge", f"belong to the bin {'above' if self.closed == 'left' else 'below'}"),
            ("Plotting positions of Q-Q", "(i−3/8)/(n+1/4), Blom 1958"),
            ("Band of Q-Q", f"{self.qq_band}, at the confidence of intervals"),
            ("Missing", "empty cells and missing tokens, as stated by column; other text that is no number is unread"),
            ("Verdict on normality", self._verdict_text()),
        ]
        for key, method in OUTLIER_METHODS.items():
            if method.limit is not None:
                rows.append((f"Limit of {method.name}", f"{self.limits[key]:g} {method.limit.name} ({method.source})"))
        for column, chosen in self.columns.items():
            if chosen.limits:
                rows.append((f"Limits of {column} of its own, below and above", _words(chosen.limits)))
        rows.append(("Flags and agreement", f"by {', '.join(OUTLIER_METHODS[key].name for key in self.methods)}"))
        return rows
