"""Units of measurement: those written into column names ("length_mm", "depth (m)"), and those that can be converted."""

import re
from collections.abc import Mapping
from types import MappingProxyType

__all__ = ["conversion", "is_unit", "label_and_unit", "spelled"]

_SPELLED = {
    **{
        u: u for u in ("nm", "mm", "cm", "dm", "m", "km", "g", "mg", "kg", "ng", "pg", "t", "l", "ml", "dl", "cl", "hl")
    },
    **{
        u: u
        for u in ("ms", "s", "min", "h", "mol", "mmol", "nmol", "bar", "mbar", "ppm", "ppb", "ppt", "ha", "m2", "m3")
    },
    **{
        u: u
        for u in ("cm2", "cm3", "km2", "mm2", "mm3", "ft", "yd", "lb", "lbs", "oz", "in", "inch", "mi", "gal", "psi")
    },
    **{u: u for u in ("cal", "kcal", "rpm", "dpi", "px", "knots", "kn", "dbm", "db", "ml/l", "mm3")},
    "um": "µm",
    "µm": "µm",
    "μm": "µm",
    "ug": "µg",
    "µg": "µg",
    "μg": "µg",
    "us": "µs",
    "µs": "µs",
    "ul": "µl",
    "µl": "µl",
    "umol": "µmol",
    "µmol": "µmol",
    "pct": "%",
    "percent": "%",
    "%": "%",
    "‰": "‰",
    "°": "°",
    "deg": "°",
    "degc": "°C",
    "°c": "°C",
    "degf": "°F",
    "°f": "°F",
    "hz": "Hz",
    "khz": "kHz",
    "mhz": "MHz",
    "ghz": "GHz",
    "pa": "Pa",
    "hpa": "hPa",
    "kpa": "kPa",
    "mpa": "MPa",
    "mmhg": "mmHg",
    "kw": "kW",
    "mw": "MW",
    "wh": "Wh",
    "kwh": "kWh",
    "mwh": "MWh",
    "kj": "kJ",
    "mj": "MJ",
    "mv": "mV",
    "kv": "kV",
    "ma": "mA",
    "kb": "kB",
    "mb": "MB",
    "gb": "GB",
    "tb": "TB",
    "ft2": "ft²",
    "sqft": "ft²",
    "m²": "m²",
    "m³": "m³",
    "cm²": "cm²",
    "cm³": "cm³",
    "km²": "km²",
    "mph": "mph",
    "kmh": "km/h",
    "day": "day",
    "days": "days",
    "week": "week",
    "weeks": "weeks",
    "month": "month",
    "months": "months",
    "year": "year",
    "years": "years",
    "hours": "h",
    "hour": "h",
    "minutes": "min",
    "seconds": "s",
    "sec": "s",
    "eur": "EUR",
    "usd": "USD",
    "gbp": "GBP",
    "chf": "CHF",
    "jpy": "JPY",
}
_PER = {
    *("l", "ml", "dl", "s", "min", "h", "day", "week", "month", "year", "m2", "m3", "ha", "kg", "g", "km", "m", "cm3"),
    *("100ml", "100g", "mol"),
}
_AMBIGUOUS = {
    *("day", "days", "week", "weeks", "month", "months", "year", "years", "min", "bar", "in", "inch", "hour", "hours"),
    *("minutes", "seconds", "sec", "deg", "cal", "mi", "mb", "px", "kn", "ma", "ppt", "pa", "us", "gal", "knots", "mw"),
}
"""Units that are ordinary words or parts of them, too: at the end of a name they count only as part of a ratio."""

_LETTERS: Mapping[str, re.Pattern[str]] = MappingProxyType(
    {
        "m": re.compile(
            r"length|height|depth|dist|width|altitude|elevation|radius|diameter|thickness|range|wave|level", re.I
        ),
        "g": re.compile(r"mass|weight|wt|biomass|yield|feed|load", re.I),
        "t": re.compile(r"mass|weight|yield|harvest|catch|load|tonnage", re.I),
        "l": re.compile(r"vol|capacity|intake|content", re.I),
        "s": re.compile(r"time|duration|delay|latency|period|interval|lag", re.I),
        "lb": re.compile(r"mass|weight|wt|load", re.I),
        "h": re.compile(r"time|duration|delay|latency|period|interval|lag|age", re.I),
    }
)
"""One letter after an underscore is as often a size, a sex or a mark; beside a name of this kind it is the unit."""

_BRACKETED = re.compile(r"^(?P<label>.*\S)\s*[(\[](?P<unit>[^()\[\]]{1,20})[)\]]$")
_RATIO = re.compile(r"^\s*([^\s/]+)\s*(?:/|\bper\b)\s*([^\s/]+)\s*$")


def is_unit(text: str) -> bool:
    """Whether ``text`` is a unit of measurement, or a ratio of two."""
    return spelled(text) is not None


