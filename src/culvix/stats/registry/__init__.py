"""The tables of statistics, tests, outlier methods, kinds of correlation and tests of groups; all lists walk these.

Each is one small module with one public function and one row here. Keys are those of the profile document.
"""

from culvix.stats.registry.correlation import CORRELATION_KINDS
from culvix.stats.registry.groups import GROUP_TESTS
from culvix.stats.registry.normality import NORMALITY_TESTS, suggested_test
from culvix.stats.registry.outliers import OUTLIER_METHODS
from culvix.stats.registry.rows import CorrelationKind, GroupTestKind, NormalityTest, OutlierMethod, Setting
from culvix.stats.registry.statistics import STATISTICS, Statistic, shown_in

__all__ = [
    "CORRELATION_KINDS",
    "GROUP_TESTS",
    "NORMALITY_TESTS",
    "OUTLIER_METHODS",
    "STATISTICS",
    "CorrelationKind",
    "GroupTestKind",
    "NormalityTest",
    "OutlierMethod",
    "Setting",
    "Statistic",
    "registered_keys",
    "shown_in",
    "suggested_test",
]


def registered_keys() -> tuple[str, ...]:
    """The keys of all rows of all tables; the guide has an entry for each."""
    return (*STATISTICS, *NORMALITY_TESTS, *OUTLIER_METHODS, *CORRELATION_KINDS, *GROUP_TESTS)
