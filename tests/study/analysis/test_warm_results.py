"""What was worked out before is used again only where it is the same: each setting against a study of its own."""

from dataclasses import fields, is_dataclass
from types import MappingProxyType

import numpy as np
import pytest

from culvix.study import Study
from culvix.study.document.choices.settings import ColumnSettings, Settings, replaced
from culvix.tables.model.table import Table

LENGTH = "length_mm"
CHANGES = {
    **{f"{name} {value}": {name: value} for name, value in (("alpha", 0.3), ("confidence", 0.8), ("trim", 0.25))},
    **{
        f"{name} {value}": {name: value} for name, value in (("quantile_type", 6), ("closed", "right"), ("decimals", 5))
    },
    **{f"{name} {value}": {name: value} for name, value in (("qq_line", "quartiles"), ("qq_band", "simultaneous"))},
    "verdict by another test": {"verdict_test": "lilliefors"},
    "other methods": {"methods": ("hampel", "valid_range")},
    "another limit": {"limits": MappingProxyType({**Settings().limits, "z_score": 2.0})},
}
OF_COLUMN = {
    "bins": ColumnSettings(bin_width=20.0, bin_start=3.0),
    "bin rule": ColumnSettings(bin_rule="sturges"),
    "bandwidth": ColumnSettings(bandwidth=9.0),
    "bandwidth rule": ColumnSettings(bandwidth_rule="silverman"),
    "flags in groups": ColumnSettings(flag_within="strain"),
    "flags on a scale": ColumnSettings(flag_scale="ln"),
    "own limits": ColumnSettings(limits=(("iqr_fences", 0.5, 3.0),)),
}


def flat(thing: object) -> object:
    """``thing`` as nested tuples that can be compared; requests, columns and caches are left out."""
    if isinstance(thing, np.ndarray):
        return tuple(map(repr, thing.tolist()))
    if isinstance(thing, dict | MappingProxyType):
        return tuple((key, flat(value)) for key, value in thing.items())
    if isinstance(thing, tuple | list):
        return tuple(map(flat, thing))
    if is_dataclass(thing):
        return tuple(
            (f.name, flat(getattr(thing, f.name))) for f in fields(thing) if f.name not in ("request", "questions")
        )
    return repr(thing)


def changes() -> list[object]:
    common = [
        pytest.param(lambda study, c=change: study.change_settings(replaced(study.settings, **c)), id=name)
        for name, change in CHANGES.items()
    ]
    own = [
        pytest.param(lambda study, c=chosen: study.change_settings(study.settings.with_column(LENGTH, c)), id=name)
        for name, chosen in OF_COLUMN.items()
    ]
    valid_range = pytest.param(lambda study: study.set_valid_range(LENGTH, (150.0, 300.0)), id="valid range")
    return [*common, *own, valid_range]


@pytest.mark.parametrize("change", changes())
def test_a_setting_changed_gives_what_a_fresh_study_gives(demo_table: Table, change) -> None:
    study = Study.of_table(demo_table)
    first = flat(study.workspace.analysis(LENGTH))
    change(study)
    warm, fresh = flat(study.workspace.analysis(LENGTH)), Study.of_table(demo_table)
    change(fresh)
    assert warm == flat(fresh.workspace.analysis(LENGTH))
    assert warm != first, "the setting has an effect at all"
    study.undo()
    assert flat(study.workspace.analysis(LENGTH)) == first
