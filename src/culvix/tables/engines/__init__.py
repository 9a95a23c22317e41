"""Tables that stay where they are: an engine that holds one answers questions about the whole of it."""

from culvix.tables.engines.engine import CAPABILITIES, Engine, EngineColumn, Kind
from culvix.tables.engines.opening import NO_PLACE, ServerTable, is_address, looks_like_address, open_engine, tables_at

__all__ = [
    "CAPABILITIES",
    "NO_PLACE",
    "Engine",
    "EngineColumn",
    "Kind",
    "ServerTable",
    "is_address",
    "looks_like_address",
    "open_engine",
    "tables_at",
]
