"""Which columns move together: the strongest pairs with their coefficients, and the strongest one in a picture."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from culvix.report.context import ReportContext, coefficient_figure, whole_figure
from culvix.report.parts import Cell, Figure, Head, Listing, Paragraph, Part, PictureBlock, TableBlock, Text
from culvix.stats.display import count, decimals_apart, p_value, plural
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.pictures.matrix_parts import categories_beside, categories_of_matrix
from culvix.study.pictures.matrix_pictures import matrix_picture
from culvix.study.pictures.pair_pictures import pair_picture
from culvix.study.relations.pair_analysis import analyse_pair
from culvix.study.relations.ranking import RANKING, RankedPair, Relations, coefficient_name
from culvix.study.relations.relation_findings import MOST_COLUMNS, NOT_SEARCHED

__all__ = ["relations"]

_MOST = {"line": 1, "short": 8, "full": 40}
_DECIMALS = 3
_FEWEST_PICTURED, _MOST_PICTURED = 3, 40
_NOTHING = np.zeros(0, dtype=np.int64)


def relations(context: ReportContext, level: str) -> Iterator[Part]:
    """The strongest pairs; not in a line also the strongest one's picture, and what flagged rows do to it."""
    found = context.relations
    if isinstance(found, str):
        yield Paragraph((found,), "quiet")
        return
    if not found.pairs:
        yield Paragraph(("A relation needs two numeric columns.",), "quiet")
        return
    kinds = [CORRELATION_KINDS[key] for key in RANKING]
    heads = (
        Head("Column"),
        Head("With"),
        *(Head(f"{kind.name} {kind.symbol}", True) for kind in kinds),
        Head("n", True),
    )
    shown = found.pairs[: _MOST[level]]
    caption = ""
    if len(found.pairs) > len(shown):
        by = " and ".join(CORRELATION_KINDS[kind].name for kind in found.matrices)
        caption = (
            f"The {plural(len(shown), 'strongest pair', 'strongest pairs')} of {count(len(found.pairs))}, by {by}."
        )
    yield TableBlock("Strongest pairs", heads, tuple(_row(context, pair) for pair in shown), caption)
    careful = context.relation_findings[: _MOST[level]]
    if careful:
        yield Paragraph(("To be careful of:",))
        yield Listing(tuple((each.sentence,) for each in careful))
    elif len(found.columns) > MOST_COLUMNS:
        yield Paragraph((NOT_SEARCHED,), "quiet")
    if level != "line":
        yield from _whole(context, found)
        yield from _strongest(context, found.pairs[0])


def _whole(context: ReportContext, found: Relations) -> Iterator[Part]:
    """All pairs in one square, where there are enough for one and not too many to be told apart on a page."""
    kinds = list(found.matrices)
    if not _FEWEST_PICTURED <= len(found.columns) <= _MOST_PICTURED:
        return
    table, working = context.workspace.table, context.workspace.working
    categories = categories_beside(table, found.columns)
    if len(found.columns) + len(categories) > _MOST_PICTURED:
        categories = []
    values = {name: working.sample(table[name]).values for name in found.columns}
    beside = categories_of_matrix(table, values, categories)
    picture = matrix_picture(found, order="similarity", upper=kinds[0], lower=kinds[-1], categories=beside)
    sides = f"{picture.upper_name} above the diagonal, {picture.lower_name} below it"
    sentence = f"{picture.sentence} {sides}; a bar that rises is positive, a hollow one that hangs negative."
    if beside is not None:
        sentence += " One to both sides has no sign: η of a number by a category, ε of its ranks, V of two categories."
    yield PictureBlock("relations/matrix", picture, sentence, width=170.0, height=125.0)


def _row(context: ReportContext, pair: RankedPair) -> tuple[Cell, ...]:
    cells: list[Cell] = []
    table, working = context.workspace.table, context.workspace.working
    for kind in RANKING:
        result = pair.coefficients.get(kind)
        if result is None:
            x, y = (working.sample(table[name]).values for name in (pair.x, pair.y))
            result = CORRELATION_KINDS[kind].run(x, y)
        key = f"pair/{pair.x}/{pair.y}/{kind}"
        if result.r is None:
            cells.append((result.note or "",))
            continue
        r = coefficient_figure(key, result.r)
        cells.append((r, " (", Figure(f"{key}/p", result.p, p_value(result.p)), ")"))
    return ((pair.x,), (pair.y,), *cells, (whole_figure(f"pair/{pair.x}/{pair.y}/n", pair.n),))


def _strongest(context: ReportContext, best: RankedPair) -> Iterator[Part]:
    """The strongest pair's picture, and its coefficients with and without the flagged rows."""
    pair = analyse_pair(context.analyses[best.x], context.analyses[best.y])
    style = context.workspace.settings.picture_style
    picture = replace(pair_picture(pair, _NOTHING, most=800), style_on_paper=style)
    sentence = f"Scatter of {best.y} against {best.x}, {plural(pair.view.rows.size, 'row')}."
    yield PictureBlock(f"pair/{best.x}/{best.y}", picture, sentence, width=110.0, height=80.0)
    reading = pair.reading(context.workspace.settings.correlation)
    yield Paragraph((reading.reason,))
    flagged = int(pair.view.flagged.size)
    lines: list[Text] = []
    # The one to be read first stands first.
    for key in sorted(CORRELATION_KINDS, key=lambda key: key != reading.kind):
        kind = CORRELATION_KINDS[key]
        whole, clean = pair.view.with_flagged[key], pair.view.without_flagged[key]
        if whole.r is None:
            continue
        at = f"pair/{best.x}/{best.y}/{key}"
        decimals = decimals_apart(whole.r, clean.r) if flagged else _DECIMALS
        line: Text = (
            f"{coefficient_name(key, pair.roles)} {kind.symbol} = ",
            coefficient_figure(at, whole.r, decimals),
            " (n = ",
            whole_figure(f"{at}/n", whole.n),
            ")",
        )
        if flagged:
            line += (
                f"; without {plural(flagged, 'flagged row')} ",
                coefficient_figure(f"{at}/without_flags", clean.r, decimals),
                " (n = ",
                whole_figure(f"{at}/without_flags/n", clean.n),
                ")",
            )
        lines.append(line)
    yield Listing(tuple(lines))
