"""What a file that is a sample says of its columns: comments of a server as labels, its primary key as a row's name."""

from dataclasses import replace

from culvix.tables.cells.units import label_and_unit
from culvix.tables.model.dictionary import ColumnEntry, Dictionary
from culvix.tables.model.provenance import Provenance

__all__ = ["dictionary_of_sample"]

_LONGEST = 60
"""Letters of a comment that is a label."""


def dictionary_of_sample(sample: Provenance | None, given: Dictionary | None = None) -> Dictionary:
    """The dictionary of a new study of a ``sample``: as it is ``given``, and for the rest what the sample says."""
    dictionary = given or Dictionary()
    if sample is None:
        return dictionary
    comments = {name: comment for name, comment in sample.labels.items() if dictionary.of(name) == ColumnEntry()}
    described = dictionary.with_each({name: _entry(comment) for name, comment in comments.items()})
    return replace(described, key=dictionary.key or sample.key)


def _entry(comment: str) -> ColumnEntry:
    line = " ".join(comment.strip().partition("\n")[0].split())
    label, unit = label_and_unit(line)
    text = (label if unit else line) or ""
    return ColumnEntry(label=text if len(text) <= _LONGEST else f"{text[: _LONGEST - 1]}…", unit=unit)
