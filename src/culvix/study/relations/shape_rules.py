"""Findings about the shape of a relation: that it bends, holds in part of the range only, or has an uneven spread."""

from math import sqrt

import numpy as np
from scipy.special import ndtr

from culvix.stats.core.arrays import Floats
from culvix.stats.correlation.partial import partial_correlation
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.correlation.spearman import spearman
from culvix.stats.display import coefficients, count, per_cent, significant
from culvix.study.relations.finding import LEVEL, Candidate, PairRows, RelationFinding, drawn_in, quick_r

__all__ = ["bends", "in_part", "uneven_spread"]

_LEAST_BEND = 0.02
"""A bend accounts for at least this share of what the line leaves."""
_LIKELY = 0.9
"""What falls short of a limit by more than this at a quick look is not worked out with care."""
_ENDS = (0.01, 0.05)
"""Bends are looked for with these shares of the values at either end drawn in."""
_FEWEST_VALUES = 5
_LEAST_RISE = 0.3
"""With a smaller coefficient of ranks a bent relation neither rises nor falls."""
_FEWEST_APART = 40
"""Halves and thirds of fewer rows tell nothing."""
_THERE, _NOT_THERE = 0.3, 0.1
"""A relation is there in one half of the range and not in the other from and up to these coefficients of ranks."""
_LEAST_SPREAD, _LEAST_TIMES = 0.15, 1.5


def bends(pair: PairRows) -> tuple[list[Candidate], int]:
    """Whether a square of one column tells more of the other than a line does; the surer of both directions."""
    found: list[Candidate] = []
    for one, other, names in ((pair.a, pair.b, (pair.x, pair.y)), (pair.b, pair.a, (pair.y, pair.x))):
        # It has to show however far the ends are drawn in, so that no few values make it.
        bends = [_bend(one, other, share) for share in _ENDS]
        if any(bend is None for bend in bends):
            continue
        p = max(bend.p for bend in bends if bend is not None and bend.p is not None)
        first = bends[0]
        if first is None or first.r is None or first.r**2 < _LEAST_BEND:
            continue
        message = (
            f"{names[1]} {_shape(one, other, first.r)} {names[0]}: a bend accounts for {per_cent(first.r**2)} of what "
            f"the line leaves, which r ({coefficients(pair.r.r)[0]}) does not say (n {count(first.n)})."
        )
        found.append(Candidate(min(2 * p, 1.0), RelationFinding("curve", pair.x, pair.y, message)))
    return sorted(found, key=lambda each: each.p)[:1], 1


def _bend(one: Floats, other: Floats, share: float) -> PairCorrelation | None:
    """The partial correlation of ``other`` with the square of ``one``; None where there is none."""
    a, b = drawn_in(one, share), drawn_in(other, share)
    middle = a - a.mean()
    square = middle * middle
    along, across, aside = quick_r(a, square), quick_r(b, square), quick_r(a, b)
    rest = (1 - along * along) * (1 - aside * aside)
    # Most pairs have no bend worth working out with all digits.
    if not rest > 0 or (across - along * aside) ** 2 / rest < _LIKELY * _LEAST_BEND:
        return None
    if np.unique(a).size < _FEWEST_VALUES:
        return None
    found = partial_correlation(b, square, [a])
    return None if found.r is None or found.p is None else found


def _shape(one: Floats, other: Floats, bend: float) -> str:
    """What ``other`` does along ``one``, in words."""
    r, ranks = pearson(one, other).r or 0.0, spearman(one, other).r or 0.0
    if abs(ranks) < _LEAST_RISE:
        return f"has its {'lowest' if bend > 0 else 'highest'} values in the middle of"
    if r > 0:
        return f"rises ever {'faster' if bend > 0 else 'more slowly'} with"
    return f"falls ever {'more slowly' if bend > 0 else 'faster'} with"


