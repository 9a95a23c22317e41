"""Which numbers of each group are shown."""

from culvix.stats.registry import STATISTICS, shown_in
from culvix.study.document.choices.view import View

__all__ = ["chosen_statistics"]


def chosen_statistics(view: View) -> tuple[str, ...]:
    """The keys chosen in ``view``, in order, without those that are none; the usual ones where none were chosen."""
    return tuple(key for key in view.groups_statistics if key in STATISTICS) or shown_in("groups")
