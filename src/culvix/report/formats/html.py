"""The report as one self-contained HTML file: no script, no link to anything outside, pictures inline."""

from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import jinja2
import numpy as np
from markupsafe import Markup

from culvix.charts.palette import LIGHT
from culvix.errors import CulvixError
from culvix.guide import entries
from culvix.progress import Progress, silent
from culvix.stats.display import count, number, p_value, per_cent, plural, signed, significant
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.registry import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS, STATISTICS, Statistic
from culvix.stats.shape.transform import SCALE_NAMES
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.outliers.chance_flags import chance_flags, few_digits
from culvix.study.analysis.pair_analysis import analyse_pair
from culvix.study.analysis.relations import RANKING, coefficient_name, rank_pairs
from culvix.study.analysis.table_findings import with_discrepancies
from culvix.study.analysis.workspace import Workspace
from culvix.study.pictures.code_pictures import codes_picture
from culvix.study.pictures.column_pictures import ShapePicture, shape_picture
from culvix.study.pictures.pair_pictures import PairPicture, pair_picture
from culvix.study.pictures.spans import test_text
from culvix.tables.cells.cell_rules import RULES, rule_in_force
from culvix.tables.cells.missing_summary import missing_sentence
from culvix.tables.checks.table_checks import check_table
from culvix.tables.model.table import Column, Role, Table
from culvix.tables.model.text_mappings import CAUTION
from culvix.version import VERSION

__all__ = ["report_html"]

Draw = Callable[[ShapePicture | PairPicture], str]

_STRONGEST = 12
_MOST_PICTURES = 40
_QQ_POINTS = 300
_NOTHING = np.zeros(0, dtype=np.int64)


def report_html(workspace: Workspace, draw: Draw, *, progress: Progress = silent) -> str:
    """Write ``workspace`` up as it stands; ``draw`` turns a picture into an SVG element."""
    numeric = list(workspace.table.numeric)
    sheets = []
    for position, column in enumerate(numeric):
        progress(0.85 * position / max(len(numeric), 1), f"writing up {column.name}")
        analysis = workspace.analysis(column.name)
        picture = ""
        if position < _MOST_PICTURES:
            picture = draw(shape_picture(analysis, workspace.working, _NOTHING, qq_points=_QQ_POINTS))
        sheets.append(_sheet(workspace, analysis, picture))
    progress(0.87, "writing up the relations")
    relations = _relations(workspace, draw)
    progress(0.95, "putting the report together")
    return _template().render(
        workspace=workspace,
        source=workspace.table.source,
        table=workspace.table,
        palette=LIGHT,
        version=VERSION,
        written=datetime.now(UTC).strftime("%Y-%m-%d %H:%M UTC"),
        columns=[_column_row(workspace, column) for column in workspace.table],
        sheets=sheets,
        pictures_left_out=max(0, len(numeric) - _MOST_PICTURES),
        relations=relations,
        decisions=_decisions(workspace),
        conventions=workspace.settings.stated(),
        settled=_resolved_cells(workspace),
        missing=missing_sentence(workspace.table),
        methods=_methods(),
        guide=list(entries().values()),
        unreviewed=[column.name for column in numeric if column.name not in workspace.document.reviewed],
        unsettled=_unsettled(workspace, sheets),
        given=[column.title for column in workspace.table if workspace.dictionary.of(column.name).mapping],
        caution=CAUTION,
    )


def _unsettled(workspace: Workspace, sheets: list[dict[str, Any]]) -> list[str]:
    """Findings nobody has settled, those about the whole table first."""
    about = [
        f"The table: {found.evidence}"
        for found in with_discrepancies(workspace.document, check_table(workspace.table))
        if found.key not in workspace.document.noted
    ]
    for sheet in sheets:
        about += [f"{sheet['column'].name}: {finding.sentence}" for finding in sheet["open"]]
    return about


def _resolved_cells(workspace: Workspace) -> list[str]:
    """How cells that are no plain numbers were read, for each column and kind."""
    return [
        f"{column.name}: {plural(found.count, 'cell')} with a {found.kind.name}: "
        f"{RULES[rule_in_force(key, column.rules)]}."
        for column in workspace.table
        for key, found in column.kinds.items()
        if key in column.rules or rule_in_force(key, {}) != "unread"
    ]


def _template() -> jinja2.Template:
    environment = jinja2.Environment(
        loader=jinja2.PackageLoader("culvix.report"),
        autoescape=True,
        trim_blocks=True,
        lstrip_blocks=True,
        undefined=jinja2.StrictUndefined,
    )
    environment.filters.update(count=count, number=number, plural=plural)
    return environment.get_template("report.html.j2")


