"""Every convention in force, and the choices made for single columns."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType

from culvix.errors import StatisticsError
from culvix.stats.histogram import BIN_RULES
from culvix.stats.methods import OUTLIER_METHODS
from culvix.stats.quantiles import QUANTILE_TYPES

__all__ = ["SCALES", "ColumnSettings", "Settings"]

SCALES: dict[str, str] = {"counts": "rows", "percent": "% of rows", "density": "density"}


def _default_limits() -> Mapping[str, float]:
    return MappingProxyType({key: method.limit.default for key, method in OUTLIER_METHODS.items() if method.limit})


@dataclass(frozen=True)
class ColumnSettings:
    """How one column is pictured. ``bin_width`` overrides the rule, and ``bin_start`` says where its first bin begins.

    ``valid_range`` is declared by the analyst.

    All in the column's own unit.
    """

    bin_rule: str = "freedman_diaconis"
    bin_width: float | None = None
    bin_start: float | None = None
    scale: str = "counts"
    valid_range: tuple[float | None, float | None] = (None, None)


@dataclass(frozen=True)
class Settings:
    """Conventions of a study. Raises StatisticsError where one is outside its range.

    ``limits`` has the limit of each outlier method, ``methods`` those whose flags count; ``decimals`` fixes the
    decimal places of statistics, None lets each column's own resolution decide.
    """

    alpha: float = 0.05
    confidence: float = 0.95
    quantile_type: int = 7
    decimals: int | None = None
    closed: str = "left"
    trim: float = 0.1
    qq_line: str = "moments"
    qq_band: str = "pointwise"
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
        if not self.methods or set(self.methods) - set(OUTLIER_METHODS):
            raise StatisticsError("At least one outlier method of the table must be chosen.")
        for key, value in self.limits.items():
            if not value > 0:
                raise StatisticsError(f"The limit of {OUTLIER_METHODS[key].name} must be above 0, not {value:g}.")

    def of(self, column: str) -> ColumnSettings:
        return self.columns.get(column, ColumnSettings())

    def with_limit(self, method: str, value: float) -> "Settings":
        """The same settings with another limit for ``method``."""
        return replace(self, limits=MappingProxyType({**self.limits, method: value}))

    def with_methods(self, methods: Iterable[str]) -> "Settings":
        """The same settings with other methods chosen, in the order of the table."""
        chosen = set(methods)
        return replace(self, methods=tuple(key for key in OUTLIER_METHODS if key in chosen))

    def with_column(self, column: str, chosen: ColumnSettings) -> "Settings":
        """The same settings with another picture of ``column``."""
        if chosen.bin_rule not in BIN_RULES or chosen.scale not in SCALES:
            raise StatisticsError(f"There is no bin rule {chosen.bin_rule!r} or no scale {chosen.scale!r}.")
        return replace(self, columns=MappingProxyType({**self.columns, column: chosen}))

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
            ("Missing", "empty cells; other text that is no number is unread, never missing"),
        ]
        for key, method in OUTLIER_METHODS.items():
            if method.limit is not None:
                rows.append((f"Limit of {method.name}", f"{self.limits[key]:g} {method.limit.name} ({method.source})"))
        rows.append(("Flags and agreement", f"by {', '.join(OUTLIER_METHODS[key].name for key in self.methods)}"))
        return rows
