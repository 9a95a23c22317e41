"""A comparison of groups that is kept for the report, where it is worked out anew from the values in use."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

__all__ = ["KeptComparison"]


@dataclass(frozen=True)
class KeptComparison:
    """``measure`` by the column ``by``, in ``ranges`` of it or by a ``period``; or ``columns`` with each other.

    These are ``paired`` by row where they are two. ``answers`` are those to steps on the way to the test, ``test`` is
    the one read first, empty for the one that fits. ``remark`` is said with it, as where a search found the groups.
    """

    measure: str
    by: str
    ranges: int = 0
    period: str = ""
    columns: tuple[str, ...] = ()
    paired: bool = False
    answers: Mapping[str, bool] = field(default_factory=lambda: MappingProxyType({}))
    test: str = ""
    remark: str = ""

    @property
    def needed(self) -> tuple[str, ...]:
        """The columns it is about."""
        return self.columns or (self.measure, self.by)
