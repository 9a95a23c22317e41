"""Every convention in force, and the choices made for single columns."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from math import isfinite
from types import MappingProxyType

from culvix.errors import StatisticsError
from culvix.stats.core.quantiles import QUANTILE_TYPES
from culvix.stats.display import plural, rounded
from culvix.stats.registry import (
    CORRELATION_KINDS,
    NORMALITY_TESTS,
    OUTLIER_METHODS,
    NormalityTest,
    Setting,
    suggested_test,
)
from culvix.stats.shape.axis_scale import AXIS_SCALES
from culvix.stats.shape.density import BANDWIDTH_RULES
from culvix.stats.shape.histogram import BIN_RULES
from culvix.stats.shape.transform import SCALE_NAMES, TRANSFORMS
from culvix.study.document.choices.picture_style import USUAL_STYLE, PictureStyle

__all__ = ["FLAG_SCALES", "MEASURED", "SCALES", "WHISKERS", "ColumnSettings", "Settings", "replaced"]

MEASURED = "measured"

_MOST_DECIMALS = 15

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
    "correlation": "the correlation read first",
    "methods": "the outlier methods",
    "picture_style": "the style of pictures",
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
    "axis_scale": "the scale of the axis",
    "flag_within": "the groups of flags",
    "flag_scale": "the scale of flags",
    "limits": "own limits",
}


def _text(value: object) -> str:
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
        return plural(len(value), "method")
    if isinstance(value, float):
        return rounded(value, 6)
    return str(value).replace("_", " ")


def _changes(text: Mapping[str, str], before: object, after: object, whose: str = "") -> list[str]:
    """Each field named in ``text`` that differs, ``whose`` it is, with what it was and what it is."""
    pairs = [(name, getattr(before, key), getattr(after, key)) for key, name in text.items()]
    return [f"{name}{whose} {_text(old)} → {_text(new)}" for name, old, new in pairs if old != new]


def _default_limits() -> Mapping[str, float]:
    return MappingProxyType({key: method.limit.default for key, method in OUTLIER_METHODS.items() if method.limit})


def _limit_of(key: str) -> Setting:
    """The limit that the method ``key`` is tuned by. Raises StatisticsError where it has none."""
    method = OUTLIER_METHODS.get(key)
    if method is None or method.limit is None:
        raise StatisticsError(f"There is no outlier method {key!r} that has a limit.")
    return method.limit


def _checked_limits(limits: Mapping[str, float]) -> Mapping[str, float]:
    """``limits`` with the usual one of every method that has none here: a method may be newer than the settings.

    Raises StatisticsError for a limit outside its range.
    """
    return _checked_items(tuple(limits.items()), tuple(OUTLIER_METHODS))


@lru_cache(256)
def _checked_items(limits: tuple[tuple[str, float], ...], _: tuple[str, ...]) -> Mapping[str, float]:
    """The same for the items of a mapping; most settings of a history have the same limits."""
    for key, value in limits:
        _limit_of(key).check(value, OUTLIER_METHODS[key].name)
    return MappingProxyType({**_default_limits(), **dict(limits)})


def _check_choices(*choices: tuple[str, str | None, Collection[str | None]]) -> None:
    """Raise StatisticsError for a choice that is not among those there are; each is (what it is of, choice, known)."""
    for kind, chosen, known in choices:
        if chosen not in known:
            there_are = ", ".join(str(each) for each in known if each is not None)
            raise StatisticsError(f"There is no {kind} {chosen!r}; there are {there_are}.")


@dataclass(frozen=True)
class ColumnSettings:
    """How one column is pictured. Raises StatisticsError for a choice there is none of.

    ``axis_scale`` is one of `AXIS_SCALES`, the scale of the axis in all its pictures; None is measured, too, but was
    never chosen. Bins and bandwidth are in the
    column's own unit, or where the scale is another one, in that of the axis.

    ``bin_width`` or ``bin_count`` overrides the rule; ``bin_start`` and ``bin_end`` are where the first bin begins and
    the last one ends. ``bandwidth`` overrides ``bandwidth_rule``, which None leaves to the shape:
    `usual_rule`. ``axis`` is ``"measured"`` or a transformation under which the lanes are shown, too. Flags are
    found within the groups of the column ``flag_within``, where one is named,
    and on the scale ``flag_scale``; ``limits`` holds the limits of methods that are this column's own, below and above.
    """

    bin_rule: str = "freedman_diaconis"
    bin_width: float | None = None
    bin_count: int | None = None
    bin_start: float | None = None
    bin_end: float | None = None
    scale: str = "counts"
    bandwidth_rule: str | None = None
    bandwidth: float | None = None
    axis: str = "measured"
    axis_scale: str | None = None
    flag_within: str | None = None
    flag_scale: str = "measured"
    limits: tuple[tuple[str, float, float], ...] = ()

    def __post_init__(self) -> None:
        _check_choices(
            ("bin rule", self.bin_rule, BIN_RULES),
            ("scale", self.scale, SCALES),
            ("bandwidth rule", self.bandwidth_rule, (None, *BANDWIDTH_RULES)),
            ("transformation", self.axis, (MEASURED, *SCALE_NAMES)),
            ("scale of an axis", self.axis_scale, (None, *AXIS_SCALES)),
            ("scale with a way back", self.flag_scale, (MEASURED, *FLAG_SCALES)),
        )
        for name in ("bin_width", "bin_start", "bin_end", "bandwidth"):
            value = getattr(self, name)
            if value is not None and not isfinite(value):
                raise StatisticsError(f"{_COLUMN_WORDS[name].capitalize()} is a finite number.")
        for key, *limits in self.limits:
            for limit in limits:
                _limit_of(key).check(limit, OUTLIER_METHODS[key].name)

    def own_limits(self, method: str) -> tuple[float, float] | None:
        """The limits of ``method`` below and above that are this column's own, None where it has none."""
        return next(((below, above) for key, below, above in self.limits if key == method), None)

    def with_axis_scale(self, key: str) -> "ColumnSettings":
        """The same on an axis of another scale, where bins and bandwidth are left to their rules."""
        if key == self.scale_of_axis:
            return replace(self, axis_scale=key)
        return replace(self, axis_scale=key, bin_width=None, bin_start=None, bin_end=None, bandwidth=None)

    @property
    def scale_of_axis(self) -> str:
        """The key in `AXIS_SCALES` of the scale that the axis has."""
        return self.axis_scale or MEASURED

    @property
    def bins(self) -> dict[str, float | int | None]:
        """Bins by hand, as `histogram` takes them."""
        return {"width": self.bin_width, "count": self.bin_count, "start": self.bin_start, "end": self.bin_end}


