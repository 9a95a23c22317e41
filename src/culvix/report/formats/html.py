"""A report as one self-contained HTML file: no script, no link to anything outside, pictures inline."""

import re
from collections.abc import Callable, Iterator

import jinja2
from markupsafe import Markup

from culvix.charts.palette import DARK, LIGHT
from culvix.progress import Progress, silent
from culvix.report.formats.rich_text import MARKS
from culvix.report.parts import Figure, Part, PictureBlock, Report, Sheet, TableBlock, plain
from culvix.version import VERSION
from culvix.visible_text import visible

__all__ = ["Draw", "pictures_in", "report_html"]

Draw = Callable[[PictureBlock], str]
"""Makes an SVG element of a picture."""


_MOST_PLACES = 9
_SHAPE = re.compile(r'<g id="(m[0-9a-f]{8})" [^>]*><path [^>]*/></g>')
"""A shape that marks of a picture share."""


def report_html(report: Report, draw: Draw, *, carried: str = "", progress: Progress = silent) -> str:
    """``report`` as a document; ``carried`` is JSON that it has with it, to be compared with what is computed anew.

    Raises what ``draw`` and ``progress`` raise.
    """
    pictures = list(pictures_in(part for section in report.sections for part in section.parts))
    drawn: dict[str, Markup] = {}
    shapes: set[str] = set()
    for position, picture in enumerate(pictures):
        progress(0.9 + 0.1 * position / len(pictures), "drawing the pictures")
        drawn[picture.name] = Markup(visible(_without_known_shapes(draw(picture), shapes)))
    # In a script element only this sign could end it.
    data = Markup(carried.replace("<", "\\u003c"))
    return _template().render(
        report=report, drawn=drawn, carried=data, light=LIGHT, dark=DARK, version=VERSION, marks=MARKS
    )


def _without_known_shapes(svg: str, known: set[str]) -> str:
    """``svg`` without the shapes that a picture before it defines: the same name is the same shape everywhere."""

    def once(shape: re.Match[str]) -> str:
        if shape[1] in known:
            return ""
        known.add(shape[1])
        return shape[0]

    return _SHAPE.sub(once, svg)


def pictures_in(parts: Iterator[Part] | tuple[Part, ...]) -> Iterator[PictureBlock]:
    """The pictures of ``parts``, in order."""
    for part in parts:
        if isinstance(part, PictureBlock):
            yield part
        elif isinstance(part, Sheet):
            yield from pictures_in(part.parts)


def _template() -> jinja2.Template:
    environment = jinja2.Environment(
        loader=jinja2.PackageLoader("culvix.report"),
        autoescape=True,
        finalize=shown,
        trim_blocks=True,
        lstrip_blocks=True,
        undefined=jinja2.StrictUndefined,
    )
    environment.filters.update(exact=_exact, kind=lambda part: type(part).__name__, aligned=_aligned)
    return environment.get_template("report.html.j2")


def shown(value: object) -> object:
    """What stands in the place of ``value``: control characters as what they are, markup as it is."""
    return visible(value) if type(value) is str else value


def _exact(figure: Figure) -> str:
    return "" if figure.value is None else repr(figure.value)


def _aligned(table: TableBlock) -> list[list[str]]:
    """The class of each numeric cell that puts its decimal mark under those of the cells above."""
    classes = [[""] * len(table.heads) for _ in table.rows]
    for column, head in enumerate(table.heads):
        if not head.numeric:
            continue
        decimals = [_places(plain(row[column])) for row in table.rows]
        most = max((each for each in decimals if each is not None), default=0)
        for row, each in enumerate(decimals):
            missing = 0 if each is None else min(most - each, _MOST_PLACES)
            # A whole number lacks the mark, too.
            kind = "p" if each == 0 and most else "d"
            classes[row][column] = f"{kind}{missing}" if missing else ""
    return classes


def _places(text: str) -> int | None:
    """Decimal places of a number as printed, None where it is more than a number."""
    plain_number = text.replace("−", "").replace("\u202f", "")
    whole, _, decimals = plain_number.partition(".")
    return len(decimals) if whole.isdigit() and (decimals.isdigit() or not decimals) else None
