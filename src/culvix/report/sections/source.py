"""Where the data come from, what is known to be wrong with how they were collected, and how they were read."""

from collections.abc import Iterator

from culvix.report.context import ReportContext, whole_figure
from culvix.report.parts import Numbers, Paragraph, Part, Text
from culvix.stats.display import plural
from culvix.tables.cells.cell_rules import RULES, rule_in_force
from culvix.tables.cells.missing_summary import missing_sentence
from culvix.tables.model.text_mappings import CAUTION

__all__ = ["source"]


def source(context: ReportContext, level: str) -> Iterator[Part]:
    """Provenance first, then how the file was read, and which cells were settled by a rule."""
    workspace = context.workspace
    table, read = workspace.table, workspace.table.source
    provenance = workspace.dictionary.provenance.strip()
    if provenance:
        for paragraph in provenance.split("\n\n"):
            yield Paragraph((paragraph.strip(),))
    else:
        yield Paragraph(("Where the table comes from and how it was collected was not written down.",), "quiet")
    if level == "line":
        return
    how = [read.kind, read.encoding, f"fields separated by {read.delimiter}" if read.delimiter else "", read.part]
    lines: list[tuple[str, Text]] = [
        ("File", (read.name,)),
        ("Size", (whole_figure("source/bytes", read.size), " bytes")),
        ("Read as", (", ".join(each for each in how if each),)),
        ("Missing cells", (missing_sentence(table) or "Empty cells only.",)),
    ]
    lines += [("Note", (note,)) for note in read.notes]
    lines += [("Cells read by rule", (sentence,)) for sentence in _by_rule(context)]
    yield Numbers(tuple(lines))
    given = [column.title for column in table if workspace.dictionary.of(column.name).mapping]
    if given:
        yield Paragraph((f"{', '.join(given)}: {CAUTION}",))


def _by_rule(context: ReportContext) -> list[str]:
    """How cells that are no plain numbers were read, for each column and kind."""
    return [
        f"{column.name}: {plural(found.count, 'cell')} with a {found.kind.name}: "
        f"{RULES[rule_in_force(key, column.rules)]}."
        for column in context.workspace.table
        for key, found in column.kinds.items()
        if key in column.rules or rule_in_force(key, {}) != "unread"
    ]