def in_part(pair: PairRows) -> tuple[list[Candidate], int]:
    """Whether one column follows the other in one half of its range and not in the other; the surer of both ways."""
    found: list[Candidate] = []
    n = pair.rows.size
    if n < _FEWEST_APART:
        return found, 0
    for one, other, names in ((pair.a, pair.b, (pair.x, pair.y)), (pair.b, pair.a, (pair.y, pair.x))):
        middle = float(np.median(one))
        halves = one < middle, one > middle
        if min(map(np.count_nonzero, halves)) < _FEWEST_APART // 2:
            continue
        rough = [quick_r(one[half], other[half]) for half in halves]
        if max(map(abs, rough)) < _LIKELY * _THERE and max(map(abs, rough)) < 2 * _NOT_THERE:
            continue
        ranks = [spearman(one[half], other[half]).r for half in halves]
        if any(r is None for r in ranks):
            continue
        low, high = (float(r or 0.0) for r in ranks)
        strong, weak = max(abs(low), abs(high)), min(abs(low), abs(high))
        if strong < _THERE or weak > _NOT_THERE:
            continue
        p = _difference_p(low, high, *(int(np.count_nonzero(half)) for half in halves))
        where, elsewhere = ("above", "below") if abs(high) > abs(low) else ("below", "above")
        shown = coefficients(*((high, low) if where == "above" else (low, high)))
        message = (
            f"{names[1]} follows {names[0]} only {where} its median {significant(middle)}: Spearman {shown[0]} there, "
            f"{shown[1]} {elsewhere} it (n {count(n)})."
        )
        found.append(Candidate(min(2 * p, 1.0), RelationFinding("part", pair.x, pair.y, message)))
    return sorted(found, key=lambda each: each.p)[:1], 1


def _difference_p(first: float, second: float, first_n: int, second_n: int) -> float:
    """The p of two coefficients of ranks of separate rows being the same, by the variance of Fieller et al. (1957)."""
    error = sqrt(1.06 / (first_n - 3) + 1.06 / (second_n - 3))
    difference = np.arctanh(np.clip(first, -1 + 1e-15, 1 - 1e-15)) - np.arctanh(np.clip(second, -1 + 1e-15, 1 - 1e-15))
    return 2 * float(ndtr(-abs(float(difference)) / error))


def uneven_spread(pair: PairRows) -> tuple[list[Candidate], int]:
    """Whether one column scatters more about its course at one end of the other than at the other end."""
    if pair.rows.size < _FEWEST_APART:
        return [], 0
    across, back = _uneven(pair, pair.a, pair.b, (pair.x, pair.y)), _uneven(pair, pair.b, pair.a, (pair.y, pair.x))
    # Where a course is steep, an even scatter looks narrow from the side: that is the bend once more.
    if across and not back and _bends_clearly(pair.a, pair.b):
        across = []
    if back and not across and _bends_clearly(pair.b, pair.a):
        back = []
    return sorted((*across, *back), key=lambda each: each.p)[:1], 1


def _bends_clearly(one: Floats, other: Floats) -> bool:
    return all((bend := _bend(one, other, share)) is not None and (bend.p or 0.0) < LEVEL for share in _ENDS)


def _uneven(pair: PairRows, one: Floats, other: Floats, names: tuple[str, str]) -> list[Candidate]:
    """Whether ``other`` scatters unevenly along ``one``."""
    order = np.argsort(one, kind="stable")
    scatter = _scatter(one[order], other[order])
    position = np.arange(scatter.size, dtype=np.float64)
    if abs(quick_r(position, scatter)) < _LIKELY * _LEAST_SPREAD / 2:
        return []
    growth, third = spearman(position, scatter), scatter.size // 3
    ends = [float(np.mean(part**2)) for part in (scatter[:third], scatter[-third:])]
    if growth.r is None or growth.p is None or abs(growth.r) < _LEAST_SPREAD or not min(ends) > 0:
        return []
    times, grows = sqrt(max(ends) / min(ends)), ends[1] > ends[0]
    if times < _LEAST_TIMES or (growth.r > 0) != grows:
        return []
    where, elsewhere = ("upper", "lower") if grows else ("lower", "upper")
    message = (
        f"{names[1]} scatters {significant(times, 2)} times as far in the {where} third of {names[0]} as in the "
        f"{elsewhere} (n {count(pair.rows.size)}): one residual SD does not hold for all."
    )
    return [Candidate(min(2 * growth.p, 1.0), RelationFinding("spread", pair.x, pair.y, message))]


def _scatter(one: Floats, other: Floats) -> Floats:
    """How far ``other`` lies off the line between its two neighbours along ``one`` (ascending), in threes.

    Each is on the scale of a single value (Gasser, Sroka & Jennen-Steinmetz 1986): neighbours tell the scatter wherever
    the course runs. Threes share no value, so that those of columns that do not depend on each other are in no order.
    """
    n = one.size // 3 * 3
    (left, middle, right), (low, between, high) = one[:n].reshape(-1, 3).T, other[:n].reshape(-1, 3).T
    reach = right - left
    share = np.divide(middle - left, reach, out=np.full(reach.size, 0.5), where=reach > 0)
    return np.asarray(np.abs(between - low * (1 - share) - high * share) / np.sqrt(1 + share**2 + (1 - share) ** 2))