def _column_row(workspace: Workspace, column: Column) -> dict[str, str]:
    used = workspace.working.sample(column).n if column.is_numeric else workspace.table.rows - column.missing
    return {
        "name": column.name,
        "role": str(column.role),
        "reason": column.reason,
        "unit": column.unit or "",
        "n": count(used),
        "missing": count(column.missing),
        "unread": count(column.unread),
    }


def _sheet(workspace: Workspace, analysis: ColumnAnalysis, picture: str) -> dict[str, Any]:
    column = analysis.column
    findings = analysis.findings(workspace.working)
    tests = []
    if column.role not in (Role.YES_NO, Role.ORDERED):
        for key, result in analysis.normality.items():
            text = result.note or ""
            if result.statistic is not None:
                text = f"{result.symbol} = {significant(result.statistic)}, {p_value(result.p)}, n = {count(result.n)}"
                text += "".join(f"; {name} z {signed(z)}, {p_value(p)}" for name, (z, p) in result.parts.items())
            tests.append((NORMALITY_TESTS[key].name, text))
    return {
        "column": column,
        "analysis": analysis,
        "picks": workspace.picks_of(column.name),
        "picture": Markup(picture),
        "numbers": _numbers(analysis),
        "notes": _notes(analysis),
        "codes": _codes(analysis),
        "tests": tests,
        "outliers": [] if column.role is Role.YES_NO else _outlier_rows(workspace, analysis),
        "open": [finding for finding in findings if not finding.settled],
        "settled": [finding for finding in findings if finding.settled],
        "reviewed": column.name in workspace.document.reviewed,
    }


def _numbers(analysis: ColumnAnalysis) -> list[tuple[str, str]]:
    d, style = analysis.description, analysis.style
    if analysis.column.role is Role.YES_NO:
        return [("n", count(d.n)), ("share of 1", number(d.mean, 3)), ("count of 1", count(d.n - d.zeros))]

    level = f"{100 * analysis.request.settings.confidence:g} %"
    ranks = analysis.column.role is Role.ORDERED and not analysis.column.asks
    lines: list[tuple[str, str]] = []
    for row in sorted(STATISTICS.values(), key=lambda row: row.report or 0):
        if row.report is None or (ranks and not row.of_ranks):
            continue
        text = _shown(row, analysis)
        if row.beside:
            before, value = lines.pop()
            lines.append((f"{before}, {row.name}", f"{value}, {text}"))
        elif row.error is not None:
            lines.append((f"{row.name} (SE)", f"{text} ({number(getattr(d, row.error))})"))
        else:
            lines.append((row.name, text))
        if row.interval is not None:
            ends = getattr(d, row.interval)
            between = f"{style.statistic(ends[0])} to {style.statistic(ends[1])}" if ends else number(None)
            lines.append((f"{level} interval of the {row.name}", between))
        if row.key == "n":
            lines.append(("missing, unread", f"{count(analysis.column.missing)}, {count(analysis.column.unread)}"))
    return lines


def _shown(row: Statistic, analysis: ColumnAnalysis) -> str:
    """A figure as it stands in a sheet."""
    value, style = analysis.figures[row.key], analysis.style
    ways = {"value": style.value, "statistic": style.statistic, "signed": signed, "pure": number, "whole": count}
    return number(None) if value is None else ways[row.scale](value)  # type: ignore[operator]


def _notes(analysis: ColumnAnalysis) -> list[tuple[str, str]]:
    shown = ("mean", "sd", "skewness", "excess_kurtosis", "ci_mean", "ci_median", "iqr")
    return [(key, analysis.description.notes[key]) for key in shown if key in analysis.description.notes]


def _codes(analysis: ColumnAnalysis) -> str:
    """How often each of a few ordered codes was given, in words."""
    if not analysis.column.has_few_ranks or not analysis.sample.n:
        return ""
    bars = codes_picture(analysis.column, analysis.sample)
    given = [bar for bar in bars.bars if bar.kind == "value"]
    shares = "; ".join(f"{bar.name}: {count(bar.rows)} ({per_cent(bar.rows / bars.n)})" for bar in given)
    return f"{shares}. {bars.about}."


def _outlier_rows(workspace: Workspace, analysis: ColumnAnalysis) -> list[tuple[str, str, str, str]]:
    """Every method of the table that could be applied, those whose flags count marked with a star.

    Beside the number flagged by one of these stands what chance gives.
    """
    style, rows = analysis.style, []
    for key, result in workspace.deferred(analysis.column.name).outliers.items():
        counted = key in analysis.flags.results
        if not (result.applies or counted):
            continue
        span = "not applicable"
        if result.applies and result.lower is None:
            span = test_text(result, analysis.flag_basis)
        if result.lower is not None and result.upper is not None:
            span = f"{style.statistic(result.lower)} to {style.statistic(result.upper)}"
        name = OUTLIER_METHODS[key].name + (" *" if counted else "")
        for group, found in result.groups.items():
            if found.lower is not None and found.upper is not None:
                ends = f"{style.statistic(found.lower)} to {style.statistic(found.upper)}"
                rows.append((f"{name}, {group}", ends, _flagged(workspace, analysis, key, found), found.note or ""))
        if result.groups:
            continue
        scale = result.settings.get("scale")
        name += f", on the scale {SCALE_NAMES[str(scale)]}" if scale else ""
        rows.append((name, span, _flagged(workspace, analysis, key, result), result.note or ""))
    return rows


