"""What a measure of association returns."""

from dataclasses import dataclass

__all__ = ["Association", "no_association"]


@dataclass(frozen=True)
class Association:
    """How much one column tells of another, 0 to 1, over the ``n`` rows where both are present.

    ``p`` is that of no association. Both are None, with a note, where there is nothing to compare.
    """

    kind: str
    value: float | None
    p: float | None
    n: int
    note: str | None = None


def no_association(kind: str, n: int, why: str) -> Association:
    """The result for two columns that have no such measure."""
    return Association(kind, None, None, n, why)
