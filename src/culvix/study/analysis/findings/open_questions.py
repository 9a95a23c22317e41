"""All questions of a study that are open, in one order: worst first, or as the columns stand."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.findings.findings import Finding, finding_name
from culvix.study.analysis.workspace import Workspace

__all__ = ["ORDERS", "OpenQuestion", "open_questions"]

ORDERS: dict[str, str] = {"worst": "worst first", "column": "by column", "kind": "by kind"}
"""In which orders questions are listed."""


@dataclass(frozen=True, eq=False)
class OpenQuestion:
    """A finding about a column that is not settled; ``position`` is the column's place in the table."""

    finding: Finding
    position: int

    @property
    def key(self) -> tuple[str, str, bytes]:
        """What it is about: the same question, asked again after some other act, has the same key."""
        return self.finding.column, self.finding.kind, self.finding.rows.tobytes()

    @property
    def about(self) -> str:
        """What it is about, in a few words."""
        return finding_name(self.finding.kind)


def open_questions(
    workspace: Workspace, order: str = "worst", *, analyses: Mapping[str, ColumnAnalysis] | None = None
) -> list[OpenQuestion]:
    """What is open about the columns in ``analyses``, by default those that are known just now, in one of `ORDERS`.

    The worst are those that are probably errors, and of these the ones about most rows.
    """
    known = workspace.known_analysis if analyses is None else analyses.get
    found = [
        OpenQuestion(finding, position)
        for position, column in enumerate(workspace.table)
        for finding in _open_of(workspace, known(column.name))
    ]
    if order == "kind":
        return sorted(found, key=lambda each: (not each.finding.grave, each.about, each.position))
    if order == "column":
        return sorted(found, key=lambda each: (each.position, not each.finding.grave))
    return sorted(found, key=lambda each: (not each.finding.grave, -each.finding.rows.size, each.position))


def _open_of(workspace: Workspace, analysis: ColumnAnalysis | None) -> Iterable[Finding]:
    if analysis is None:
        return ()
    return (finding for finding in analysis.findings(workspace.working) if not finding.resolved)
