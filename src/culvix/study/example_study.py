"""The example study: this spring's cohort with some decisions made, as a hatchery's analyst might have left it."""

import os
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from culvix.study.analysis.outliers.rule_rows import rows_of
from culvix.study.carrying.fingerprint import fingerprint_of
from culvix.study.document.decisions import Cause, DecisionKind
from culvix.study.document.marks import Mark
from culvix.study.document.rules import Rule, between
from culvix.study.storage.study_file import write_study_copy
from culvix.study.study import Study
from culvix.tables import read_table
from culvix.tables.model.dictionary import ColumnEntry

__all__ = ["example_study", "write_example_study"]

_ENTRIES: Mapping[str, ColumnEntry] = {
    "length_mm": ColumnEntry(label="length", unit="mm", valid_range=(60.0, 350.0)),
    "mass_g": ColumnEntry(label="mass", unit="g"),
    "oxygen_mg_l": ColumnEntry(label="oxygen", unit="mg/l", missing_codes=("-9",)),
    "cortisol_ng_ml": ColumnEntry(label="cortisol", unit="ng/ml", rules={"limit": "half"}),
    "glucose_mmol_l": ColumnEntry(label="glucose", unit="mmol/l", rules={"decimal_comma": "number"}),
}


@dataclass(frozen=True)
class _Act:
    """A decision by rule, with what it needs besides."""

    column: str
    rule: Rule
    kind: DecisionKind
    cause: Cause
    reason: str
    details: Mapping[str, object] = field(default_factory=dict)


_ACTS = (
    _Act(
        "length_mm",
        between(None, 50.0),
        DecisionKind.CORRECT,
        Cause.ENTRY,
        "entered in cm; the board has no fish so short",
        {"factor": 10.0},
    ),
    _Act(
        "length_mm",
        between(380.0, None),
        DecisionKind.EXCLUDE_VALUE,
        Cause.MEASUREMENT,
        "two fish on one measuring board",
    ),
    _Act(
        "mass_g",
        between(800.0, None),
        DecisionKind.CORRECT,
        Cause.ENTRY,
        "decimal point one place to the right; mass and length disagree tenfold",
        {"factor": 0.1},
    ),
)


def example_study(path: Path) -> Study:
    """The example study of the table at ``path``, which is this spring's cohort."""
    study = Study.of_table(read_table(path))
    for column, entry in _ENTRIES.items():
        study.edit_column(column, entry)
    study.sign("hb")
    for act in _ACTS:
        preview = study.workspace.analysis(act.column)
        rows = rows_of(act.rule, preview.flags, preview.flag_basis)
        rows = np.setdiff1d(rows, study.working.decided(act.column), assume_unique=True)
        study.decide(act.kind, act.column, rows, cause=act.cause, reason=act.reason, rule=act.rule, **act.details)
    study.add_mark(Mark("long fish", "length_mm", "above", "270", 1))
    for column in ("length_mm", "mass_g"):
        study.mark_viewed(column)
    study.set_reviewed("length_mm", True)
    return study


def write_example_study(table: Path) -> Path:
    """Write the example study of the ``table`` beside it, unless it is there already; its path.

    Raises WriteError where that cannot be done.
    """
    path = table.with_suffix(".culvix")
    if not os.path.exists(path):
        study = example_study(table)
        write_study_copy(path, study.history, study.table.source.sha256, fingerprint_of(study.table))
    return path
