"""How numbers are written: by the data's own resolution, with a true minus sign and thin-space thousands.

A value that is not zero is never shown as zero, a number that does not exist is shown as a dash, and a p value
is written with its relation ("p < 0.001"). Rounding is half to even and for display only.
"""

from dataclasses import dataclass
from decimal import Decimal
from math import floor, isfinite, log10

import numpy as np

from culvix.stats.core.sample import Sample

__all__ = [
    "DASH",
    "NumberStyle",
    "as_typed",
    "coefficient",
    "coefficients",
    "correlation",
    "count",
    "decimals_apart",
    "decimals_of",
    "file_size",
    "number",
    "p_value",
    "per_cent",
    "plural",
    "rounded",
    "signed",
    "significant",
    "style_for",
    "typed_number",
]

DASH = "—"
MINUS = "\u2212"
_GROUP = "\u202f"
_SUPERSCRIPT = str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹")
_MOST_DECIMALS = 8
_MOST_DIGITS = 5
_LARGEST = 1e12
"""From here on numbers are written as powers of ten, below it in full: what is far from zero may differ little."""


def count(value: int) -> str:
    """A whole number with thin-space thousands: 2 180."""
    return f"{value:,}".replace(",", _GROUP).replace("-", MINUS)


def file_size(size: int) -> str:
    """A number of bytes in the largest unit that leaves it a number from 1 up: 12 KB, 3.4 MB."""
    value, units = float(size), iter(("bytes", "KB", "MB", "GB", "TB"))
    unit = next(units)
    while value >= 1000 and unit != "TB":
        value, unit = value / 1000, next(units)
    return f"{value:.0f} {unit}" if unit == "bytes" or value >= 10 else f"{value:.1f} {unit}"


def plural(value: int, one: str, many: str | None = None) -> str:
    """A count with its noun: "1 row", "12 rows"."""
    return f"{count(value)} {one if value == 1 else many or one + 's'}"


def number(value: float | int | None, decimals: int = 2) -> str:
    """``value`` with ``decimals`` places, as powers of ten where that would hide or drown it."""
    if value is None or not isfinite(value):
        return DASH
    if isinstance(value, int) and decimals == 0:
        return count(value) if abs(value) < 10**15 else _scientific(value)
    size = abs(value)
    if size >= _LARGEST:
        return _scientific(value, 6)
    if size and size <= 0.5 * 10.0**-decimals:
        # Two digits of what would be hidden, as long as that stays readable.
        decimals, requested = 1 - floor(log10(size)), decimals
        if decimals > requested + 3:
            return _scientific(value)
    text = f"{value:,.{decimals}f}".replace(",", _GROUP)
    if text.strip("-0.") == "":
        text = text.lstrip("-")
    return text.replace("-", MINUS)


def _scientific(value: float | int, digits: int = 3) -> str:
    mantissa, exponent = f"{value:.{digits}e}".split("e")
    mantissa = mantissa.rstrip("0").rstrip(".")
    return f"{mantissa}×10{str(int(exponent)).translate(_SUPERSCRIPT)}".replace("-", MINUS)


def significant(value: float | None, digits: int = 4) -> str:
    """``value`` with that many significant digits, as powers of ten from a million up."""
    if value is None or not isfinite(value):
        return DASH
    if value and abs(value) >= 1e6:
        return _scientific(value, digits - 1)
    return number(value, 0 if not value else max(0, digits - 1 - floor(log10(abs(value)))))


def rounded(value: float, digits: int = 4) -> str:
    """``value`` with at most so many significant digits, and no zeros at its end: 25 000, 2.5, 0.0125."""
    shown = Decimal(f"{value:.{digits}g}").normalize()
    exponent = shown.as_tuple().exponent
    return number(float(shown), max(-exponent, 0)) if isinstance(exponent, int) else DASH


def signed(value: float | None, decimals: int = 2) -> str:
    """``value`` with its sign always shown."""
    text = number(value, decimals)
    return f"+{text}" if value is not None and value > 0 else text


def coefficient(value: float | None, decimals: int = 3) -> str:
    """A coefficient from −1 to 1 with its sign; nearly nothing is 0.000, what falls short of ±1 is never ±1.000."""
    if value is None or not isfinite(value):
        return DASH
    shown, places = _short_of_one(value, decimals)
    text = f"{shown:+.{places}f}"
    return f"{0:.{decimals}f}" if text.strip("+-0.") == "" else text.replace("-", MINUS)


def coefficients(*values: float | None, decimals: int = 3, most: int = 6) -> list[str]:
    """Several coefficients with as many decimals as it takes to tell those apart that differ, up to ``most``."""
    shown = decimals_apart(*values, decimals=decimals, most=most)
    return [coefficient(value, shown) for value in values]


def decimals_apart(*values: float | None, decimals: int = 3, most: int = 6) -> int:
    """With how many decimals coefficients that differ look different, at least ``decimals`` and at ``most``."""
    known = {value for value in values if value is not None and isfinite(value)}
    while decimals < most and len({coefficient(value, decimals) for value in known}) < len(known):
        decimals += 1
    return decimals


