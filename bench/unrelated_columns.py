"""How often something is said of pairs of columns that have nothing to do with each other:  prints one JSON object.

    python bench/unrelated_columns.py            20 tables of 30 columns; --tables 200 for the rate itself

Each kind of finding is meant to be wrong in at most one such table of twenty.
"""

import argparse
import json
from collections import Counter

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.study.analysis.grouping import Grouping
from culvix.study.relations.relation_findings import relation_findings

_COLUMNS = 30
_ROWS = (40, 200, 800)


def column(draw: np.random.Generator, n: int, shape: int) -> Floats:
    """One of five shapes: normal, skewed, far in both tails, codes, skewed over orders of magnitude."""
    shapes = (
        lambda: draw.normal(size=n),
        lambda: draw.gamma(2, 3, n),
        lambda: draw.standard_t(4, n),
        lambda: draw.integers(0, 6, n).astype(float),
        lambda: np.exp(draw.normal(size=n)),
    )
    return np.asarray(shapes[shape % len(shapes)]())


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--tables", type=int, default=20)
    tables = parser.parse_args().tables
    wrong, kinds = 0, Counter[str]()
    for seed in range(tables):
        draw = np.random.default_rng(seed)
        n = int(draw.choice(_ROWS))
        columns = [column(draw, n, shape) for shape in range(_COLUMNS)]
        groups = [Grouping("group", tuple("abcd"), draw.integers(0, 4, n))]
        found = {each.kind for each in relation_findings([f"c{j}" for j in range(_COLUMNS)], columns, groups)}
        wrong += bool(found)
        kinds.update(found)
    print(json.dumps({"tables": tables, "with_a_finding": wrong, "by_kind": dict(kinds)}))


if __name__ == "__main__":
    main()