def _flagged(workspace: Workspace, analysis: ColumnAnalysis, key: str, result: OutlierResult) -> str:
    """How many values are flagged, and how many of a normal column of this n would be by chance."""
    text = plural(int(result.rows.size), "value")
    if not result.applies or key not in analysis.flags.results:
        return text
    by_chance = chance_flags(key, result.n, workspace.settings, column=analysis.column.name)
    return text if by_chance is None else f"{text} (by chance {few_digits(by_chance)})"


def _decisions(workspace: Workspace) -> list[dict[str, str]]:
    named = workspace.table.label_column
    rows = []
    for decision in workspace.document.decisions:
        first = decision.rows[:12].tolist()
        listed = [_row_text(workspace.table, named, row) for row in first]
        more = int(decision.rows.size) - len(listed)
        column = workspace.table[decision.column] if decision.column else None
        rows.append(
            {
                "column": decision.column or "whole rows",
                "what": decision.text if decision.rule is None else f"{decision.text}: {decision.rule.text}",
                "rows": ", ".join(listed) + (f" and {count(more)} more" if more > 0 else ""),
                "values": ", ".join(column.cell(row) or "empty" for row in first) if column is not None else "",
                "cause": str(decision.cause),
                "reason": decision.reason or "no reason given",
                "at": f"{decision.at:%Y-%m-%d %H:%M}{f' {decision.by}' if decision.by else ''}",
            }
        )
    return rows


def _row_text(table: Table, named: Column | None, row: int) -> str:
    position = count(table.number_of(row))
    return position if named is None else f"{position} ({named.cell(row)})"


def _relations(workspace: Workspace, draw: Draw) -> dict[str, Any]:
    columns = [column for column in workspace.table.numeric if column.is_data]
    try:
        ranked = rank_pairs([c.name for c in columns], [workspace.working.sample(c).values for c in columns])
    except CulvixError as error:
        return {"note": error.sentence, "pairs": [], "picture": ""}
    if not ranked.pairs:
        return {"note": "A relation needs two numeric columns.", "pairs": [], "picture": ""}
    pairs = []
    for pair in ranked.pairs[:_STRONGEST]:
        cells = [
            f"{signed(result.r, 3)} ({p_value(result.p)})" if result.r is not None else result.note or ""
            for result in pair.coefficients.values()
        ]
        pairs.append((pair.x, pair.y, cells, count(pair.n)))
    left_out = len(ranked.pairs) - len(pairs)
    note = f"The {plural(len(pairs), 'strongest pair', 'strongest pairs')} of {count(len(ranked.pairs))}."
    best = ranked.pairs[0]
    return {
        "note": note if left_out else "",
        "kinds": [f"{CORRELATION_KINDS[key].name} {CORRELATION_KINDS[key].symbol}" for key in RANKING],
        "pairs": pairs,
        **_strongest(workspace, best.x, best.y, draw),
    }


def _strongest(workspace: Workspace, x: str, y: str, draw: Draw) -> dict[str, Any]:
    """The strongest pair's picture, and its coefficients with and without the flagged rows."""
    pair = analyse_pair(workspace.analysis(x), workspace.analysis(y))
    view, rows = pair.view, pair.view.flagged
    picture = draw(replace(pair_picture(pair, _NOTHING, most=800), style_on_paper=workspace.settings.picture_style))
    text = [pair.suggestion.reason]
    for key, kind in CORRELATION_KINDS.items():
        whole, clean = view.with_flagged[key], view.without_flagged[key]
        text.append(
            f"{coefficient_name(key, pair.roles)} {kind.symbol} = {signed(whole.r, 3)} (n = {count(whole.n)}); without "
            f"{plural(int(rows.size), 'flagged row')} {signed(clean.r, 3)} (n = {count(clean.n)})"
        )
    return {"picture": Markup(picture), "best": f"{x} and {y}", "best_words": text}


def _methods() -> list[tuple[str, str, str, str]]:
    every = [*NORMALITY_TESTS.values(), *OUTLIER_METHODS.values(), *CORRELATION_KINDS.values()]
    return [(method.key, method.name, method.tells, method.source) for method in every]
