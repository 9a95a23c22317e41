from collections.abc import Iterator

import pytest

from tests.tables.engines.servers import Server, server


@pytest.fixture(scope="session")
def postgres() -> Iterator[Server]:
    with server() as running:
        yield running
