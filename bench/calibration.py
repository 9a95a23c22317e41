"""How often every test and every outlier method speaks against a normal sample; writes docs/calibration.md.

    .venv/bin/python bench/calibration.py            about ten minutes
    .venv/bin/python bench/calibration.py --values 20000 --output /tmp/rough.md      a rough look

The samples of one n are the same for all tests and methods, and the seed is fixed.
"""

import argparse
import sys
from collections.abc import Callable
from math import sqrt
from pathlib import Path

import numpy as np
from group_tests import SHAPES, SIZES, rates

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.kendall import kendall
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.correlation.spearman import spearman
from culvix.stats.multivariate.row_distances import row_distances
from culvix.stats.registry import GROUP_TESTS, NORMALITY_TESTS, OUTLIER_METHODS

_SIZES = (8, 12, 20, 60, 200, 2000)
_MOST, _SLOW = 4000, 10
"""Samples at the most; a slow method sees every tenth of the values."""
_SEED = 1986
_ROWS = ((10, 2), (20, 2), (25, 5), (50, 5), (50, 10), (100, 10), (200, 5))


def _table(head: str, columns: list[str], lines: dict[str, list[str]]) -> list[str]:
    made = [f"| {head} | {' | '.join(columns)} |", "|---" * (len(columns) + 1) + "|"]
    return [*made, *(f"| {name} | {' | '.join(cells)} |" for name, cells in lines.items()), ""]


def _per_cent(hits: list[bool]) -> str:
    share = float(np.mean(hits))
    return f"{100 * share:.1f} ± {100 * sqrt(max(share * (1 - share), 1e-4) / len(hits)):.1f}"


def normality(samples: dict[int, list[Sample]]) -> list[str]:
    """Share of samples rejected at 5 % and at 1 %."""
    lines = []
    for alpha in (0.05, 0.01):
        cells: dict[str, list[str]] = {}
        for key, test in NORMALITY_TESTS.items():
            cells[test.name] = []
            for drawn in samples.values():
                found = [test.run(sample).p for sample in drawn]
                able = [p < alpha for p in found if p is not None]
                cells[test.name].append(_per_cent(able) if able else "–")
            print(f"{key} at {alpha}", file=sys.stderr)
        head = f"rejects at {100 * alpha:g} %"
        lines += _table(head, [f"n {n}" for n in samples], cells)
    return lines


