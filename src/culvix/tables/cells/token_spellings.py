"""The spellings that stand for a missing value in any column of a table."""

__all__ = ["ERROR_VALUES", "SPELLINGS", "is_missing_token"]

_PLAIN = (
    *(
        "na",
        "n/a",
        "n.a.",
        "n.a",
        "n/a.",
        "#n/a",
        "<na>",
        "nan",
        "nat",
        "null",
        "(null)",
        "<null>",
        "\\n",
        "none",
        "nil",
    ),
    *("-", "--", "---", "–", "—", "?", "??", "???", ".", "..", "...", "…", "missing", "not available", "no data"),
    *("not measured", "not recorded", "-nan", "#na", "na.", "1.#qnan", "-1.#ind"),
)
ERROR_VALUES = ("#NULL!", "#VALUE!", "#DIV/0!", "#REF!", "#NUM!", "#NAME?", "#SPILL!", "#CALC!", "#GETTING_DATA")
"""What a spreadsheet writes into a cell whose formula has no result."""

_FORMS = {form for word in _PLAIN for form in (word, word.upper(), word.capitalize(), word.title())}
SPELLINGS = frozenset(_FORMS | {"NaN", "NaT", "-NaN", *ERROR_VALUES, *map(str.lower, ERROR_VALUES)})


def is_missing_token(text: str) -> bool:
    """Whether ``text`` is commonly written for a missing value."""
    return text.strip() in SPELLINGS
