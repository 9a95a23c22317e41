"""From an address to the engine that holds the table there."""

import os
from pathlib import Path

from culvix.errors import ReadError
from culvix.files import display_path
from culvix.progress import Progress, silent
from culvix.tables.engines.engine import Engine
from culvix.tables.engines.files.engine import PolarsEngine
from culvix.tables.engines.postgres.address import SCHEMES, looks_like_address
from culvix.tables.engines.postgres.server_table import ServerTable

__all__ = ["NO_PLACE", "ServerTable", "is_address", "looks_like_address", "open_engine", "tables_at"]

NO_PLACE = (
    "This is neither a file nor an address as it should be, and is not repeated as it may hold a password; an "
    "address is written like postgresql://user@host:5432/database."
)


def is_address(text: str) -> bool:
    """Whether ``text`` is the address of a server, not a path."""
    return text.startswith(SCHEMES)


def open_engine(
    address: str,
    *,
    table: str | None = None,
    query: str | None = None,
    seconds: float | None = None,
    progress: Progress = silent,
) -> Engine:
    """The table at ``address``, a file, a folder of files, or a server with the ``table`` or ``query`` that is meant.

    ``seconds`` is how long one question to a server may take. Raises ReadError where there is none, or it cannot be
    reached.
    """
    if is_address(address):
        from culvix.tables.engines.postgres.engine import PostgresEngine

        return PostgresEngine.connected(address, table=table, query=query, seconds=seconds, progress=progress)
    if table is not None or query is not None:
        raise ReadError("A table or query is named in a server; a file or folder is one table.")
    path = Path(address)
    if not os.path.exists(path):
        if looks_like_address(address):
            raise ReadError(NO_PLACE)
        raise ReadError(f"{display_path(path)} does not exist.")
    return PolarsEngine(path, progress)


def tables_at(address: str, progress: Progress = silent) -> tuple[ServerTable, ...]:
    """The tables and views of the server at ``address`` that may be read. Raises ReadError."""
    from culvix.tables.engines.postgres.catalog import tables_of
    from culvix.tables.engines.postgres.connection import Connection

    connection = Connection(address, progress=progress)
    try:
        return tables_of(connection)
    finally:
        connection.close()