def spelled(text: str) -> str | None:
    """A unit as it is usually written: "ug/l" gives "µg/l"; None for what is no unit."""
    plain = text.strip()
    if (plain in _LETTERS and len(plain) == 1) or plain in {"K", "V", "W", "A", "N", "J", "L"}:
        return plain
    if plain.lower() in _SPELLED and (plain.lower() not in _LETTERS or len(plain) > 1):
        return _SPELLED[plain.lower()]
    ratio = _RATIO.match(plain)
    if ratio is not None:
        above, below = spelled(ratio[1]), spelled(ratio[2])
        if below is None and re.fullmatch(r"\d{1,4}\s?\w{1,3}", ratio[2]):
            below = ratio[2]
        return None if above is None or below is None else f"{above}/{below}"
    return None


def label_and_unit(name: str) -> tuple[str | None, str | None]:
    """Readable label and unit found in ``name``, each None where the name holds none.

    A unit is what is known as one; "x (2)", "gender_m" and "size_s" have none. Units that are also ordinary words
    ("min", "year") count in brackets, or as part of a ratio.
    """
    bracketed = _BRACKETED.match(name)
    if bracketed:
        unit = spelled(bracketed["unit"])
        return (None, None) if unit is None else (bracketed["label"], bracketed["unit"].strip())
    words = name.split("_")
    lowered = [word.lower() for word in words]
    if len(words) >= 3 and lowered[-2] in _SPELLED and lowered[-1] in _PER:
        return " ".join(words[:-2]), f"{_SPELLED[lowered[-2]]}/{_SPELLED[lowered[-1]]}"
    if len(words) >= 2 and words[0] and _stands_at_end("_".join(words[:-1]), lowered[-1]):
        return " ".join(words[:-1]), _SPELLED[lowered[-1]]
    spaced, _, last = name.strip().rpartition(" ")
    if spaced and re.search(r"[°µμ%‰/²³]", last) and is_unit(last):
        return spaced, spelled(last)
    return (" ".join(words), None) if len(words) > 1 and all(words) else (None, None)


def _stands_at_end(label: str, word: str) -> bool:
    if word in _LETTERS:
        return bool(_LETTERS[word].search(label))
    return word in _SPELLED and word not in _AMBIGUOUS


_DIMENSIONS: Mapping[str, tuple[str, float, float]] = MappingProxyType(
    {
        **{u: ("length", f, 0.0) for u, f in (("nm", 1e-9), ("µm", 1e-6), ("mm", 1e-3), ("cm", 1e-2), ("dm", 1e-1))},
        **{
            u: ("length", f, 0.0)
            for u, f in (("m", 1.0), ("km", 1e3), ("in", 0.0254), ("inch", 0.0254), ("ft", 0.3048))
        },
        **{u: ("mass", f, 0.0) for u, f in (("pg", 1e-12), ("ng", 1e-9), ("µg", 1e-6), ("mg", 1e-3), ("g", 1.0))},
        **{u: ("mass", f, 0.0) for u, f in (("kg", 1e3), ("t", 1e6), ("lb", 453.59237), ("lbs", 453.59237))},
        "oz": ("mass", 28.349523125, 0.0),
        **{u: ("volume", f, 0.0) for u, f in (("µl", 1e-6), ("ml", 1e-3), ("cl", 1e-2), ("dl", 1e-1), ("l", 1.0))},
        **{u: ("volume", f, 0.0) for u, f in (("L", 1.0), ("hl", 1e2), ("m³", 1e3), ("m3", 1e3))},
        **{u: ("time", f, 0.0) for u, f in (("µs", 1e-6), ("ms", 1e-3), ("s", 1.0), ("min", 60.0), ("h", 3600.0))},
        **{u: ("pressure", f, 0.0) for u, f in (("Pa", 1.0), ("hPa", 1e2), ("mbar", 1e2), ("kPa", 1e3), ("bar", 1e5))},
        "°C": ("temperature", 1.0, 0.0),
        "°F": ("temperature", 5 / 9, -160 / 9),
        "K": ("temperature", 1.0, -273.15),
    }
)
"""Of each unit its dimension, and factor and summand that lead to the first unit of that dimension."""


def conversion(unit: str, target: str) -> tuple[float, float] | None:
    """Factor and summand that turn a number in ``unit`` into one in ``target``; None where that cannot be done."""
    if unit == target:
        return 1.0, 0.0
    above, below = unit.partition("/"), target.partition("/")
    if above[2] or below[2]:
        if above[2] != below[2]:
            return None
        unit, target = above[0], below[0]
    known, requested = _DIMENSIONS.get(unit), _DIMENSIONS.get(target)
    if known is None or requested is None or known[0] != requested[0]:
        return None
    return known[1] / requested[1], (known[2] - requested[2]) / requested[1]
