"""Parts of the margin that not every pair has: its groups, and how far both columns agree."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout

from culvix.app.widgets.parts import label, plain_tip, row_of, shortened
from culvix.stats.association.agreement import Concordance, LimitsOfAgreement
from culvix.stats.display import coefficients, count, p_value, per_cent, significant
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.relations.pair_groups import PairGroups

__all__ = ["agreement_section", "groups_section"]

_MOST_NAMED = 12
_LEFT, _RIGHT = Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight
_TIED = "\u00a0"
"""Between a letter and its number, which stay on one line."""


def groups_section(body: QVBoxLayout, groups: PairGroups) -> None:
    """The coefficients of each group, the largest first, and that within all of them."""
    body.addWidget(label(f"By {shortened(groups.by, 28)}", "head"))
    table = QGridLayout()
    table.setHorizontalSpacing(10)
    table.setVerticalSpacing(1)
    kinds = list(groups.groups[0].coefficients) if groups.groups else []
    for column, head in enumerate(("", *(CORRELATION_KINDS[key].symbol for key in kinds), "slope", "n")):
        table.addWidget(label(head, "quiet"), 0, column, _RIGHT if column else _LEFT)
    for row, group in enumerate(groups.groups[:_MOST_NAMED], start=1):
        shown = coefficients(*(group.coefficients[key].r for key in kinds))
        slope = "—" if group.line is None else significant(group.line.slope, 3)
        name = label(shortened(group.name, 14))
        notes = [each.note or p_value(each.p) for each in group.coefficients.values()]
        name.setToolTip(plain_tip("\n".join((group.name, *notes))))
        for column, cell in enumerate((name, *map(label, shown), label(slope), label(count(group.n)))):
            table.addWidget(cell, row, column, _RIGHT if column else _LEFT)
    table.setColumnStretch(0, 1)
    body.addLayout(table)
    more = len(groups.groups) - _MOST_NAMED
    if more > 0:
        body.addWidget(label(f"and {count(more)} smaller ones", "quiet"))
    within = groups.within
    if within.r is not None:
        text = f"within all of them, means taken out: r{_TIED}{coefficients(within.r)[0]}, n {count(within.n)}"
        body.addWidget(label(text, "quiet", wrap=True))
    body.addSpacing(6)


def agreement_section(body: QVBoxLayout, limits: LimitsOfAgreement, found: Concordance, unit: str | None) -> None:
    """Bias, limits of agreement and concordance of two columns that measure the same."""
    body.addWidget(label("Agreement", "head"))
    shown = f" {unit}" if unit else ""
    low, high = (significant(end) for end in limits.limits)
    bias = label(f"{significant(limits.bias)}{shown}", "head")
    body.addLayout(row_of(label("bias, second less first"), 1, bias))
    body.addWidget(label(f"{per_cent(limits.within, 0)} limits: {low} to {high}{shown}", wrap=True))
    trend = limits.trend
    if trend.r is not None:
        text = f"differences with the mean of both: r{_TIED}{coefficients(trend.r)[0]}, {p_value(trend.p)}"
        body.addWidget(label(text, "quiet", wrap=True))
    body.addLayout(row_of(label("concordance ρc"), 1, label(coefficients(found.value)[0], "head")))
    if found.interval is not None:
        ends = " to ".join(coefficients(*found.interval))
        parts = f"{ends}; r{_TIED}{coefficients(found.precision)[0]} × accuracy{_TIED}{coefficients(found.accuracy)[0]}"
        body.addWidget(label(parts, "quiet", wrap=True))
    body.addSpacing(6)
