"""The survey: every column in one line of statistics, and the quality of the table as a whole."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from html import escape
from types import MappingProxyType

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.display import DASH, correlation, count, per_cent
from culvix.stats.registry import STATISTICS
from culvix.stats.registry.statistics import Statistic
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.findings.findings import finding_name
from culvix.study.analysis.workspace import Workspace
from culvix.tables.checks.table_checks import TableFinding, check_table
from culvix.tables.model.table import Column, Role, Table

__all__ = [
    "Quality",
    "SurveyField",
    "SurveyRow",
    "as_html",
    "as_text",
    "default_fields",
    "quality",
    "survey_fields",
    "survey_rows",
]


@dataclass(frozen=True, eq=False)
class SurveyRow:
    """One column with its analysis, None for one without numbers or not yet worked out, and its open findings."""

    column: Column
    analysis: ColumnAnalysis | None
    findings: tuple[str, ...] = ()
    """What each open finding is about."""

    grave: int = 0
    """How many of them are probably errors."""

    reviewed: bool = False
    distinct: int | None = None
    """Different values of a column without analysis, None while they are not counted."""

    def same_as(self, other: "SurveyRow") -> bool:
        """Whether everything a line says is the same."""
        same = self.column is other.column and self.analysis is other.analysis
        facts = (self.findings, self.grave, self.reviewed, self.distinct)
        return same and facts == (other.findings, other.grave, other.reviewed, other.distinct)

    @property
    def open_findings(self) -> int:
        return len(self.findings)

    @property
    def cells(self) -> int:
        return self.column.rows


Raw = float | int | str | None


@dataclass(frozen=True)
class SurveyField:
    """One statistic of the survey: its exact value, by which lines are sorted, and how that is shown.

    ``position`` is where it stands among those shown unasked, None for one shown on request; ``brief`` what a column's
    own summary calls it, empty where it has no place there; ``title`` its name in full, empty for ``name``.
    ``signed``: its numbers lie about zero.
    """

    key: str
    name: str
    raw: Callable[[SurveyRow], Raw]
    shown: Callable[[SurveyRow, Raw], str]
    numeric: bool = True
    position: int | None = None
    brief: str = ""
    title: str = ""
    signed: bool = False

    @property
    def whole_name(self) -> str:
        return self.title or self.name


def _plain(_: SurveyRow, value: Raw) -> str:
    return DASH if value is None else str(value)


def _whole(_: SurveyRow, value: Raw) -> str:
    return DASH if value is None else count(int(value))


def _share(_: SurveyRow, value: Raw) -> str:
    return DASH if value is None else per_cent(float(value), 1)


def _straight(_: SurveyRow, value: Raw) -> str:
    return DASH if value is None else correlation(float(value))


def _words_of(statistic: Statistic) -> Callable[[SurveyRow, Raw], str]:
    def words(row: SurveyRow, value: Raw) -> str:
        if row.analysis is None or isinstance(value, str):
            return DASH
        return statistic.words(value, row.analysis.style)

    return words


def _figure_of(key: str) -> Callable[[SurveyRow], Raw]:
    return lambda row: row.analysis.figures[key] if row.analysis else None


def _verdict(row: SurveyRow) -> Raw:
    if row.analysis is None:
        return None
    return {True: "no", False: "not ruled out", None: DASH}[row.analysis.verdict.rejects]


def _straightness(row: SurveyRow) -> Raw:
    return row.analysis.verdict.qq_correlation if row.analysis else None


def _distinct(row: SurveyRow) -> Raw:
    return row.analysis.description.distinct if row.analysis else row.distinct


def _flags(row: SurveyRow) -> Raw:
    return int(row.analysis.flags.rows.size) if row.analysis else None


def _zeros(row: SurveyRow) -> Raw:
    described = row.analysis.description if row.analysis else None
    return described.zeros / described.n if described and described.n else None


def _n(row: SurveyRow) -> Raw:
    return row.analysis.description.n if row.analysis else row.cells - row.column.missing - row.column.unread


_FACTS = (
    SurveyField("role", "role", lambda row: str(row.column.role), _plain, numeric=False, position=0),
    SurveyField("unit", "unit", lambda row: row.column.unit, _plain, numeric=False),
    SurveyField("n", "n", _n, _whole, position=2, brief="n"),
    SurveyField(
        "missing_share",
        "missing",
        lambda row: row.column.missing / max(row.cells, 1),
        _share,
        position=3,
        title="missing, share",
    ),
    SurveyField("missing", "missing cells", lambda row: row.column.missing, _whole, brief="missing"),
    SurveyField("unread", "unread", lambda row: row.column.unread, _whole, position=4, brief="unread"),
    SurveyField("zeros_share", "zeros", _zeros, _share, position=5, title="zeros, share"),
    SurveyField("distinct", "distinct", _distinct, _whole, position=6, brief="distinct"),
    SurveyField("verdict", "normal?", _verdict, _plain, numeric=False, position=15, title="normality"),
    SurveyField("qq_correlation", "Q-Q r", _straightness, _straight, brief="Q-Q r", title="Q-Q correlation"),
    SurveyField("flags", "flags", _flags, _whole, position=14, title="flagged values"),
    SurveyField(
        "findings",
        "open",
        lambda row: row.open_findings if row.analysis else None,
        _whole,
        position=1,
        title="open findings",
    ),
    SurveyField("reviewed", "reviewed", lambda row: "✓" if row.reviewed else "", _plain, numeric=False),
)
"""What is known of a column, whether it has numbers or not."""


def survey_fields() -> Mapping[str, SurveyField]:
    """Every figure of the registry, and what is known of a column besides, by key."""
    return _with_figures(tuple(STATISTICS.values()))


@cache
def _with_figures(statistics: tuple[Statistic, ...]) -> Mapping[str, SurveyField]:
    facts = {field.key: field for field in _FACTS}
    figures = {
        row.key: SurveyField(
            *(row.key, row.survey_name, _figure_of(row.key), _words_of(row)),
            position=row.survey,
            brief=row.summary_name,
            title=row.name,
            signed=row.scale == "signed",
        )
        for row in statistics
        if row.key not in facts
    }
    return MappingProxyType(facts | figures)


def default_fields() -> tuple[str, ...]:
    """The keys of what a survey shows unasked, in order."""
    placed = [(field.position, field.key) for field in survey_fields().values() if field.position is not None]
    return tuple(key for _, key in sorted(placed))


def survey_rows(workspace: Workspace) -> list[SurveyRow]:
    """A line for each column, with what has been worked out so far."""
    rows = []
    for column in workspace.table:
        analysis = workspace.known_analysis(column.name) if column.is_numeric else None
        found = analysis.findings(workspace.working) if analysis else ()
        unresolved = [finding for finding in found if not finding.resolved]
        rows.append(
            SurveyRow(
                *(column, analysis, tuple(finding_name(finding.kind) for finding in unresolved)),
                grave=sum(finding.grave for finding in unresolved),
                reviewed=column.name in workspace.document.reviewed,
                distinct=column.known_distinct,
            )
        )
    return rows


@dataclass(frozen=True)
class Quality:
    """The table as a whole. ``missing`` counts empty and unread cells; ``complete`` rows have a usable cell everywhere.

    ``costliest`` names the columns whose gaps a listwise deletion would pay for most, with the rows each alone costs.
    """

    rows: int
    roles: tuple[tuple[Role, int], ...]
    cells: int
    missing: int
    unread: int
    complete: int
    repeated: int
    costliest: tuple[tuple[str, int], ...]
    findings: tuple[TableFinding, ...]

    def sentences(self, in_use: int) -> list[str]:
        """The quality in words, where ``in_use`` rows are not excluded."""
        roles = ", ".join(f"{count(number)} {role.named(number)}" for role, number in self.roles)
        sentences = [f"{count(self.rows)} rows, {count(in_use)} in use; columns: {roles}."]
        if self.missing or self.unread:
            share = per_cent((self.missing + self.unread) / max(self.cells, 1), 2)
            sentences.append(f"{count(self.missing)} cells missing and {count(self.unread)} unread, {share} of all.")
        else:
            sentences.append("Every cell is present and read.")
        lost = self.rows - self.complete
        if lost:
            by = "; ".join(f"{name} alone costs {count(rows)}" for name, rows in self.costliest)
            sentences.append(
                f"{count(self.complete)} rows are complete: leaving out the others would cost "
                f"{count(lost)} rows, {per_cent(lost / max(self.rows, 1), 1)}{f' ({by})' if by else ''}."
            )
        else:
            sentences.append("All rows are complete.")
        return sentences


def quality(table: Table, progress: Progress = silent) -> Quality:
    """Judge ``table`` as a whole; columns worked out do not count."""
    table = table.as_read
    roles: dict[Role, int] = {}
    for column in table:
        roles[column.role] = roles.get(column.role, 0) + 1
    gaps = {column.name: table.rows - int(np.count_nonzero(column.present)) for column in table}
    costliest = sorted(((name, rows) for name, rows in gaps.items() if rows), key=lambda gap: -gap[1])[:3]
    return Quality(
        rows=table.rows,
        roles=tuple(roles.items()),
        cells=table.rows * len(table.columns),
        missing=sum(column.missing for column in table),
        unread=sum(column.unread for column in table),
        complete=table.complete_rows,
        repeated=int(table.repeated_rows.size),
        costliest=tuple(costliest),
        findings=tuple(check_table(table, progress=progress)),
    )


def _exact(row: SurveyRow, field: SurveyField) -> str:
    value = field.raw(row)
    return "" if value is None else repr(value) if isinstance(value, float) else str(value)


def _table(rows: Iterable[SurveyRow], fields: Sequence[str]) -> list[list[str]]:
    chosen = [survey_fields()[key] for key in fields]
    lines = [["column", *(field.name for field in chosen)]]
    return [*lines, *([row.column.name, *(_exact(row, field) for field in chosen)] for row in rows)]


def as_text(rows: Iterable[SurveyRow], fields: Sequence[str]) -> str:
    """The survey in full precision, its cells between tabs."""
    clean = str.maketrans("\t\r\n", "   ")
    return "\n".join("\t".join(cell.translate(clean) for cell in line) for line in _table(rows, fields)) + "\n"


def as_html(rows: Iterable[SurveyRow], fields: Sequence[str]) -> str:
    """The same as a table in HTML."""
    head, *body = _table(rows, fields)
    top = "".join(f"<th>{escape(cell)}</th>" for cell in head)
    lines = "".join("<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in line) + "</tr>" for line in body)
    return f"<table><thead><tr>{top}</tr></thead><tbody>{lines}</tbody></table>"
