"""Of a sample: the figures of the whole table that it was drawn from, beside those of the rows in hand."""

from collections.abc import Iterator
from math import sqrt

from culvix.report.context import ReportContext, number_figure, whole_figure
from culvix.report.parts import Cell, Figure, Head, Paragraph, Part, TableBlock
from culvix.stats.display import count, per_cent, significant
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.whole.column_figures import ColumnOfWhole, NumbersOfWhole
from culvix.study.whole.survey import WholeSurvey

__all__ = ["whole"]

_HEADS = ("n", "Mean", "SD", "Median", "Mean of sample", "Error", "Beyond 1.5 IQR", "Beyond 3 SD")


def whole(context: ReportContext, level: str) -> Iterator[Part]:
    """What the engine counted of the whole; nothing where the table is no sample of one."""
    found = context.whole
    if found is None:
        return
    rows = context.workspace.table.rows
    yield Paragraph(
        (
            "The rows of this report are a sample of ",
            whole_figure("whole/rows", found.rows),
            f" rows of {found.title} at {found.address}: {count(rows)} of them. Figures of the whole were computed by "
            "the engine that holds it; pictures, tests, robust figures and decisions are of the sample.",
        )
    )
    if level != "line":
        yield _figures(context, found)


def _figures(context: ReportContext, found: WholeSurvey) -> TableBlock:
    rows = []
    for column in context.columns:
        of_whole = found.of(column.name)
        if of_whole is not None and of_whole.numbers is not None:
            rows.append(_row(of_whole, of_whole.numbers, context.analysis(column.name)))
    caption = "Error: of the sample's mean, from the standard deviation of the whole."
    return TableBlock(
        "Figures of the whole", (Head("Column"), *(Head(name, True) for name in _HEADS)), tuple(rows), caption
    )


def _row(column: ColumnOfWhole, numbers: NumbersOfWhole, analysis: ColumnAnalysis) -> tuple[Cell, ...]:
    key, style, moments = f"whole/{column.column.name}", analysis.style, numbers.moments
    mean, sd = (None, None) if moments is None else (moments.mean, moments.sd)
    n = analysis.description.n
    error = None if sd is None or not n else sd / sqrt(n)
    beyond = {each.method: each.count for each in numbers.beyond}
    shares = [
        Figure(
            f"{key}/beyond/{method}",
            beyond.get(method),
            f"{count(beyond[method])} ({per_cent(beyond[method] / column.n, 2)})" if method in beyond else "—",
        )
        for method in ("iqr", "z")
    ]
    return (
        (column.column.name,),
        (whole_figure(f"{key}/n", column.n),),
        (number_figure(f"{key}/mean", mean, style),),
        (number_figure(f"{key}/sd", sd, style),),
        (number_figure(f"{key}/median", numbers.quantiles.get(50), style),),
        (number_figure(f"{key}/mean of sample", analysis.description.mean, style),),
        (Figure(f"{key}/error", error, f"± {significant(error, 2)}"),),
        *((share,) for share in shares),
    )