def outliers(samples: dict[int, list[Sample]]) -> list[str]:
    """Share of samples of which anything is flagged, and the mean number flagged."""
    any_of: dict[str, list[str]] = {}
    many_of: dict[str, list[str]] = {}
    for method in OUTLIER_METHODS.values():
        if method.follows_range:
            continue
        any_of[method.name], many_of[method.name] = [], []
        for n, drawn in samples.items():
            taken = drawn[: max(len(drawn) // _SLOW, 100)] if method.deferred and n > 100 else drawn
            found = [method.run(sample) for sample in taken]
            flagged = np.array([result.rows.size for result in found if result.applies])
            any_of[method.name].append(_per_cent((flagged > 0).tolist()) if flagged.size else "–")
            error = flagged.std() / sqrt(flagged.size) if flagged.size else 0.0
            many_of[method.name].append(f"{flagged.mean():.2f} ± {error:.2f}" if flagged.size else "–")
        print(method.key, file=sys.stderr)
    sizes = [f"n {n}" for n in samples]
    return [*_table("flags anything, %", sizes, any_of), *_table("values flagged", sizes, many_of)]


def rank_correlations() -> list[str]:
    """Share of pairs of independent columns with ties that reach 5 %."""
    cells: dict[str, list[str]] = {}
    runs: dict[str, Callable[[Floats, Floats], PairCorrelation]] = {"Spearman": spearman, "Kendall": kendall}
    for name, run in runs.items():
        cells[name] = []
        for n in _SIZES[:-1]:
            draw = np.random.default_rng((_SEED, n))
            found = [run(*draw.poisson(1.5, (2, n)).astype(float)).p for _ in range(500)]
            cells[name].append(_per_cent([p is not None and p <= 0.05 for p in found]))
    return _table("reaches 5 %", [f"n {n}" for n in _SIZES[:-1]], cells)


def rows() -> list[str]:
    """Share of normal rows beyond the 97.5 % cut-off of robust distances."""
    found = []
    for n, p in _ROWS:
        draw, shares = np.random.default_rng((_SEED, n, p)), []
        for turn in range(200):
            try:
                shares.append(row_distances(list(draw.normal(size=(p, n))), seed=turn).flagged.size / n)
            except StatisticsError:
                break
        error = 100 * np.std(shares) / sqrt(len(shares)) if shares else 0.0
        found.append(f"{100 * np.mean(shares):.1f} ± {error:.1f}" if shares else "–")
    return _table("n / p", [f"{n} / {p}" for n, p in _ROWS], {"rows flagged, % (2.5 wanted)": found})


def groups(tables: int) -> list[str]:
    """Share of tables of groups with one mean in which the tests, and the one chosen for them, reject."""
    cells: dict[str, list[str]] = {}
    heads = [f"{shape} {size}" for shape in SHAPES for size in SIZES]
    for shape in SHAPES.values():
        for seed, sizes in enumerate(SIZES.values()):
            found = rates(sizes, shape, tables, seed)
            for key in (*GROUP_TESTS, "chosen"):
                if key != "chosen" and GROUP_TESTS[key].paired:
                    continue
                name = "the one chosen" if key == "chosen" else GROUP_TESTS[key].short
                share = found.get(key)
                error = 0.0 if share is None else 100 * sqrt(share * (1 - share) / tables)
                cells.setdefault(name, []).append("–" if share is None else f"{100 * share:.1f} ± {error:.1f}")
        print("groups", file=sys.stderr)
    return [*_table("rejects at 5 %", heads, cells), _OFF]


_OFF = """Groups have one mean; the sizes are 5/5, 8/20, 30/30 and ten of 6, the shapes normal, skewed (gamma of
shape 2) and normal with a last group three times as wide. The test that is chosen keeps to 4 to 6 % but for two
groups of 5, where it rejects too seldom if they are skewed, and for ten groups of 6 of which one is three times as
wide: about 10 %, for so few values do not show that their spreads differ, and Welch's analysis of variance would be
as far off where they do not differ. Ranks are no test of means where spreads differ, and a test of spreads or
shapes rejects there as it should.
"""

_TEXT = """# What chance alone makes of normal columns

Made by `bench/calibration.py`: normal samples go through every test of normality and every outlier method, at their
usual settings. Each figure is a share in per cent or a mean, with its standard error. A test at 5 % should speak
against 5 % of them; a rule of thumb promises nothing, and here is what it does.
"""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--values", type=int, default=400_000, help="simulated values for each n, about")
    parser.add_argument("--output", type=Path, default=Path(__file__).parent.parent / "docs" / "calibration.md")
    asked = parser.parse_args()
    draw = np.random.default_rng(_SEED)
    samples = {n: [Sample(draw.normal(size=n)) for _ in range(min(max(asked.values // n, 100), _MOST))] for n in _SIZES}
    parts = {
        "Tests of normality": normality(samples),
        "Outlier methods": outliers(samples),
        "Rank correlations of independent counts": rank_correlations(),
        "Robust distances of rows": rows(),
        "Tests of groups": groups(4000),
    }
    made = ", ".join(f"{len(drawn)} of n {n}" for n, drawn in samples.items())
    text = [_TEXT, f"Samples: {made}; above n 100 a slow method sees a tenth of them.\n"]
    for name, lines in parts.items():
        text += [f"## {name}\n", *lines]
    asked.output.write_text("\n".join(text).rstrip() + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
