"""Arrays meant to break statistics, and a walk through results for numbers that must never be shown."""

import dataclasses
import math
from collections.abc import Iterator, Mapping

import numpy as np
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

_EDGES = [0.0, -0.0, 1.0, 5e-324, -5e-324, 1e-300, 1e300, -1e300, 1.7e308, -1.7e308, 2.0**53 + 2, 1e16, 1 + 2**-52]

ordinary = st.floats(-1e6, 1e6, allow_nan=False)
awkward = st.one_of(
    st.sampled_from([*_EDGES, math.nan, math.inf, -math.inf]),
    st.floats(allow_nan=True, allow_infinity=True),
    ordinary,
)


def arrays(elements: st.SearchStrategy[float] = awkward, most: int = 40) -> st.SearchStrategy[np.ndarray]:
    """Arrays of up to ``most`` values, ties and constant stretches being common."""
    few = st.lists(elements, min_size=1, max_size=3).flatmap(
        lambda pool: st.lists(st.sampled_from(pool), max_size=most).map(np.array)
    )
    return st.one_of(
        hnp.arrays(np.float64, st.integers(0, most), elements=elements), few.map(lambda a: a.astype(np.float64))
    )


def numbers_in(result: object) -> Iterator[float]:
    """Every float in a result, however deep."""
    if dataclasses.is_dataclass(result):
        for field in dataclasses.fields(result):
            yield from numbers_in(getattr(result, field.name))
    elif isinstance(result, float):
        yield result
    elif isinstance(result, np.ndarray):
        yield from result.ravel().astype(float).tolist()
    elif isinstance(result, Mapping):
        for value in result.values():
            yield from numbers_in(value)
    elif isinstance(result, tuple | list):
        for value in result:
            yield from numbers_in(value)
