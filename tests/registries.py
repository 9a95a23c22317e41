"""Rows added to the registries for the length of a test."""

import sys
from collections.abc import Mapping

import pytest

from culvix.stats import registry
from culvix.stats.registry.rows import table


def add_row(monkeypatch: pytest.MonkeyPatch, name: str, row: object) -> None:
    """Add ``row`` to the registry called ``name``, wherever it is in use."""
    known: Mapping[str, object] = getattr(registry, name)
    longer = table(*known.values(), row)  # type: ignore[type-var]
    for module in [m for key, m in sys.modules.items() if key.startswith("culvix") and getattr(m, name, None) is known]:
        monkeypatch.setattr(module, name, longer)
