"""What the sections of a report are made from: a workspace, the layout, and what several of them ask for, once each."""

from collections.abc import Callable, Container
from dataclasses import dataclass
from typing import TypeVar

from culvix.caching import cached_property
from culvix.errors import CulvixError
from culvix.progress import Progress, silent
from culvix.report.parts import Figure, Paragraph, PictureBlock
from culvix.stats.display import NumberStyle, coefficient, count, per_cent, signed
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.findings.findings import Finding
from culvix.study.analysis.findings.missing_links import MissingLinks, missing_links
from culvix.study.analysis.findings.open_questions import OpenQuestion, open_questions
from culvix.study.analysis.findings.table_findings import with_discrepancies
from culvix.study.analysis.outliers.impact import Figures, figures_of
from culvix.study.analysis.survey.survey import Quality, quality
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.choices.report_layout import ReportLayout
from culvix.study.document.kept_comparison import KeptComparison
from culvix.study.groups.comparison.compared_column import ComparedColumn
from culvix.study.groups.comparison.kept_comparisons import compare_kept
from culvix.study.relations.finding import RelationFinding
from culvix.study.relations.ranking import RANKING, Relations, rank_pairs
from culvix.study.relations.relation_findings import findings_of_table
from culvix.study.whole.samples import whole_of
from culvix.study.whole.survey import WholeSurvey
from culvix.tables.checks.table_checks import TableFinding
from culvix.tables.model.table import Column, Role

__all__ = [
    "Remembered",
    "ReportContext",
    "coefficient_figure",
    "number_figure",
    "share_figure",
    "signed_figure",
    "whole_figure",
]


T = TypeVar("T")

_WITH_BARS = (Role.CATEGORY, Role.DATE, Role.TEXT)
"""Roles of columns without numbers that have a sheet; names of rows have none."""
_MOST_RANKED = 60
"""Of more numeric columns, pairs are ranked by the first kind of `RANKING` alone."""


def whole_figure(key: str, value: int) -> Figure:
    """A count."""
    return Figure(key, value, count(value))


def share_figure(key: str, part: int, whole: int, decimals: int = 1) -> Figure:
    """A share in per cent."""
    share = part / whole if whole else 0.0
    return Figure(key, share, per_cent(share, decimals))


def number_figure(key: str, value: float | int | None, style: NumberStyle) -> Figure:
    """A statistic in the unit of its column."""
    return Figure(key, value, style.statistic(value))


def signed_figure(key: str, value: float | None, decimals: int) -> Figure:
    """A number about zero."""
    return Figure(key, value, signed(value, decimals))


def coefficient_figure(key: str, value: float | None, decimals: int = 3) -> Figure:
    """A coefficient from −1 to 1; what falls short of ±1 is not shown as ±1."""
    return Figure(key, value, coefficient(value, decimals))


@dataclass(frozen=True, eq=False)
class Difference:
    """What decisions made of a column: its figures as imported and as decided."""

    column: Column
    style: NumberStyle
    before: Figures
    after: Figures

    @property
    def shift(self) -> float:
        """How far the mean moved, in SDs of the values as imported."""
        if self.before.mean is None or self.after.mean is None or not self.before.sd:
            return 0.0
        return abs(self.after.mean - self.before.mean) / self.before.sd


class Remembered:
    """What takes long to work out for a report, kept for the next one while nothing of it changed."""

    def __init__(self) -> None:
        self._known: dict[str, tuple[tuple[object, ...], object]] = {}

    def get(self, name: str, of: tuple[object, ...], make: Callable[[], T]) -> T:
        """What ``make`` makes of the objects ``of``; the same objects are not asked twice."""
        known = self._known.get(name)
        if known is None or any(old is not new for old, new in zip(known[0], of, strict=True)):
            known = self._known[name] = of, make()
        return known[1]  # type: ignore[return-value]


