"""The local level of a simultaneous band around normal Q-Q points: equal local levels, mean and SD estimated.

The pointwise Beta band is drawn at the local level at which a normal sample, standardised by its own mean and SD,
leaves it anywhere with the asked probability (the idea of Aldor-Noiman, Brown, Buja, Rolke & Stine 2013). The levels
were found by seeded simulation (bench/qq_band.py) and are interpolated on logarithmic scales; their own error is below
4 % of the level up to n = 2000, and below 10 % above. Beyond n = 100 000 they go on falling as they did before it.
"""

from math import log

import numpy as np

from culvix.errors import StatisticsError

__all__ = ["local_level"]

_OUTSIDE = (0.5, 0.2, 0.1, 0.05, 0.02, 0.01, 0.005, 0.001)

_LEVELS = {
    3: (0.654, 0.481, 0.432, 0.409, 0.396, 0.391, 0.389, 0.388),
    4: (0.539, 0.412, 0.359, 0.302, 0.251, 0.228, 0.214, 0.195),
    5: (0.475, 0.358, 0.3, 0.251, 0.204, 0.176, 0.151, 0.117),
    7: (0.398, 0.287, 0.237, 0.199, 0.155, 0.13, 0.109, 0.0769),
    10: (0.336, 0.228, 0.18, 0.145, 0.112, 0.0931, 0.0775, 0.0519),
    15: (0.28, 0.179, 0.134, 0.103, 0.0722, 0.0571, 0.0453, 0.0266),
    20: (0.249, 0.153, 0.112, 0.082, 0.0557, 0.0413, 0.031, 0.0174),
    30: (0.212, 0.123, 0.0857, 0.06, 0.0371, 0.0262, 0.018, 0.00796),
    50: (0.175, 0.0959, 0.0631, 0.0421, 0.0243, 0.0157, 0.01, 0.00357),
    100: (0.137, 0.0689, 0.043, 0.0266, 0.0141, 0.00838, 0.00501, 0.00127),
    200: (0.108, 0.0501, 0.0296, 0.0171, 0.00838, 0.00479, 0.00275, 0.000782),
    500: (0.0809, 0.0339, 0.0184, 0.0101, 0.0049, 0.00263, 0.00135, 0.000374),
    1000: (0.0656, 0.0258, 0.0133, 0.00696, 0.00306, 0.0018, 0.000968, 0.000249),
    2000: (0.0541, 0.02, 0.00971, 0.00481, 0.00209, 0.0011, 0.00055, 0.000137),
    5000: (0.0416, 0.0144, 0.00706, 0.0036, 0.00142, 0.000838, 0.000339, 0.000115),
    10000: (0.0354, 0.0116, 0.00551, 0.00273, 0.00126, 0.000589, 0.000324, 6.97e-05),
    30000: (0.0279, 0.00895, 0.00368, 0.00169, 0.000652, 0.000368, 0.000185, 5.98e-05),
    100000: (0.0231, 0.00696, 0.00323, 0.0014, 0.000602, 0.0003, 0.000156, 3.19e-05),
}


def local_level(n: int, level: float) -> float:
    """Two-sided local level whose band holds all n ≥ 3 points with probability ``level``.

    Raises StatisticsError for fewer points or a level outside 0 to 1. Levels beyond 0.5 to 0.999 take those ends.
    """
    if n < 3:
        raise StatisticsError(f"A band needs at least 3 points; there are {n}.")
    if not 0 < level < 1:
        raise StatisticsError(f"The level of a band lies between 0 and 1, not at {level}.")
    outside = [log(share) for share in _OUTSIDE]
    at = float(np.clip(log(1 - level), outside[-1], outside[0]))
    by_size = [float(np.interp(at, outside[::-1], np.log(levels)[::-1])) for levels in _LEVELS.values()]
    sizes = [log(size) for size in _LEVELS]
    beyond = max(log(n) - sizes[-1], 0.0)
    fall = (by_size[-1] - by_size[-4]) / (sizes[-1] - sizes[-4])
    return float(np.exp(np.interp(log(n), sizes, by_size) + fall * beyond))
