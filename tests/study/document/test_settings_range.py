"""Settings outside their range are refused in a sentence, wherever they come from."""

import pytest

from culvix.errors import StatisticsError
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study import ColumnSettings, Settings
from culvix.study.document.choices.settings import replaced


@pytest.mark.parametrize(
    ("changes", "sentence"),
    [
        ({"closed": "middle"}, "no edge that belongs to a bin 'middle'; there are left, right"),
        ({"trim": 0.9}, "between 0 and 0.5"),
        ({"trim": -0.1}, "between 0 and 0.5"),
        ({"qq_band": "x"}, "no band of Q-Q points 'x'"),
        ({"qq_line": ""}, "no line of Q-Q points ''"),
        ({"whiskers": "far"}, "no end of whiskers"),
        ({"verdict_test": "guess"}, "no test of normality 'guess'"),
        ({"correlation": "hunch"}, "no kind of correlation 'hunch'"),
        ({"alpha": 0.0}, "between 0 and 1"),
        ({"confidence": 1.0}, "between 0 and 1"),
        ({"decimals": -2}, "0 to 15 decimals"),
        ({"quantile_type": 10}, "types are 1 to 9"),
        ({"methods": ()}, "At least one"),
        ({"methods": ("guess",)}, "At least one"),
    ],
)
def test_a_setting_outside_its_range_is_refused(changes: dict[str, object], sentence: str) -> None:
    with pytest.raises(StatisticsError, match=sentence):
        replaced(Settings(), **changes)


@pytest.mark.parametrize(
    ("method", "value", "sentence"),
    [
        ("z_score", 0.0, "above 0"),
        ("iqr_fences", float("nan"), "above 0"),
        ("grubbs", 1.0, "level of the test of Grubbs lies between 0 and 1"),
        ("valid_range", 3.0, "no outlier method 'valid_range' that has a limit"),
        ("guess", 3.0, "no outlier method 'guess'"),
    ],
)
def test_a_limit_outside_its_range_is_refused(method: str, value: float, sentence: str) -> None:
    with pytest.raises(StatisticsError, match=sentence):
        Settings().with_limit(method, value)
    with pytest.raises(StatisticsError, match=sentence):
        ColumnSettings(limits=((method, value, value),))


def test_a_column_is_pictured_in_a_way_there_is() -> None:
    for wrong in ({"bin_rule": "x"}, {"scale": "x"}, {"bandwidth_rule": "x"}, {"axis": "x"}, {"flag_scale": "x"}):
        with pytest.raises(StatisticsError, match="'x'; there are"):
            ColumnSettings(**wrong)  # type: ignore[arg-type]


def test_levels_and_distances_are_told_apart_by_their_rows() -> None:
    kinds = {key: method.limit.kind for key, method in OUTLIER_METHODS.items() if method.limit is not None}
    assert {key for key, kind in kinds.items() if kind == "level"} == {"grubbs", "generalized_esd", "dixon", "fdr"}
