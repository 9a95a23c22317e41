"""Settings: which are refused, and what is said of them."""

import pytest

from culvix.errors import StatisticsError
from culvix.study import ColumnSettings, Settings, Study

LENGTH = "length_mm"


@pytest.mark.parametrize(
    "make",
    [
        lambda: Settings(alpha=0.0),
        lambda: Settings(confidence=1.0),
        lambda: Settings(quantile_type=0),
        lambda: Settings(methods=()),
        lambda: Settings(methods=("no such",)),
        lambda: Settings().with_limit("z_score", -1.0),
        lambda: Settings().with_column("x", ColumnSettings(bin_rule="guess")),
        lambda: Settings().with_column("x", ColumnSettings(scale="logarithmic")),
    ],
)
def test_impossible_settings_are_refused(make: object) -> None:
    with pytest.raises(StatisticsError):
        make()


def test_equal_settings_are_equal_and_methods_keep_the_order_of_the_table() -> None:
    settings = Settings()
    assert settings == Settings() and settings.with_limit("z_score", 3.0) == settings
    assert settings.with_methods(["modified_z", "z_score"]).methods == ("z_score", "modified_z")
    assert settings.with_column("x", ColumnSettings(bin_width=2.0)).of("x").bin_width == 2.0
    assert settings.of("y") == ColumnSettings()


def test_limits_of_one_column_stand_among_the_conventions(study: Study) -> None:
    study.change_settings(study.settings.with_own_limits(LENGTH, "z_score", (2.0, 3.5)))
    assert (f"Limits of {LENGTH} of its own, below and above", "z-score 2 and 3.5") in study.settings.stated()
    assert study.history.acts[0].label == f"change own limits of {LENGTH} none → z-score 2 and 3.5"
