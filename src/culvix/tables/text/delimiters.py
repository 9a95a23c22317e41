"""What stands between the cells of a delimited text: a mark, or runs of spaces where columns are aligned by them."""

import re

__all__ = ["ALIGNED", "DELIMITERS", "unaligned_line"]

ALIGNED = {"  ": "two or more spaces", " +": "spaces, one or more"}
"""Delimiters that are runs of spaces, with their names."""

DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "vertical bar", " ": "space", **ALIGNED}

_RUNS = {"  ": r"[ \t]{2,}|\t", " +": r"[ \t]+"}


def unaligned_line(line: str, delimiter: str) -> str:
    """``line`` with a tab in place of each run of spaces."""
    return re.sub(_RUNS[delimiter], "\t", line.strip(" \t\r\n"))
