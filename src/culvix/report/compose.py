"""A report put together from a workspace: the sections that were chosen, with the analyst's own words between them."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime

from culvix.progress import Progress, silent
from culvix.report.context import Remembered, ReportContext
from culvix.report.parts import Part, PictureBlock, Report, Section
from culvix.report.sections import SECTIONS, USUAL_SECTIONS
from culvix.study.analysis.workspace import Workspace
from culvix.version import VERSION

__all__ = ["compose"]


def compose(
    workspace: Workspace,
    *,
    written: str = "",
    pictured: Callable[[PictureBlock], None] = lambda block: None,
    remembered: Remembered | None = None,
    progress: Progress = silent,
) -> Report:
    """The report of ``workspace`` by its layout; ``written`` is the day that stands in it, today where it is empty.

    ``pictured`` hears of each picture as soon as it can be drawn; ``remembered`` is what the report of the same study
    before was made from. Raises what ``progress`` raises.
    """
    layout = workspace.document.report
    context = ReportContext(workspace, layout, progress, pictured, remembered)
    shown = [choice for choice in layout.ordered(USUAL_SECTIONS) if choice.shown]
    made = {}
    with ThreadPoolExecutor(1) as aside:
        ahead = aside.submit(context.compute_ahead, {choice.key for choice in shown})
        # The pictures of the columns can be drawn while all the rest is worked out.
        for choice in sorted(shown, key=lambda choice: choice.key != "columns"):
            if choice.key != "columns":
                ahead.result()
            row = SECTIONS[choice.key]
            parts: list[Part] = [*row.make(context, choice.level), *context.own_words(choice.key)]
            made[choice.key] = Section(row.key, row.title, tuple(parts))
    # What there is nothing to say of is left out.
    sections = [made[choice.key] for choice in shown if made[choice.key].parts]
    if own := context.own_words(""):
        sections.insert(0, Section("", "", tuple(own)))
    day = layout.date or written or datetime.now(UTC).strftime("%Y-%m-%d")
    by = f"by {layout.author}" if layout.author else ""
    to = f"for {layout.addressee}" if layout.addressee else ""
    about = (
        ", ".join(each for each in (by, to, day) if each),
        f"Profile of {workspace.table.source.name}, Culvix {VERSION}",
    )
    title = layout.title or workspace.name
    metadata = {"title": title, "author": layout.author, "date": day}
    return Report(title, about, tuple(sections), metadata=metadata)
