"""The sections of a report, in the order in which they usually stand. A section is a module and a row here."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from culvix.report.context import ReportContext
from culvix.report.parts import Part
from culvix.report.sections.columns import columns
from culvix.report.sections.decisions import decisions
from culvix.report.sections.groups import groups
from culvix.report.sections.methods import methods
from culvix.report.sections.open_work import open_work
from culvix.report.sections.quality import quality
from culvix.report.sections.relations import relations
from culvix.report.sections.settings import settings
from culvix.report.sections.source import source
from culvix.report.sections.summary import summary
from culvix.report.sections.whole import whole
from culvix.study.document.choices.report_layout import SectionChoice

__all__ = ["SECTIONS", "USUAL_SECTIONS", "SectionRow"]


@dataclass(frozen=True)
class SectionRow:
    """A section: its key, its heading, and what makes its parts at a level of `LEVELS`."""

    key: str
    title: str
    make: Callable[[ReportContext, str], Iterator[Part]]


SECTIONS: dict[str, SectionRow] = {
    row.key: row
    for row in (
        SectionRow("summary", "In short", summary),
        SectionRow("source", "Where the data come from", source),
        SectionRow("whole", "The whole table", whole),
        SectionRow("quality", "Quality of the table", quality),
        SectionRow("decisions", "Outliers and decisions", decisions),
        SectionRow("columns", "Columns", columns),
        SectionRow("relations", "Relations", relations),
        SectionRow("groups", "Groups", groups),
        SectionRow("open", "Still open", open_work),
        SectionRow("methods", "Methods and conventions", methods),
        SectionRow("settings", "To compute this anew", settings),
    )
}

USUAL_SECTIONS = tuple(SectionChoice(key) for key in SECTIONS)
"""All of them, in short."""
