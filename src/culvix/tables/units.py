"""Units written into column names: "length_mm", "oxygen_mg_l", "depth (m)", "speed [km/h]"."""

import re

__all__ = ["label_and_unit"]

_UNITS = {
    **{u: u for u in ("mm", "cm", "dm", "m", "km", "g", "mg", "kg", "ng", "t", "l", "ml", "dl", "ms", "s", "min", "h")},
    **{u: u for u in ("mol", "mmol", "bar", "hz", "kwh", "ppm", "ha", "m2", "m3")},
    "um": "µm",
    "ug": "µg",
    "pct": "%",
    "percent": "%",
    "degc": "°C",
    "hpa": "hPa",
    "kpa": "kPa",
    "day": "day",
    "week": "week",
    "month": "month",
    "year": "year",
    "eur": "EUR",
    "usd": "USD",
}
_PER = {"l", "ml", "dl", "s", "min", "h", "day", "week", "month", "year", "m2", "m3", "ha", "kg", "g", "km", "m"}
_WORDS = {"day", "week", "month", "year", "min", "bar"}
_BRACKETED = re.compile(r"^(?P<label>.*\S)\s*[(\[](?P<unit>[^()\[\]]{1,20})[)\]]$")


def label_and_unit(name: str) -> tuple[str | None, str | None]:
    """Readable label and unit found in ``name``, each None where the name holds none.

    Units that are also ordinary words ("min", "year") count only as the lower part of a ratio.
    """
    bracketed = _BRACKETED.match(name)
    if bracketed:
        return bracketed["label"], bracketed["unit"]
    words = name.split("_")
    lowered = [word.lower() for word in words]
    if len(words) >= 3 and lowered[-2] in _UNITS and lowered[-1] in _PER:
        return " ".join(words[:-2]), f"{_UNITS[lowered[-2]]}/{_UNITS[lowered[-1]]}"
    if len(words) >= 2 and lowered[-1] in _UNITS and lowered[-1] not in _WORDS:
        return " ".join(words[:-1]), _UNITS[lowered[-1]]
    return (" ".join(words), None) if len(words) > 1 and all(words) else (None, None)
