"""Where a sample comes from, as its file says."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from culvix.stats.display import count

__all__ = ["SAMPLE_KEY", "Provenance"]

SAMPLE_KEY = "culvix.sample"
"""Under which a Parquet file says what it is a sample of."""


@dataclass(frozen=True)
class Provenance:
    """Where a sample comes from: ``drawn`` rows of the ``rows`` of ``table`` (or of a ``query``) at ``address``.

    The address has no secret in it. ``key`` names the columns of the table's primary key, ``labels`` are what is
    written there beside a column.
    """

    engine: str
    address: str
    table: str
    query: str
    rows: int
    drawn: int
    seed: int
    by: str
    key: tuple[str, ...] = ()
    labels: Mapping[str, str] = field(default_factory=lambda: MappingProxyType({}))

    @property
    def words(self) -> str:
        """What it is a sample of."""
        by = f", as many of each {self.by}" if self.by else ""
        # Of files the place is long, and says no more than the name.
        what = self.table if self.address.endswith(self.table) else f"{self.table} at {self.address}"
        return f"a sample of {count(self.drawn)} of the {count(self.rows)} rows of {what} (seed {self.seed}{by})"
