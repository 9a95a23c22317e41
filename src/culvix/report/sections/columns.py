"""A sheet for each column: its lanes, its figures, what is to be thought of its shape, and what was found."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from culvix.report.context import ReportContext, number_figure, whole_figure
from culvix.report.parts import (
    Figure,
    Head,
    Numbers,
    Paragraph,
    Part,
    PictureBlock,
    Sheet,
    TableBlock,
    Text,
    sheet_place,
)
from culvix.report.sections.bars import code_bars, sheet_of_bars
from culvix.stats.display import number, p_value, signed, significant
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.registry import NORMALITY_TESTS, OUTLIER_METHODS, STATISTICS, Statistic
from culvix.stats.shape.transform import SCALE_NAMES
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.outliers.chance_flags import chance_flags, few_digits
from culvix.study.pictures.column_pictures import shape_picture, without_rows
from culvix.study.pictures.spans import test_text
from culvix.study.whole.conditions import column_of_whole
from culvix.tables.model.table import Role

__all__ = ["columns"]

_MOST_PICTURES = 400
_QQ_POINTS = 300
_MOST_MARKS = 160
_NOTHING = np.zeros(0, dtype=np.int64)
_LANES_IN_SHORT = ("histogram", "box")
_IN_SHORT = ("n", "mean", "sd", "median", "iqr", "min", "max", "skewness", "excess_kurtosis")
"""Figures of a short sheet, besides what is missing."""


def columns(context: ReportContext, level: str) -> Iterator[Part]:
    """One line a column in a table, or one sheet each."""
    if level == "line":
        yield _lines(context)
        return
    if not context.sheets:
        yield Paragraph(("No column was chosen for this report.",))
    for position, column in enumerate(context.sheets):
        if column.is_numeric:
            yield _sheet(context, context.analysis(column.name), level, position < _MOST_PICTURES)
        else:
            yield sheet_of_bars(context, column, level)


def _lines(context: ReportContext) -> TableBlock:
    keys = [key for key in _IN_SHORT if key in STATISTICS]
    heads = (Head("Column"), *(Head(STATISTICS[key].survey_name, True) for key in keys), Head("Open", True))
    open_of = {column.name: 0 for column in context.columns}
    for each in context.questions:
        if each.finding.column in open_of:
            open_of[each.finding.column] += 1
    rows: tuple[tuple[Text, ...], ...] = tuple(
        (
            (column.name,),
            *((_figure(STATISTICS[key], context.analyses[column.name]),) for key in keys),
            (whole_figure(f"column/{column.name}/open", open_of[column.name]),),
        )
        for column in context.columns
    )
    return TableBlock("Figures by column", heads, rows)


def _sheet(context: ReportContext, analysis: ColumnAnalysis, level: str, pictured: bool) -> Sheet:
    column = analysis.column
    sheet = Sheet(
        column.name, column.name, _beside(context, analysis), tuple(_parts(context, analysis, level, pictured))
    )
    return replace(sheet, parts=(*sheet.parts, *context.own_words(sheet_place(sheet))))


def _beside(context: ReportContext, analysis: ColumnAnalysis) -> str:
    column = analysis.column
    label = f"“{column.label}”" if column.label and column.label != column.name else ""
    reviewed = "" if column.name in context.workspace.document.reviewed else "not reviewed"
    return ", ".join(each for each in (label, str(column.role), column.unit or "", reviewed) if each)


def _parts(context: ReportContext, analysis: ColumnAnalysis, level: str, pictured: bool) -> Iterator[Part]:
    workspace, column = context.workspace, analysis.column
    if column.has_few_ranks and analysis.sample.n:
        yield from code_bars(context, analysis, level)
    elif pictured and analysis.sample.n and column.role is not Role.YES_NO:
        whole = None if context.whole is None else column_of_whole(context.whole, workspace, column.name)
        picture = shape_picture(analysis, workspace.working, _NOTHING, qq_points=_QQ_POINTS, whole=whole)
        sentence = picture.sentence
        # On half a page a few hundred marks look like thousands, and are drawn and opened sooner.
        picture = replace(picture, flagged=picture.flagged.fewer(_MOST_MARKS))
        lanes = _LANES_IN_SHORT if level == "short" else ()
        height = 52.0 if level == "short" else 100.0
        drawn = without_rows(picture) if lanes else picture
        block = PictureBlock(f"lanes/{column.name}", drawn, sentence, height=height, lanes=lanes)
        context.pictured(block)
        yield block
    yield Numbers(tuple(_numbers(analysis, full=level == "full")))
    yield Paragraph((analysis.verdict.sentence,), "verdict")
    for pick in workspace.picks_of(column.name):
        yield Paragraph((f"Line-up: {pick.sentence}",))
    if level == "full":
        yield from _tests(analysis)
        yield from _methods(context, analysis)
    for finding in context.open_of(column.name):
        yield Paragraph((finding.sentence,), "grave" if finding.grave else "open")
    for finding in context.resolved(column.name) if level == "full" else ():
        yield Paragraph((finding.sentence,), "settled")


def _figure(row: Statistic, analysis: ColumnAnalysis) -> Figure:
    """A figure as it stands in a sheet."""
    value = analysis.figures[row.key]
    return Figure(f"column/{analysis.column.name}/{row.key}", value, row.words(value, analysis.style))


def _numbers(analysis: ColumnAnalysis, *, full: bool) -> Iterator[tuple[str, Text]]:
    d, column = analysis.description, analysis.column
    key = f"column/{column.name}"
    gaps: Text = (whole_figure(f"{key}/missing", column.missing), ", ", whole_figure(f"{key}/unread", column.unread))
    if column.role is Role.YES_NO:
        yield "n", (whole_figure(f"{key}/n", d.n),)
        yield "missing, unread", gaps
        yield "share of 1", (Figure(f"{key}/mean", d.mean, number(d.mean, 3)),)
        return
    ranks = column.role is Role.ORDERED and not column.asks
    for row in sorted(STATISTICS.values(), key=lambda row: row.report or 0):
        if row.report is None or (ranks and not row.of_ranks) or not (full or row.key in _IN_SHORT):
            continue
        figure = _figure(row, analysis)
        yield row.name, _with_error(row, analysis, figure) if full else (figure,)
        if row.interval is not None and full:
            yield _interval(row, analysis)
        if row.key == "n":
            yield "missing, unread", gaps


def _with_error(row: Statistic, analysis: ColumnAnalysis, figure: Figure) -> Text:
    if row.error is None:
        return (figure,)
    error = getattr(analysis.description, row.error)
    return (figure, " (SE ", Figure(f"{figure.key}/se", error, number(error)), ")")


def _interval(row: Statistic, analysis: ColumnAnalysis) -> tuple[str, Text]:
    level = f"{100 * analysis.request.settings.confidence:g} %"
    name, ends = f"{level} interval of the {row.name}", getattr(analysis.description, row.interval or "")
    if not ends:
        return name, (number(None),)
    return name, _from_to(analysis, f"column/{analysis.column.name}/{row.interval}", *ends)


def _from_to(analysis: ColumnAnalysis, key: str, low: float, high: float) -> Text:
    """Two ends in the unit of the column."""
    return (
        number_figure(f"{key}/low", low, analysis.style),
        " to ",
        number_figure(f"{key}/high", high, analysis.style),
    )


def _tests(analysis: ColumnAnalysis) -> Iterator[Part]:
    column = analysis.column
    if column.role in (Role.YES_NO, Role.ORDERED):
        return
    rows: list[tuple[Text, ...]] = []
    for key, result in analysis.normality.items():
        name, at = NORMALITY_TESTS[key].name, f"column/{column.name}/normality/{key}"
        if result.statistic is None:
            rows.append(((name,), (number(None),), (number(None),), (number(None),), (result.note or "",)))
            continue
        also = "; ".join(f"{part} z {signed(z)}, {p_value(p)}" for part, (z, p) in result.parts.items())
        statistic = Figure(f"{at}/statistic", result.statistic, significant(result.statistic))
        p = Figure(f"{at}/p", result.p, p_value(result.p))
        rows.append(((name,), (f"{result.symbol} = ", statistic), (p,), (whole_figure(f"{at}/n", result.n),), (also,)))
    heads = (Head("Test of normality"), Head("Statistic", True), Head("p", True), Head("n", True), Head("Also"))
    yield TableBlock(f"Tests of {column.name}", heads, tuple(rows), wide=(4,))


def _methods(context: ReportContext, analysis: ColumnAnalysis) -> Iterator[Part]:
    """Every outlier method that could be applied, those whose flags count marked with a star."""
    column = analysis.column
    if column.role is Role.YES_NO:
        return
    rows = []
    for key, result in context.workspace.deferred(column.name).outliers.items():
        counted = key in analysis.flags.results
        if not (result.applies or counted):
            continue
        name = OUTLIER_METHODS[key].name + (" *" if counted else "")
        for group, found in result.groups.items():
            if found.lower is not None and found.upper is not None:
                rows.append(_method(context, analysis, key, f"{name}, {group}", found, f"/{group}"))
        if not result.groups:
            scale = result.settings.get("scale")
            name += f", on the scale {SCALE_NAMES[str(scale)]}" if scale else ""
            rows.append(_method(context, analysis, key, name, result, ""))
    if rows:
        heads = (Head("Outlier method"), Head("Accepts"), Head("Flags", True), Head("By chance", True), Head(""))
        caption = "* its flags count here. By chance: on average in a normal column of this n."
        yield TableBlock(f"Outlier methods on {column.name}", heads, tuple(rows), caption, wide=(4,))


def _method(
    context: ReportContext, analysis: ColumnAnalysis, key: str, name: str, found: OutlierResult, group: str
) -> tuple[Text, ...]:
    at = f"column/{analysis.column.name}/outliers/{key}{group}"
    accepts: Text = ("not applicable",)
    if found.lower is not None and found.upper is not None:
        accepts = _from_to(analysis, at, found.lower, found.upper)
    elif found.applies:
        accepts = (test_text(found, analysis.flag_basis),)
    chance: Text = ("",)
    if found.applies and key in analysis.flags.results:
        expected = chance_flags(key, found.n, context.workspace.settings, column=analysis.column.name)
        if expected is not None:
            chance = (Figure(f"{at}/by_chance", expected, few_digits(expected)),)
    return ((name,), accepts, (whole_figure(f"{at}/flags", int(found.rows.size)),), chance, (found.note or "",))
