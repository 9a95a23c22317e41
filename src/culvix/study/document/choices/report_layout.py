"""How a study is reported: by whom and for whom, which sections and columns, how fully, and the analyst's own words."""

from dataclasses import dataclass, replace

from culvix.errors import StatisticsError

__all__ = ["COLUMN_CHOICES", "LEVELS", "USUAL_LAYOUT", "OwnText", "ReportLayout", "SectionChoice"]

LEVELS: dict[str, str] = {"line": "in a line", "short": "short", "full": "full"}
"""How much a section says."""

COLUMN_CHOICES: dict[str, str] = {
    "all": "all columns",
    "reviewed": "columns that were reviewed",
    "decided": "columns with decisions",
    "picked": "picked columns",
}
"""Which columns have a sheet of their own."""

_LONGEST = 20_000


@dataclass(frozen=True)
class SectionChoice:
    """Whether the section ``key`` is in the report, and how fully. Raises StatisticsError for an unknown level."""

    key: str
    level: str = "short"
    shown: bool = True

    def __post_init__(self) -> None:
        if self.level not in LEVELS:
            raise StatisticsError(f"A section is written {', '.join(LEVELS)}, not {self.level[:40]!r}.")


@dataclass(frozen=True)
class OwnText:
    """Paragraphs of the analyst's own, at the end of the section ``after``, or before all where it is empty."""

    after: str
    text: str

    def __post_init__(self) -> None:
        if len(self.text) > _LONGEST:
            raise StatisticsError("A text in a report has at most 20 000 characters.")


@dataclass(frozen=True)
class ReportLayout:
    """What stands in the report, and in which order.

    ``title`` is empty for the name of the study; ``date`` for the day it is written. ``sections`` are those about which
    something was chosen, in the order of the report; those that are not among them follow as they usually do.
    ``summary`` are the sentences of the first page as the analyst put them, empty where they are made from the study.
    """

    title: str = ""
    author: str = ""
    addressee: str = ""
    date: str = ""
    columns: str = "all"
    picked: tuple[str, ...] = ()
    sections: tuple[SectionChoice, ...] = ()
    texts: tuple[OwnText, ...] = ()
    summary: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.columns not in COLUMN_CHOICES:
            raise StatisticsError(f"Columns of a report are {', '.join(COLUMN_CHOICES)}, not {self.columns[:40]!r}.")

    def ordered(self, usual: tuple[SectionChoice, ...]) -> tuple[SectionChoice, ...]:
        """All sections of ``usual`` as chosen here, those first about which something was chosen, in that order."""
        known = {each.key for each in usual}
        chosen = tuple(each for each in self.sections if each.key in known)
        keys = {each.key for each in chosen}
        return (*chosen, *(each for each in usual if each.key not in keys))

    def text_after(self, section: str) -> str:
        """The analyst's own words at the end of ``section``."""
        return next((each.text for each in self.texts if each.after == section), "")

    def with_text(self, section: str, text: str) -> "ReportLayout":
        """The same layout with other words of the analyst's at the end of ``section``."""
        others = tuple(each for each in self.texts if each.after != section)
        return replace(self, texts=(*others, OwnText(section, text)) if text.strip() else others)


USUAL_LAYOUT = ReportLayout()
"""The report of a study of which nothing is chosen."""
