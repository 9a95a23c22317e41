"""The comparisons of groups that were kept: a sentence, the numbers of each group, and its picture."""

from collections.abc import Iterator
from itertools import islice

from culvix.report.context import ReportContext, whole_figure
from culvix.report.parts import Cell, Figure, Head, Paragraph, Part, PictureBlock, Sheet, TableBlock, Text
from culvix.stats.display import NumberStyle, p_value
from culvix.stats.registry import GROUP_TESTS, STATISTICS
from culvix.study.groups.comparison.compared_column import ComparedColumn
from culvix.study.groups.comparison.effect_words import EFFECTS, effect_words
from culvix.study.groups.group_statistics import chosen_statistics
from culvix.study.groups.value_groups import ValueGroup
from culvix.study.pictures.groups.group_rows import groups_picture

__all__ = ["groups"]

_NONE = "No comparison of groups was kept for the report."
_USUAL_NUMBERS = 5
"""So many numbers of each group are given where none were chosen: the centre, the spread, and the quartiles."""
_MOST_GROUPS = {"line": 0, "short": 12, "full": 60}
_ROW, _AROUND = 9.0, 18.0
"""Heights in a picture, in millimetres: of a group, and of what is around all of them."""


def groups(context: ReportContext, level: str) -> Iterator[Part]:
    """Each comparison that was kept, in the order in which they were."""
    if not context.comparisons:
        yield Paragraph((_NONE,), "quiet")
    view = context.workspace.document.view
    statistics = chosen_statistics(view) if view.groups_statistics else chosen_statistics(view)[:_USUAL_NUMBERS]
    for index, (kept, found) in enumerate(context.comparisons):
        if isinstance(found, str):
            yield Paragraph((found,), "quiet")
            continue
        title = found.measure if found.by == "column" else f"{found.measure} by {found.by}"
        remark = (Paragraph((kept.remark,)),) if kept.remark else ()
        parts = (*remark, *_parts(found, f"groups/{index}", level, statistics))
        yield from parts if level == "line" else (Sheet(f"groups/{index}", title, found.about, parts),)


def _parts(found: ComparedColumn, key: str, level: str, statistics: tuple[str, ...]) -> Iterator[Part]:
    yield Paragraph(_answer(found, key))
    if level == "line":
        return
    shown = tuple(islice(found.groups, _MOST_GROUPS[level]))
    names = [STATISTICS[each].survey_name for each in statistics]
    heads = (Head("Group"), *(Head(name[:1].upper() + name[1:], True) for name in ("n", "missing", *names)))
    every = (*shown, *(() if found.total is None else (found.total,)))
    more = len(found.groups) - len(shown)
    yield TableBlock(
        f"Numbers of {found.measure} by {found.by}",
        heads,
        tuple(_row(group, f"{key}/{group.name}", found.style, statistics) for group in every),
        f"and {more} more groups" if more > 0 else "",
    )
    picture = groups_picture(shown, found.title, found.style)
    sentence = f"{picture.sentence}. Strokes are values, bars the middle half cut at the median, triangles means."
    yield PictureBlock(f"{key}/picture", picture, sentence, height=_AROUND + _ROW * len(shown))


def _row(group: ValueGroup, key: str, style: NumberStyle, statistics: tuple[str, ...]) -> tuple[Cell, ...]:
    numbers = {name: STATISTICS[name].of(group.description, group.sample) for name in statistics}
    return (
        (group.name,),
        (whole_figure(f"{key}/n", group.sample.n),),
        (whole_figure(f"{key}/missing", group.missing),),
        *((Figure(f"{key}/{name}", value, STATISTICS[name].words(value, style)),) for name, value in numbers.items()),
    )


def _answer(found: ComparedColumn, key: str) -> Text:
    """The sizes of the difference first, then the test and why it is the one."""
    compared = found.comparison
    if compared is None:
        return (found.note,)
    text: list[str | Figure] = []
    if len(compared.names) == 2:
        text.append(f"{compared.names[0]} less {compared.names[1]}: ")
    for index, effect in enumerate(compared.effects):
        value, interval = effect_words(effect, found.style)
        unit = f" {found.unit}" if found.unit and EFFECTS[effect.key].in_unit else ""
        text += [", " if index else "", f"{EFFECTS[effect.key].name} "]
        text.append(Figure(f"{key}/{effect.key}", effect.value, f"{value}{unit}"))
        text.append(f" ({interval})" if interval else "")
    p = compared.result.p
    name = GROUP_TESTS[compared.chosen.key].name
    text += [f". {name}: ", Figure(f"{key}/p", p, p_value(p) if p is not None else compared.result.note or "no p")]
    return (*text, f". {compared.chosen.reason}")
