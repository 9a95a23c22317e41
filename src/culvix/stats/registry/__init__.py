"""The one table of methods: window, report, profile document and tests all walk it.

A method is one small module with one public function and one row here. Keys are those of the profile document.
"""

from culvix.stats.registry.correlation import CORRELATION_KINDS
from culvix.stats.registry.normality import NORMALITY_TESTS, suggested_test
from culvix.stats.registry.outliers import OUTLIER_METHODS
from culvix.stats.registry.rows import CorrelationKind, NormalityTest, OutlierMethod, Setting

__all__ = [
    "CORRELATION_KINDS",
    "NORMALITY_TESTS",
    "OUTLIER_METHODS",
    "CorrelationKind",
    "NormalityTest",
    "OutlierMethod",
    "Setting",
    "suggested_test",
]