class ReportContext:
    """A workspace to be written up by ``layout``; what is asked for is worked out once.

    ``pictured`` hears of each picture when it is made, long before it is needed.
    """

    def __init__(
        self,
        workspace: Workspace,
        layout: ReportLayout,
        progress: Progress = silent,
        pictured: Callable[[PictureBlock], None] = lambda block: None,
        remembered: Remembered | None = None,
    ) -> None:
        self.workspace, self.layout, self.progress, self.pictured = workspace, layout, progress, pictured
        self.remembered = remembered or Remembered()
        self._analyses: dict[str, ColumnAnalysis] = {}

    def analysis(self, name: str) -> ColumnAnalysis:
        """That of a numeric column."""
        if name not in self._analyses:
            many = max(len(self.workspace.table.numeric), 1)
            self.progress(0.5 * len(self._analyses) / many, f"analysing {name}")
            self._analyses[name] = self.workspace.analysis(name)
        return self._analyses[name]

    @cached_property
    def analyses(self) -> dict[str, ColumnAnalysis]:
        """Of every numeric column, by name."""
        return {column.name: self.analysis(column.name) for column in self.workspace.table.numeric}

    def open_of(self, column: str) -> list[Finding]:
        """What was found of ``column`` and not settled."""
        return [each for each in self.analysis(column).findings(self.workspace.working) if not each.resolved]

    @cached_property
    def columns(self) -> list[Column]:
        """The numeric columns that have a sheet."""
        return [column for column in self.sheets if column.is_numeric]

    @cached_property
    def sheets(self) -> list[Column]:
        """The columns that have a sheet, in the order of the table."""
        document = self.workspace.document
        decided = {name for decision in document.decisions for name in decision.columns}
        chosen = {
            "all": None,
            "reviewed": set(document.reviewed),
            "decided": decided,
            "picked": set(self.layout.picked),
        }[self.layout.columns]
        every = [column for column in self.workspace.table if column.is_numeric or column.role in _WITH_BARS]
        return [column for column in every if chosen is None or column.name in chosen]

    @cached_property
    def quality(self) -> Quality:
        table = self.workspace.table
        return self.remembered.get(
            "quality",
            (table,),
            lambda: quality(table, lambda share, doing: self.progress(0.5 + share / 10, doing)),
        )

    @cached_property
    def missing_links(self) -> MissingLinks:
        """Whether gaps go with the values of other columns."""
        table = self.workspace.table
        return self.remembered.get("missing links", (table,), lambda: missing_links(table, self._silently))

    def _silently(self, share: float, doing: str) -> None:
        """Hear of a step that is too short to be told of, but not too short to be cancelled at."""
        self.progress(0.5, "asking which cells are missing")

    @cached_property
    def about_table(self) -> list[TableFinding]:
        """What there is to settle about the table as a whole, and was not."""
        found = with_discrepancies(self.workspace.document, self.quality.findings)
        return [each for each in found if each.key not in self.workspace.document.noted]

    @cached_property
    def questions(self) -> list[OpenQuestion]:
        """Open questions about columns, worst first."""
        return open_questions(self.workspace, analyses=self.analyses)

    def resolved(self, column: str) -> list[Finding]:
        """What was found of ``column`` and settled."""
        return [each for each in self.analysis(column).findings(self.workspace.working) if each.resolved]

    @cached_property
    def relations(self) -> Relations | str:
        """All pairs of numeric columns, or why there are none."""
        return self.remembered.get("relations", (self.workspace.working,), self._ranked)

    def _ranked(self) -> Relations | str:
        columns = [column for column in self.workspace.table.numeric if column.is_data]
        values = [self.workspace.working.sample(column).values for column in columns]
        # Ranks of many columns take long; of the pairs that are shown the other coefficients are worked out besides.
        kinds = RANKING if len(columns) <= _MOST_RANKED else RANKING[:1]
        try:
            return rank_pairs(
                [column.name for column in columns],
                values,
                lambda share, doing: self.progress(0.6 + 0.2 * share, doing),
                kinds=kinds,
            )
        except CulvixError as error:
            return error.sentence

    @cached_property
    def comparisons(self) -> tuple[tuple[KeptComparison, ComparedColumn | str], ...]:
        """The comparisons of groups that were kept, and what came of each."""
        workspace, comparisons = self.workspace, self.workspace.document.comparisons
        return self.remembered.get(
            "comparisons",
            (workspace.working, workspace.settings, comparisons),
            lambda: compare_kept(workspace, lambda share, doing: self.progress(0.5 + 0.1 * share, doing)),
        )

    @cached_property
    def whole(self) -> WholeSurvey | None:
        """The survey of the whole table that this one is a sample of; None where it is none."""
        path = self.workspace.table.source.path
        return self.remembered.get("whole", (path,), lambda: whole_of(path))

    @cached_property
    def relation_findings(self) -> tuple[RelationFinding, ...]:
        """What to be careful of in the relations."""
        table, working = self.workspace.table, self.workspace.working
        return self.remembered.get(
            "relation findings", (working,), lambda: findings_of_table(table, working, self._silently)
        )

    @cached_property
    def differences(self) -> list[Difference]:
        """What decisions changed, by column, those first whose mean moved farthest."""
        found = []
        for column in self.workspace.table.numeric:
            if not self.workspace.working.changes(column.name):
                continue
            analysis, settings = self.analyses[column.name], self.workspace.settings
            test = settings.verdict_test_at(analysis.sample.n).key
            samples = (column.sample, analysis.sample)
            before, after = (figures_of(sample, settings.trim, test) for sample in samples)
            found.append(Difference(column, analysis.style, before, after))
        return sorted(found, key=lambda each: -each.shift)

    def compute_ahead(self, sections: Container[str]) -> None:
        """Work out what ``sections`` ask of the whole table; may be done while columns are analysed."""
        if "summary" in sections or "quality" in sections:
            self.quality  # noqa: B018 it is kept
        if "quality" in sections:
            self.missing_links  # noqa: B018
        if "summary" in sections or "relations" in sections:
            self.relations  # noqa: B018
        if "relations" in sections:
            self.relation_findings  # noqa: B018

    def own_words(self, key: str) -> list[Paragraph]:
        """The analyst's own paragraphs at the end of a section or sheet, an empty line between them."""
        text = self.layout.text_after(key)
        return [Paragraph((each.strip(),), "own") for each in text.split("\n\n") if each.strip()]
