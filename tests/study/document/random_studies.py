"""Studies in which anything may have been done, for properties that hold of all of them."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from hypothesis import strategies as st

from culvix.errors import CulvixError
from culvix.stats.registry import OUTLIER_METHODS
from culvix.stats.shape.transform import Scale
from culvix.study import Cause, ColumnSettings, DecisionKind, Study
from culvix.study.document.choices.settings import replaced
from culvix.study.document.marks import CONDITIONS, SHAPES, Mark
from culvix.study.document.picks import Pick
from culvix.study.document.rules import agreed, between, flagged_by
from culvix.tables import Table, read_table
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Role

NUMBERS = ("mass_g", "length_mm")
ROWS = 40
Step = Callable[[Study], object]

_texts = st.text(max_size=12)
_numbers = st.floats(allow_nan=False, allow_infinity=False, width=32)
_rows = st.sets(st.integers(0, ROWS - 1), min_size=1, max_size=5)
_columns = st.sampled_from(NUMBERS)
_ranges = st.tuples(st.none() | st.integers(-9, 9), st.none() | st.floats(10, 1e6))
_rules = st.none() | st.sampled_from([flagged_by("z_score"), agreed(2), between(3, None), between(-1.5, 7)])


def small_table(folder: Path) -> Table:
    """Two columns of numbers, and one of texts."""
    path = folder / "fish.csv"
    lines = "".join(f"T{i % 3},{100 + i * i}.5,{200 + i}\n" for i in range(ROWS))
    path.write_text("tank,mass_g,length_mm\n" + lines)
    return read_table(path)


def _described(label: str, unit: str, role: Role | None, ends: tuple, mapping: dict[str, float]) -> ColumnEntry:
    return ColumnEntry(label or None, unit or None, role, ends, ("-9",), mapping=mapping, rules={"text": "missing"})


_entries = st.builds(
    _described,
    *(_texts, _texts, st.sampled_from([None, Role.MEASURE, Role.COUNT]), _ranges),
    st.dictionaries(_texts, _numbers, max_size=2),
)
_details = st.sampled_from(
    [
        (DecisionKind.KEEP, {}),
        (DecisionKind.EXCLUDE_VALUE, {}),
        (DecisionKind.EXCLUDE_ROW, {}),
        (DecisionKind.MISSING, {}),
        (DecisionKind.CORRECT, {"factor": 10}),
        (DecisionKind.CORRECT, {"factor": 0.1, "shift": -3.0}),
        (DecisionKind.CORRECT, {"value": np.float64(7.25)}),
    ]
)
_pictures = st.builds(ColumnSettings, bin_width=st.none() | st.integers(1, 9) | st.floats(1, 500), axis=st.just("ln"))


def _decide(column: str, rows: set[int], details: tuple, cause: Cause, reason: str, rule: object) -> Step:
    kind, how = details
    return lambda study: study.decide(kind, column, rows, cause=cause, reason=reason, rule=rule, **how)


def _mark(name: str, column: str, condition: str, value: str) -> Step:
    return lambda study: study.add_mark(Mark(name, column, condition, value, 2, SHAPES[1]))


def steps() -> st.SearchStrategy[list[Step]]:
    """Anything an analyst can do, in any order; steps that are refused leave the study as it was."""
    settings = [
        {"alpha": 0.01},
        {"decimals": 3},
        {"verdict_test": "lilliefors"},
        {"correlation": "kendall"},
        {"methods": ("hampel",)},
        {"notch": True},
    ]
    limits = st.tuples(st.sampled_from(sorted(OUTLIER_METHODS)), st.floats(0.01, 0.5) | st.just(1))
    return st.lists(
        st.one_of(
            st.builds(_decide, _columns, _rows, _details, st.sampled_from(Cause), _texts, _rules),
            st.builds(lambda c, e: lambda study: study.edit_column(c, e), _columns, _entries),
            st.builds(lambda c, e: lambda study: study.set_valid_range(c, e), _columns, _ranges),
            st.builds(lambda c, p: lambda s: s.change_settings(s.settings.with_column(c, p)), _columns, _pictures),
            st.builds(lambda new: lambda s: s.change_settings(replaced(s.settings, **new)), st.sampled_from(settings)),
            st.builds(lambda limit: lambda s: s.change_settings(s.settings.with_limit(*limit)), limits),
            st.builds(lambda c, k: lambda study: study.derive(c, Scale(k)), _columns, st.sampled_from(["ln", "sqrt"])),
            st.builds(lambda c: lambda s: s.add_flag_counts(s.workspace.analysis(c)), _columns),
            st.builds(_mark, _texts, _columns, st.sampled_from(sorted(CONDITIONS)), _texts),
            st.builds(lambda t: lambda study: study.sign(t), _texts),
            st.builds(lambda c: lambda study: study.set_reviewed(c, True), _columns),
            st.builds(lambda n: lambda study: study.add_pick(Pick("mass_g", "dots", n, 9, 1, 2)), st.integers(0)),
            # Documents that differ in the sign of a zero are equal, and the later one is no act.
            st.builds(lambda n: lambda study: study.change_view(probes={"mass_g": n + 0.0}), _numbers),
            st.sampled_from([Study.begin_pass, Study.undo, Study.redo]),
        ),
        max_size=9,
    )


def taken(study: Study, done: list[Step]) -> Study:
    """``study`` after all of ``done``."""
    for step in done:
        try:
            step(study)
        except CulvixError:
            continue
    return study
