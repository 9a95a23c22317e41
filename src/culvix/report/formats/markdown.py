"""A report as Markdown, with its pictures in a folder beside it."""

from collections.abc import Callable, Iterator

from culvix.progress import Progress, silent
from culvix.report.formats.rich_text import MARKS, clean
from culvix.report.parts import Listing, Numbers, Paragraph, Part, PictureBlock, Report, Sheet, TableBlock, plain

__all__ = ["report_markdown"]

_SPECIAL = "\\`*_{}[]<>#|~"


def report_markdown(
    report: Report, draw: Callable[[PictureBlock], str], folder: str, *, progress: Progress = silent
) -> tuple[str, dict[str, str]]:
    """The text (CommonMark with tables), and its pictures as SVG by their path from it, all in ``folder``."""
    pictures: dict[str, str] = {}
    lines = [f"# {_words(report.title)}", *(_words(line) for line in report.about)]
    for position, section in enumerate(report.sections):
        progress(0.9 + 0.1 * position / len(report.sections), f"writing {section.title}")
        if section.title:
            lines.append(f"## {_words(section.title)}")
        lines += _parts(section.parts, draw, folder, pictures)
    return "\n\n".join(lines) + "\n", pictures


def _parts(
    parts: tuple[Part, ...], draw: Callable[[PictureBlock], str], folder: str, pictures: dict[str, str]
) -> Iterator[str]:
    for part in parts:
        match part:
            case Paragraph(text=text, kind=kind):
                mark = f"**{MARKS[kind]}** " if kind in MARKS else ""
                yield mark + _words(plain(text))
            case Listing(items=items):
                yield "\n".join(f"- {_words(plain(item))}" for item in items)
            case Numbers(lines=lines):
                yield _table([["", ""], *([name, plain(text)] for name, text in lines)], [False, False])
            case TableBlock():
                yield f"**{_words(part.name)}**"
                heads = [head.text for head in part.heads]
                cells = [[plain(cell) for cell in row] for row in part.rows]
                yield _table([heads, *cells], [head.numeric for head in part.heads])
                if part.caption:
                    yield _words(part.caption)
            case PictureBlock():
                path = f"{folder}/{len(pictures) + 1:03}.svg"
                pictures[path] = draw(part)
                yield f"![{_words(part.sentence)}]({path.replace(' ', '%20')})"
            case Sheet(title=title, beside=beside, parts=inner):
                yield f"### {_words(title)}"
                yield _words(beside)
                yield from _parts(inner, draw, folder, pictures)


def _table(rows: list[list[str]], numeric: list[bool]) -> str:
    """The first of ``rows`` is the head."""
    rule = ["---:" if right else "---" for right in numeric]
    head, *body = [[_words(cell) for cell in row] for row in rows]
    return "\n".join(f"| {' | '.join(row)} |" for row in (head, rule, *body))


def _words(text: str) -> str:
    """``text`` in one line, in which nothing is markup."""
    flat = " ".join(clean(text).split("\n"))
    return "".join(f"\\{letter}" if letter in _SPECIAL else letter for letter in flat)
