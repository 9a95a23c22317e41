"""What an act did, in words, found by comparing the documents before and after it."""

from culvix.stats.display import plural, rounded
from culvix.study.document.decisions import Decision
from culvix.study.document.document import Document, changed_sections
from culvix.tables.model.dictionary import Bounds, Dictionary

__all__ = ["act_label", "decisions_label"]


def act_label(before: Document, after: Document) -> str:
    """The act that led from one document to the other, in a line."""
    changed = changed_sections(before, after)
    if "decisions" in changed:
        return decisions_label(after.decisions[len(before.decisions) :])
    if "passes" in changed:
        return f"begin pass {after.pass_number}"
    if "derivations" in changed:
        return _derivations_label(before, after)
    if "dictionary" in changed:
        return _dictionary_label(before.dictionary, after.dictionary)
    if "report" in changed:
        return "change the report"
    return f"change {after.settings.changed_from(before.settings)}"


def decisions_label(decisions: tuple[Decision, ...]) -> str:
    """The same decision on cells of one column, or of several."""
    first, *others = decisions
    if not others:
        return first.sentence
    values = sum(int(decision.rows.size) for decision in decisions)
    return f"{first.text}: {plural(values, 'value')} in {plural(len(decisions), 'column')}"


def _derivations_label(before: Document, after: Document) -> str:
    added = [name for name in after.derivations if name not in before.derivations]
    dropped = [name for name in before.derivations if name not in after.derivations]
    if added:
        return f"add the column {', '.join(added)}"
    if dropped:
        return f"take away the column {', '.join(dropped)}"
    changed = [name for name, each in after.derivations.items() if before.derivations[name] != each]
    return f"change the column {', '.join(changed)}"


def _dictionary_label(before: Dictionary, after: Dictionary) -> str:
    names = {**before.entries, **after.entries}
    changed = [name for name in names if before.of(name) != after.of(name)]
    if not changed:
        return "describe the table"
    if len(changed) > 1:
        return f"describe {plural(len(changed), 'column')}"
    (name,) = changed
    old, new = before.of(name), after.of(name)
    if old.without_range == new.without_range:
        return f"change the valid range of {name} {_range(old.valid_range)} → {_range(new.valid_range)}"
    return f"describe {name}"


def _range(bounds: Bounds) -> str:
    if bounds == (None, None):
        return "none"
    return " to ".join("open" if end is None else rounded(end, 6) for end in bounds)
