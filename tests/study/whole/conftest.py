import pytest

from tests.tables.engines.conftest import postgres

__all__ = ["postgres"]

# What helpers assert is to be told as in a test.
pytest.register_assert_rewrite("tests.study.whole.figures")
