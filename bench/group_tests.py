"""How often the tests of groups, and the one chosen for them, reject where nothing differs:  prints one JSON object.

    python bench/group_tests.py            1 000 tables of each kind; --tables 10000 for the figures of the documents

Groups have one mean; the sizes are 5/5, 8/20, 30/30 and ten of 6, the shapes normal, skewed (gamma with shape 2, of
which means are compared with means), and normal of unequal spread, the last group three times as wide.
"""

import argparse
import json
from collections.abc import Callable

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.registry import GROUP_TESTS
from culvix.study.groups.comparison.chosen_test import choose_test

SIZES = {"5/5": (5, 5), "8/20": (8, 20), "30/30": (30, 30), "10 × 6": (6,) * 10}
_SEED, _ALPHA = 20260, 0.05

Shape = Callable[[np.random.Generator, int, bool], Floats]
SHAPES: dict[str, Shape] = {
    "normal": lambda draw, n, _: draw.normal(size=n),
    "skewed": lambda draw, n, _: draw.gamma(2.0, size=n),
    "unequal": lambda draw, n, last: draw.normal(size=n) * (3.0 if last else 1.0),
}


def rates(sizes: tuple[int, ...], shape: Shape, tables: int, seed: int) -> dict[str, float]:
    """The share of ``tables`` in which each test that fits, and the one ``chosen``, rejects."""
    draw = np.random.default_rng((_SEED, seed))
    kinds = {key: kind for key, kind in GROUP_TESTS.items() if kind.fits(len(sizes), paired=False)}
    rejected = dict.fromkeys((*kinds, "chosen"), 0)
    for _ in range(tables):
        groups = [Sample(shape(draw, n, at == len(sizes) - 1)) for at, n in enumerate(sizes)]
        found = {key: kind.run(groups).p for key, kind in kinds.items()}
        for key, p in (*found.items(), ("chosen", found[choose_test(groups, alpha=_ALPHA).key])):
            rejected[key] += p is not None and p < _ALPHA
    return {key: round(times / tables, 4) for key, times in rejected.items()}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--tables", type=int, default=1000)
    tables = parser.parse_args().tables
    found = {
        f"{shape}, {size}": rates(sizes, draw, tables, seed)
        for seed, (size, sizes) in enumerate(SIZES.items())
        for shape, draw in SHAPES.items()
    }
    print(json.dumps({"tables": tables, "rates": found}, ensure_ascii=False, indent=1))


if __name__ == "__main__":
    main()