def correlation(value: float | None, decimals: int = 4) -> str:
    """A correlation that says how straight something is; what falls short of 1 is never shown as 1."""
    return DASH if value is None or not isfinite(value) else number(*_short_of_one(value, decimals))


def _short_of_one(value: float, decimals: int) -> tuple[float, int]:
    """What is shown of ``value``, and with how many decimals: more where it would seem to be 1 or −1 and is not.

    From the fifth decimal on, the digits beyond are cut, not rounded.
    """
    if abs(value) >= 1 or abs(round(value, decimals)) < 1:
        return value, decimals
    places = max(decimals, _MOST_DIGITS)
    if abs(round(value, places)) < 1:
        return value, places
    return (1 if value > 0 else -1) * (1 - 10.0**-places), places


def per_cent(share: float | None, decimals: int = 1) -> str:
    """A share (0 to 1) as per cent; a share that is not none is never shown as 0 %."""
    if share is None or not isfinite(share):
        return DASH
    smallest = 10.0**-decimals
    if 0 < 100 * share < smallest / 2:
        return f"< {smallest:.{decimals}f} %"
    if 100 - smallest / 2 <= 100 * share < 100:
        return f"> {100 - smallest:.{decimals}f} %"
    text = f"{100 * share:.{decimals}f}"
    # A true minus sign, and none before a zero.
    text = text.removeprefix("-") if not float(text) else text.replace("-", "\u2212")
    return f"{text} %"


def p_value(p: float | None) -> str:
    """A p value with its relation: "p = 0.41", "p < 0.001", "p > 0.999"."""
    if p is None or not isfinite(p):
        return f"p {DASH}"
    if p < 0.001:
        return "p < 0.001"
    if p > 0.995:
        return "p > 0.99"
    return f"p = {p:.3f}" if p < 0.1 else f"p = {p:.2f}"


def decimals_of(sample: Sample) -> int | None:
    """Decimal places in which the values were recorded, or None where they have no common resolution."""
    values = np.asarray(sample.runs[0], dtype=np.float64)
    if not values.size:
        return 0
    picked = values[np.linspace(0, values.size - 1, min(values.size, 500)).astype(np.int64)]
    if np.abs(picked).max() >= 1e12:
        return 0 if sample.is_whole else None
    for decimals in range(_MOST_DECIMALS - 1):
        if bool((np.abs(picked - np.round(picked, decimals)) <= 2 * np.spacing(np.abs(picked))).all()):
            return decimals
    return None


@dataclass(frozen=True)
class NumberStyle:
    """Decimal places for a column's values and for statistics in its unit.

    A statistic has at most five significant digits, but for the ``least_decimals`` that its column's spread needs.
    """

    value_decimals: int
    statistic_decimals: int
    least_decimals: int = _MOST_DECIMALS

    def value(self, x: float | int | None) -> str:
        """A value of the column, as it was recorded."""
        return number(x, self.value_decimals)

    def statistic(self, x: float | int | None) -> str:
        """A statistic in the column's unit."""
        if x is None or not isfinite(x) or not x or self.least_decimals >= self.statistic_decimals:
            return number(x, self.statistic_decimals)
        enough = max(_MOST_DIGITS - 1 - floor(log10(abs(x))), self.least_decimals, 0)
        return number(float(x), min(self.statistic_decimals, enough))

    def interval(self, low: float, high: float) -> str:
        """The ends of a bin, with as many places as they need."""
        own = decimals_of(Sample.of([low, high]))
        decimals = self.statistic_decimals if own is None else own
        return f"{number(low, decimals)} – {number(high, decimals)}"

    @property
    def mean_name(self) -> str:
        """What a mean in this style is."""
        return "mean"


def style_for(sample: Sample, spread: float | None, decimals: int | None = None) -> NumberStyle:
    """Style of a column: its own resolution for values, one place more for statistics, or what its spread needs.

    ``decimals`` fixes the places of the statistics for the whole study.
    """
    own = decimals_of(sample)
    # Two digits of the spread are what a statistic has to tell, a third one where nothing is known of the resolution.
    by_spread = 1 if not spread else 1 - floor(log10(spread))
    least = min(max(by_spread, 0), _MOST_DECIMALS)
    if own is None:
        own = min(least + 2, _MOST_DECIMALS)
    if decimals is not None:
        return NumberStyle(own, decimals)
    return NumberStyle(own, min(max(own + 1, least), _MOST_DECIMALS), least)


def as_typed(value: float, digits: int = 12) -> str:
    """``value`` as somebody would type it, with a true minus sign; `typed_number` reads it again."""
    return f"{value:.{digits}g}".replace("-", "−")


def typed_number(text: str) -> float:
    """The finite number somebody typed: with a true minus sign, thin spaces or a decimal comma too.

    Raises ValueError where it is none.
    """
    value = float(text.strip().replace("\u202f", "").replace("−", "-").replace(",", "."))
    if not isfinite(value):
        raise ValueError(f"{text} is not finite")
    return value
