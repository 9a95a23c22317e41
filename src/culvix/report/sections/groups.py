"""The comparisons of groups that were kept: a sentence, the numbers of each group, and its picture."""

from collections.abc import Iterator
from itertools import islice

from culvix.errors import CulvixError
from culvix.report.context import ReportContext, number_figure, whole_figure
from culvix.report.parts import Cell, Figure, Head, Paragraph, Part, PictureBlock, Sheet, TableBlock, Text
from culvix.stats.display import NumberStyle, p_value
from culvix.stats.registry import GROUP_TESTS
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.document.kept_comparison import KeptComparison
from culvix.study.groups.compared_column import ComparedColumn, Comparing, compare_column, compare_columns
from culvix.study.groups.effect_words import EFFECTS, effect_words
from culvix.study.groups.row_groups import GroupsBy
from culvix.study.groups.value_groups import ValueGroup
from culvix.study.pictures.group_rows import groups_picture

__all__ = ["groups"]

_NONE = "No comparison of groups was kept for the report."
_MOST_GROUPS = {"line": 0, "short": 12, "full": 60}
_ROW, _AROUND = 9.0, 18.0
"""Heights in a picture, in millimetres: of a group, and of what is around all of them."""


def groups(context: ReportContext, level: str) -> Iterator[Part]:
    """Each comparison that was kept, in the order in which they were."""
    kept = context.workspace.document.comparisons
    if not kept:
        yield Paragraph((_NONE,), "quiet")
        return
    for place, each in enumerate(kept):
        context.progress(0.5, f"comparing {each.measure}")
        try:
            found = _compared(context, each)
        except CulvixError as problem:
            yield Paragraph((f"{' and '.join(each.needed)}: {problem}",), "quiet")
            continue
        title = found.measure if found.by == "column" else f"{found.measure} by {found.by}"
        parts = tuple(_parts(found, f"groups/{place}", level))
        yield from parts[:1] if level == "line" else (Sheet(f"groups/{place}", title, found.about, parts),)


def _compared(context: ReportContext, kept: KeptComparison) -> ComparedColumn:
    workspace = context.workspace
    settings, table = workspace.settings, workspace.table
    missing = [name for name in kept.needed if name not in table]
    if missing:
        raise CulvixError(f"there is no column {missing[0]} any more.")
    how = Comparing(settings.alpha, settings.confidence, settings.quantile_type, kept.answers, kept.test or None)
    if kept.columns:
        analyses: list[ColumnAnalysis] = [workspace.analysis(name) for name in kept.columns]
        return compare_columns(analyses, how, paired=kept.paired)
    by = GroupsBy(kept.by, kept.ranges, kept.period)
    order = workspace.document.dictionary.of(kept.by).date_order
    return compare_column(workspace.analysis(kept.measure), table[kept.by], by, how, order)


def _parts(found: ComparedColumn, key: str, level: str) -> Iterator[Part]:
    yield Paragraph(_answer(found, key))
    if level == "line":
        return
    shown = tuple(islice(found.groups, _MOST_GROUPS[level]))
    heads = (Head("Group"), *(Head(name, True) for name in ("n", "Missing", "Mean", "SD", "Median", "Q1", "Q3")))
    every = (*shown, *(() if found.total is None else (found.total,)))
    more = len(found.groups) - len(shown)
    yield TableBlock(
        f"{key}/numbers",
        heads,
        tuple(_row(group, f"{key}/{group.name}", found.style) for group in every),
        f"and {more} more groups" if more > 0 else "",
    )
    picture = groups_picture(shown, found.title, found.style)
    sentence = f"{picture.sentence}. Strokes are values, bars the middle half cut at the median, triangles means."
    yield PictureBlock(f"{key}/picture", picture, sentence, height=_AROUND + _ROW * len(shown))


def _row(group: ValueGroup, key: str, style: NumberStyle) -> tuple[Cell, ...]:
    numbers = (getattr(group.description, name) for name in ("mean", "sd", "median", "q1", "q3"))
    names = ("mean", "sd", "median", "q1", "q3")
    return (
        (group.name,),
        (whole_figure(f"{key}/n", group.sample.n),),
        (whole_figure(f"{key}/missing", group.missing),),
        *((number_figure(f"{key}/{name}", value, style),) for name, value in zip(names, numbers, strict=True)),
    )


def _answer(found: ComparedColumn, key: str) -> Text:
    """The sizes of the difference first, then the test and why it is the one."""
    compared = found.comparison
    if compared is None:
        return (found.note,)
    text: list[str | Figure] = []
    if len(compared.names) == 2:
        text.append(f"{compared.names[0]} less {compared.names[1]}: ")
    for place, effect in enumerate(compared.effects):
        value, interval = effect_words(effect, found.style)
        unit = f" {found.unit}" if found.unit and EFFECTS[effect.key].in_unit else ""
        text += [", " if place else "", f"{EFFECTS[effect.key].name} "]
        text.append(Figure(f"{key}/{effect.key}", effect.value, f"{value}{unit}"))
        text.append(f" ({interval})" if interval else "")
    p = compared.result.p
    name = GROUP_TESTS[compared.chosen.key].name
    text += [f". {name}: ", Figure(f"{key}/p", p, p_value(p) if p is not None else compared.result.note or "no p")]
    return (*text, f". {compared.chosen.reason}")