def replaced(settings: "Settings", **changes: object) -> "Settings":
    """The same settings with some fields changed. Raises StatisticsError where one is outside its range."""
    return replace(settings, **changes)  # type: ignore[arg-type]


_AS_USUAL = ColumnSettings()


@dataclass(frozen=True)
class Settings:
    """Conventions of a study. Raises StatisticsError where one is outside its range.

    ``limits`` has the limit of each outlier method, the usual one where none is given, ``methods`` those whose flags
    count; ``decimals`` fixes the decimal places of statistics, None lets each column's own resolution decide.
    ``whiskers``, ``notch`` (the median's interval) and ``box_points`` (every row) say how boxes are drawn,
    ``stacked_points`` how dots are. ``upright`` lets the values of all pictures run up, not to the right.
    ``picture_style`` is how pictures look that are saved or stand in the report.
    ``verdict_test`` gives the verdict on normality wherever it is valid, None leaves it to the one suggested at each n;
    ``correlation`` is the kind read first of every pair, None leaves it to the one suggested for each.
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
    correlation: str | None = None
    methods: tuple[str, ...] = ("z_score", "iqr_fences", "modified_z")
    limits: Mapping[str, float] = field(default_factory=_default_limits)
    columns: Mapping[str, ColumnSettings] = field(default_factory=lambda: MappingProxyType({}))
    picture_style: PictureStyle = USUAL_STYLE

    def __post_init__(self) -> None:
        for name, share, most in (("level α", self.alpha, 1.0), ("confidence level", self.confidence, 1.0)):
            if not 0 < share < most:
                raise StatisticsError(f"The {name} lies between 0 and 1, not at {share:g}.")
        if not 0 <= self.trim < 0.5:
            raise StatisticsError(f"The share trimmed from each end lies between 0 and 0.5, not at {self.trim:g}.")
        if self.quantile_type not in QUANTILE_TYPES:
            raise StatisticsError(f"There is no quantile type {self.quantile_type}; the types are 1 to 9.")
        if self.decimals is not None and not 0 <= self.decimals <= _MOST_DECIMALS:
            raise StatisticsError(f"Numbers are written with 0 to {_MOST_DECIMALS} decimals, not {self.decimals}.")
        _check_choices(
            ("edge that belongs to a bin", self.closed, ("left", "right")),
            ("line of Q-Q points", self.qq_line, ("moments", "quartiles")),
            ("band of Q-Q points", self.qq_band, ("pointwise", "simultaneous")),
            ("end of whiskers", self.whiskers, WHISKERS),
            ("test of normality", self.verdict_test, (None, *NORMALITY_TESTS)),
            ("kind of correlation", self.correlation, (None, *CORRELATION_KINDS)),
        )
        if not self.methods or set(self.methods) - set(OUTLIER_METHODS):
            raise StatisticsError("At least one outlier method of the table must be chosen.")
        object.__setattr__(self, "limits", _checked_limits(self.limits))

    def of(self, column: str) -> ColumnSettings:
        return self.columns.get(column, _AS_USUAL)

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
        others = tuple(each for each in chosen.limits if each[0] != method)
        own = () if limits is None else ((method, *limits),)
        return self.with_column(column, replace(chosen, limits=(*others, *own)))

    def with_methods(self, methods: Iterable[str]) -> "Settings":
        """The same settings with other methods chosen, in the order of the table."""
        chosen = set(methods)
        return replace(self, methods=tuple(key for key in OUTLIER_METHODS if key in chosen))

    def with_column(self, column: str, chosen: ColumnSettings) -> "Settings":
        """The same settings with another picture of ``column``."""
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
            return f"the limit of {OUTLIER_METHODS[key].name} {_text(before.limits[key])} → {_text(self.limits[key])}"
        return ", ".join(_changes(_WORDS, before, self)) or "settings"

    def _verdict_text(self) -> str:
        if self.verdict_test is None:
            return "by the test suggested at each n"
        return f"by {NORMALITY_TESTS[self.verdict_test].name} where it is valid, else by the test suggested at each n"

    def _correlation_text(self) -> str:
        if self.correlation is None:
            return "of each pair the kind that is suggested for its shape"
        return f"{CORRELATION_KINDS[self.correlation].name}, for all pairs"

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
            ("Correlation read first", self._correlation_text()),
        ]
        for key, method in OUTLIER_METHODS.items():
            if method.limit is not None:
                rows.append((f"Limit of {method.name}", f"{self.limits[key]:g} {method.limit.name} ({method.source})"))
        for column, chosen in self.columns.items():
            if chosen.limits:
                rows.append((f"Limits of {column} of its own, below and above", _text(chosen.limits)))
        rows.append(("Flags and agreement", f"by {', '.join(OUTLIER_METHODS[key].name for key in self.methods)}"))
        return rows
