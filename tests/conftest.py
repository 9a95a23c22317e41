import gc
import os
import tempfile
from pathlib import Path

import pytest
from hypothesis import settings

from culvix.demo import Cohort, spring_cohort, write_demo
from culvix.study import Study
from culvix.tables import Table, read_table

# A deadline measures the machine, not the code. Every run draws examples of its own: many short runs see many.
settings.register_profile("culvix", deadline=None, max_examples=25)
settings.load_profile("culvix")
# Drafts, settings and samples of the tests are nobody's, and do not outlive the tests.
_OWN = tempfile.TemporaryDirectory(prefix="culvix-tests-", ignore_cleanup_errors=True)
for _kind in ("STATE", "CACHE", "DATA", "CONFIG"):
    os.environ[f"XDG_{_kind}_HOME"] = f"{_OWN.name}/{_kind.lower()}"
# Before any application is made: the tests' windows need no display.
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def pytest_collection_finish() -> None:
    """Leave what all tests have in common out of every collection of garbage, which would look through it each time."""
    gc.collect()
    gc.freeze()


def pytest_unconfigure() -> None:
    """Take away what the tests' studies left; a worker's own end of the program would not."""
    _OWN.cleanup()


@pytest.fixture(scope="session")
def cohort() -> Cohort:
    return spring_cohort()


@pytest.fixture(scope="session")
def demo_path(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write_demo(tmp_path_factory.mktemp("demo"))


@pytest.fixture(scope="session")
def demo_table(demo_path: Path) -> Table:
    return read_table(demo_path)


@pytest.fixture
def study(demo_table: Table) -> Study:
    return Study.of_table(demo_table)
