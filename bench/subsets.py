"""How often the search for subsets confirms what is chance, and how long it takes:  prints one JSON object.

``null`` tables have 20 columns, 5 of them categories, and 2 000 rows in which nothing departs; ``speed`` is a table of
100 000 rows with one planted subset of three conditions.
"""

import argparse
import json
import time

import numpy as np

from culvix.stats.core.sample import Sample
from culvix.stats.display import NumberStyle
from culvix.study.groups.attributes import Attribute
from culvix.study.groups.row_groups import quantile_cuts, range_grouping
from culvix.study.groups.subsets.confirmed_subsets import SubsetSearch, subsets_of_levels, subsets_of_values

STYLE = NumberStyle(2, 3)
LEVELS = ("a", "b", "c", "d")


def columns(draw: np.random.Generator, rows: int, categories: int, numbers: int) -> list[Attribute]:
    """What names subsets: categories of two to eight levels, and columns of numbers cut into eight."""
    made = []
    for place in range(categories):
        levels = int(draw.integers(2, 9))
        made.append(Attribute(f"c{place}", draw.integers(0, levels, rows), tuple(map(str, range(levels)))))
    for place in range(numbers):
        sample = Sample.of(draw.normal(size=rows).round(2))
        cuts = quantile_cuts(sample, 8)
        groups = range_grouping(f"x{place}", sample.values, cuts, sample)
        made.append(Attribute(groups.by, groups.codes, groups.names, tuple(f"{cut:g}" for cut in cuts)))
    return made


def null_search(seed: int, rows: int = 2_000) -> SubsetSearch:
    """The search in a table in which nothing departs: normal, skewed and rounded values, and a category, in turn."""
    draw = np.random.default_rng(seed)
    attributes = columns(draw, rows, 5, 15)
    if seed % 4 == 0:
        return subsets_of_levels("c", draw.integers(0, len(LEVELS), rows), LEVELS, attributes)
    values = (draw.normal(size=rows), draw.gamma(1, size=rows), draw.gamma(1, size=rows).round(1))[seed % 4 - 1]
    return subsets_of_values("y", values, STYLE, attributes)


def speed(rows: int = 100_000) -> dict[str, object]:
    """Seconds of a search in a long table, and what it found."""
    draw = np.random.default_rng(1)
    attributes = columns(draw, rows, 5, 15)
    values = draw.normal(size=rows)
    values[(attributes[0].codes == 1) & (attributes[1].codes == 0) & (attributes[6].codes > 4)] += 0.8
    begun = time.perf_counter()
    found = subsets_of_values("y", values, STYLE, attributes)
    return {
        "seconds": round(time.perf_counter() - begun, 2),
        "tried": found.tried,
        "found": [subset.sentence for subset in found.subsets],
    }


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--tables", type=int, default=100)
    asked = parser.parse_args()
    searches = [null_search(seed) for seed in range(asked.tables)]
    print(
        json.dumps(
            {
                "null_tables": asked.tables,
                "with_a_subset_found": sum(bool(each.subsets) for each in searches),
                "with_a_confirmed_subset": sum(any(s.confirmed for s in each.subsets) for each in searches),
                "speed": speed(),
            }
        )
    )


if __name__ == "__main__":
    main()
