"""A table of a server, as it is listed."""

from dataclasses import dataclass

__all__ = ["ServerTable"]


@dataclass(frozen=True)
class ServerTable:
    """A table or view that the user may read.

    ``rows`` is the server's estimate, None where it has none, ``comment`` what is written of it.
    """

    schema: str
    name: str
    kind: str
    rows: int | None
    comment: str

    @property
    def title(self) -> str:
        return f"{self.schema}.{self.name}"

    @property
    def has_places(self) -> bool:
        """Whether the server can sample it by where its rows lie."""
        return self.kind in ("table", "partitioned table", "materialised view")
