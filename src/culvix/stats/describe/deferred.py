"""The slow robust figures of one column, each with a reason where it cannot be given.

They take about a second each on a million values, so they are worked out apart from the prompt description.
"""

from dataclasses import dataclass, field

from culvix.stats.core.sample import Sample
from culvix.stats.describe.medcouple import medcouple
from culvix.stats.describe.robust_scale import qn, sn

__all__ = ["DeferredFigures", "deferred_figures"]


@dataclass(frozen=True)
class DeferredFigures:
    """Sn and Qn in the column's unit, and the medcouple; None where ``notes`` has the reason under the same name."""

    sn: float | None = None
    qn: float | None = None
    medcouple: float | None = None
    notes: dict[str, str] = field(default_factory=dict)


def deferred_figures(sample: Sample) -> DeferredFigures:
    """The robust figures that take about a second each on a million values.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.

    Returns
    -------
    DeferredFigures
        Sn and Qn in the values' unit, and the medcouple; None where ``notes`` has the reason.

    References
    ----------
    Rousseeuw, P. J. & Croux, C. 1993: Alternatives to the median absolute deviation. Journal of the American
    Statistical Association 88, 1273-1283.
    """
    found = {"sn": sn(sample), "qn": qn(sample), "medcouple": medcouple(sample)}
    two = "Needs at least two values, and a result that a number can hold."
    reasons = {"sn": two, "qn": two, "medcouple": "Needs at least three values that are not all equal."}
    notes = {name: reasons[name] for name, value in found.items() if value is None}
    return DeferredFigures(**found, notes=notes)
