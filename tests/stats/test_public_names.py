"""What can be imported from `culvix.stats`, and whether each function is documented in full."""

import inspect
import re

import numpy as np
import pytest

import culvix.stats
from culvix import stats

FUNCTIONS = [name for name in stats.__all__ if inspect.isroutine(getattr(stats, name))]


def sections(name: str) -> dict[str, str]:
    """The parts of a function's documentation by their headings."""
    parts = re.split(r"^(\w+)\n-+\n", inspect.getdoc(getattr(stats, name)) or "", flags=re.MULTILINE)
    return dict(zip(parts[1::2], parts[2::2], strict=True))


@pytest.mark.parametrize("name", FUNCTIONS)
def test_a_public_function_tells_its_parameters_result_errors_and_source(name: str) -> None:
    function, found = getattr(stats, name), sections(name)
    said = [
        each.strip() for line in re.findall(r"^(\S.*)$", found["Parameters"], re.MULTILINE) for each in line.split(",")
    ]
    assert sorted(said) == sorted(inspect.signature(function).parameters)
    assert found["Returns"].strip() and re.search(r"\d{4}|^None", found["References"])
    source = inspect.getsource(inspect.unwrap(function))
    if "raise StatisticsError" in source:
        assert "StatisticsError" in found["Raises"]


def test_every_name_is_there_and_a_function_stands_before_its_module() -> None:
    assert {
        "describe",
        "quantile",
        "shapiro_wilk",
        "medcouple",
        "generalized_esd",
        "row_distances",
        "fit_box_cox",
    } <= set(stats.__all__)
    assert {"spearman", "left_out", "Sample", "dip_test", "hodges_lehmann", "bootstrap_interval"} <= set(stats.__all__)
    assert all(hasattr(stats, name) for name in stats.__all__)
    assert all(not inspect.ismodule(getattr(stats, name)) for name in stats.__all__)


def test_figures_from_the_public_names() -> None:
    sample = stats.Sample.of(np.arange(1.0, 10.0))
    assert stats.describe(sample).mean == 5 and stats.quantile(sample.sorted, 0.5) == 5
    assert stats.medcouple(sample) == 0 and culvix.stats.spearman(sample.values, sample.values).r == 1
