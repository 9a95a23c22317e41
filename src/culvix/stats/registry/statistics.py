"""The figures of one column: summary, survey, report and profile document walk this table.

A figure is one small module with one public function and one row here; the guide has an entry under its key.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from operator import attrgetter
from types import MappingProxyType
from typing import Literal

from culvix.stats.core.sample import Sample
from culvix.stats.describe.description import Description, Number
from culvix.stats.display import NumberStyle, count, number, signed

__all__ = ["STATISTICS", "FigureScale", "Statistic", "figures_of", "shown_in"]

FigureScale = Literal["value", "statistic", "signed", "pure", "whole"]
"""What a figure is: one of the values, in their unit, a number about zero, a pure number, or a count."""


_QUANTILES = frozenset({"q1", "median", "q3"})

LAST = 99
"""The position of whatever has none of its own."""


@dataclass(frozen=True)
class Statistic:
    """A figure of one column, under the key that it has in the profile document.

    ``of`` gives it from the description and the values, None where there is none. ``name`` is what reports call it,
    ``short`` the head of its column in a survey, ``brief`` its name in the margin (empty: ``short``). ``interval`` and
    ``error`` are the fields of a description that tell how sure it is. ``report``, ``summary``, ``survey`` and
    ``groups`` are its positions among the figures shown unasked, None for one that is shown on request; ``beside``: it
    stands in one line of the report with the figure before it.
    """

    key: str
    name: str
    scale: FigureScale
    of: Callable[[Description, Sample], Number]
    short: str = ""
    brief: str = ""
    interval: str | None = None
    error: str | None = None
    report: int | None = LAST
    beside: bool = False
    summary: int | None = None
    survey: int | None = None
    groups: int | None = None

    def words(self, value: Number, style: NumberStyle) -> str:
        """``value`` as it is shown where values have the ``style``; a dash for None."""
        if self.scale == "whole" and value is not None:
            return count(int(value))
        ways: dict[str, Callable[[Number], str]] = {
            "value": style.value,
            "statistic": style.statistic,
            "signed": signed,
        }
        return ways.get(self.scale, _pure)(value)

    @property
    def of_ranks(self) -> bool:
        """Whether it makes sense for ordered codes, whose steps need not be equal."""
        return (self.scale in ("value", "whole") and self.key != "range") or self.key in _QUANTILES

    @property
    def survey_name(self) -> str:
        return self.short or self.name

    @property
    def summary_name(self) -> str:
        return self.brief or self.survey_name


def _pure(value: Number) -> str:
    return number(value, 4)


def _described(key: str, name: str, scale: FigureScale, **more: object) -> Statistic:
    """A figure that is a field of the description."""
    field = attrgetter(key)
    return Statistic(key, name, scale, lambda description, _: field(description), **more)  # type: ignore[arg-type]


def _on_request(key: str, name: str, scale: FigureScale, **more: object) -> Statistic:
    """A field of the description that is left out of reports."""
    return replace(_described(key, name, scale, **more), report=None)


_ROWS = (
    _described("n", "n", "whole", report=0, summary=0, survey=2),
    _described("distinct", "distinct", "whole", report=2, survey=6),
    _on_request("non_finite", "not finite", "whole"),
    _described("zeros", "zeros", "whole", report=3),
    _described("negatives", "negatives", "whole", report=4, beside=True),
    _on_request("sum", "sum", "statistic"),
    _described("mean", "mean", "statistic", interval="ci_mean", report=5, summary=4, survey=7, groups=0),
    _on_request("se_mean", "standard error of the mean", "statistic", short="SE mean", summary=13),
    _described("median", "median", "statistic", interval="ci_median", report=7, summary=5, survey=8, groups=2),
    _on_request("mode_count", "mode count", "whole"),
    _described("sd", "SD (n−1)", "statistic", short="SD", brief="SD (n−1)", report=6, summary=6, survey=9, groups=1),
    _on_request("variance", "variance", "statistic", brief="var (n−1)"),
    _described("min", "min", "value", report=12, summary=8, survey=10, groups=5),
    _described("max", "max", "value", report=13, beside=True, summary=9, survey=11, groups=6),
    _on_request("range", "range", "value"),
    _described("q1", "Q1", "statistic", report=8, summary=10, groups=3),
    _described("q3", "Q3", "statistic", report=9, beside=True, summary=11, groups=4),
    _described("iqr", "IQR", "statistic", report=10, summary=12),
    _on_request("mad", "median absolute deviation", "statistic", short="MAD", brief="MAD ×1"),
    _described("mad_scaled", "MAD ×1.4826", "statistic", short="MAD ×1.48", report=11, summary=7),
    _described("trimmed_mean", "trimmed mean", "statistic", report=16),
    _on_request("winsorized_mean", "winsorized mean", "statistic"),
    _on_request("geometric_mean", "geometric mean", "statistic"),
    _on_request("harmonic_mean", "harmonic mean", "statistic"),
    _on_request("cv", "coefficient of variation", "pure", short="CV"),
    _described(
        *("skewness", "skewness G1", "signed"),
        short="skew G1",
        error="se_skewness",
        report=14,
        summary=14,
        survey=12,
        groups=7,
    ),
    _described(
        *("excess_kurtosis", "excess kurtosis G2", "signed"),
        short="kurt G2",
        error="se_kurtosis",
        report=15,
        summary=15,
        survey=13,
    ),
    _on_request("skewness_g1", "skewness g1", "signed"),
    _on_request("excess_kurtosis_g2", "excess kurtosis g2", "signed"),
    _on_request("se_skewness", "standard error of skewness", "signed", short="SE skew"),
    _on_request("se_kurtosis", "standard error of kurtosis", "signed", short="SE kurt"),
    _on_request("l_scale", "L-scale", "statistic"),
    _on_request("l_skewness", "L-skewness", "signed"),
    _on_request("l_kurtosis", "L-kurtosis", "signed"),
)

STATISTICS: Mapping[str, Statistic] = MappingProxyType({row.key: row for row in _ROWS})


def figures_of(description: Description, sample: Sample) -> dict[str, Number]:
    """Every figure of the table, by key, of the values that ``description`` describes."""
    return {key: row.of(description, sample) for key, row in STATISTICS.items()}


def shown_in(target: Literal["report", "summary", "survey", "groups"]) -> tuple[str, ...]:
    """The keys of the figures that are shown there unasked, in order."""
    placed = [(getattr(row, target), key) for key, row in STATISTICS.items() if getattr(row, target) is not None]
    return tuple(key for _, key in sorted(placed))
