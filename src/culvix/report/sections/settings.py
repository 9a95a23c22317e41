"""What this report can be computed anew from: the source's checksum, the conventions in force, and the versions."""

import platform
from collections.abc import Iterator

import numpy
import scipy

from culvix.report.context import ReportContext
from culvix.report.parts import Numbers, Part, Text
from culvix.version import VERSION

__all__ = ["settings"]


def settings(context: ReportContext, level: str) -> Iterator[Part]:
    """Checksum and versions; every convention in full."""
    source = context.workspace.table.source
    lines: list[tuple[str, Text]] = [
        ("Source", (source.name,)),
        ("SHA-256 of the source", (source.sha256,)),
        ("Culvix", (VERSION,)),
    ]
    if level != "line":
        versions = f"Python {platform.python_version()}, NumPy {numpy.__version__}, SciPy {scipy.__version__}"
        lines.append(("Computed by", (versions,)))
    if level == "full":
        lines += [(name, (text,)) for name, text in context.workspace.settings.stated()]
    yield Numbers(tuple(lines))
