"""Where a sample comes from, as its file says."""

from dataclasses import dataclass

from culvix.stats.display import count

__all__ = ["SAMPLE_KEY", "Provenance"]

SAMPLE_KEY = "culvix.sample"
"""Under which a Parquet file says what it is a sample of."""


@dataclass(frozen=True)
class Provenance:
    """Where a sample comes from: ``drawn`` rows of the ``rows`` of ``table`` (or of a ``query``) at ``address``."""

    engine: str
    address: str
    table: str
    query: str
    rows: int
    drawn: int
    seed: int
    by: str

    @property
    def words(self) -> str:
        """What it is a sample of."""
        by = f", as many of each {self.by}" if self.by else ""
        what = f"{self.table} at {self.address}"
        return f"a sample of {count(self.drawn)} of the {count(self.rows)} rows of {what} (seed {self.seed}{by})"
