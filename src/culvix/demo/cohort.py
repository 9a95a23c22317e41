"""The two cohorts, generated from a seed: the same bytes on every machine.

The hatchery, its tanks and its fish are invented. Each fish is measured once; whatever a column is meant to show or a
careless hand did to it is recorded as a `Trouble`, with the data rows (counted from 1) it stands in.
"""

import csv
import io
from dataclasses import dataclass, field
from datetime import date, timedelta
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

__all__ = ["Cohort", "Trouble", "last_cohort", "spring_cohort", "write_demo"]

Floats = NDArray[np.float64]

_TANKS = ("T1", "T2", "T3", "T4", "T5", "T6")
_STRAINS = ("lake", "river")
_FEEDS = ("standard", "high oil", "insect")


@dataclass(frozen=True)
class Trouble:
    """Something planted: what kind, in which columns, in which data rows (from 1; empty: the whole column)."""

    kind: str
    columns: tuple[str, ...]
    rows: tuple[int, ...] = ()
    note: str = ""


@dataclass(frozen=True)
class Cohort:
    """A generated file: its name, its header, its rows as text, and the key of what is planted in it."""

    name: str
    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    key: tuple[Trouble, ...] = field(default_factory=tuple)

    @property
    def csv(self) -> str:
        """The file's contents: comma-separated, quoted where needed, lines ended by a single newline."""
        text = io.StringIO()
        writer = csv.writer(text, lineterminator="\n")
        writer.writerow(self.header)
        writer.writerows(self.rows)
        return text.getvalue()

    def planted(self, kind: str) -> Trouble:
        """The one trouble of this kind. Raises KeyError where there is none."""
        for trouble in self.key:
            if trouble.kind == kind:
                return trouble
        raise KeyError(kind)


class _Fish:
    """Columns of n fish under construction: numbers first, then their text, then the planted troubles."""

    def __init__(self, n: int, seed: int, first_day: date, mean_length: float) -> None:
        self.n = n
        self.draw = np.random.Generator(np.random.PCG64(seed))
        self.first_day = first_day
        self.text: dict[str, list[str]] = {}
        self.key: list[Trouble] = []
        self.tank = self.draw.integers(0, len(_TANKS), n)
        self.strain = (self.draw.random(n) < 0.46).astype(np.int64)
        self.length = mean_length + 25.5 * self.draw.standard_normal(n)

    def put(self, name: str, values: Floats, decimals: int) -> None:
        self.text[name] = [f"{value:.{decimals}f}" for value in values]

    def blank(self, name: str, how_many: int) -> None:
        for row in self.draw.choice(self.n, how_many, replace=False):
            self.text[name][row] = ""

    def plant(self, kind: str, name: str, rows: NDArray[np.int64] | list[int], note: str) -> None:
        self.key.append(Trouble(kind, (name,), tuple(int(row) + 1 for row in sorted(rows)), note))

    def whole_column(self, kind: str, names: tuple[str, ...], note: str) -> None:
        self.key.append(Trouble(kind, names, (), note))


def _labels(fish: _Fish, prefix: str) -> None:
    n, draw = fish.n, fish.draw
    fish.text["tag"] = [f"{prefix}-{i:04d}" for i in range(1, n + 1)]
    fish.text["tank"] = [_TANKS[i] for i in fish.tank]
    fish.text["strain"] = [_STRAINS[i] for i in fish.strain]
    fish.text["feed"] = [_FEEDS[i] for i in draw.integers(0, len(_FEEDS), n)]
    days = np.sort(draw.integers(0, 18, n))
    fish.text["sampled_on"] = [(fish.first_day + timedelta(days=int(day))).isoformat() for day in days]
    fish.text["vaccinated"] = ["yes" if u < 0.62 else "no" for u in draw.random(n)]
    score = np.searchsorted([0.34, 0.63, 0.83, 0.95], draw.random(n))
    fish.text["fin_score"] = [str(int(s)) for s in score]
    fish.whole_column("identifier", ("tag",), "one tag a fish")
    fish.whole_column("ordered", ("fin_score",), "fin wear from 0 (none) to 4 (severe): ranks, not measurements")


def _sizes(fish: _Fish) -> None:
    n, draw, length = fish.n, fish.draw, fish.length
    fish.put("length_mm", length, 1)
    fish.put("fork_length_mm", 0.943 * length + 0.9 * draw.standard_normal(n), 1)
    condition = 1.12 * np.exp(0.11 * draw.standard_normal(n))
    fish.put("mass_g", condition * (length / 10) ** 3.05 / 100, 1)
    fish.whole_column("near_normal", ("length_mm",), "normal apart from what is planted in it")
    fish.whole_column("collinear", ("length_mm", "fork_length_mm"), "two readings of nearly the same thing")
    fish.whole_column("power_law", ("length_mm", "mass_g"), "mass grows with about the cube of length; skewed")


def _behaviour(fish: _Fish) -> None:
    n, draw = fish.n, fish.draw
    infected = draw.random(n) < 0.41
    load = draw.negative_binomial(1.3, 0.22, n)
    fish.text["parasite_count"] = [str(int(c)) if on else "0" for c, on in zip(load, infected, strict=True)]
    speed = np.where(fish.strain == 0, 31.0, 47.5) + 4.4 * draw.standard_normal(n)
    fish.put("swim_cm_s", speed, 1)
    ratio = 1.18 + 0.075 * draw.standard_t(3, n)
    ratio[_ill_fed(fish)] += 0.16
    fish.put("feed_ratio", ratio, 3)
    step = fish.tank - 2.5
    activity = 24 + 3.1 * step + 2.6 * draw.standard_normal(n)
    within = activity - (24 + 3.1 * step)
    growth = 1.45 + 0.19 * step - 0.048 * within + 0.10 * draw.standard_normal(n)
    fish.put("activity_min_h", activity, 1)
    fish.put("growth_pct_day", growth, 2)
    fish.whole_column("zero_inflated", ("parasite_count",), "most fish carry none, the rest many")
    fish.whole_column("two_peaks", ("swim_cm_s", "strain"), "one peak for each strain")
    fish.whole_column("heavy_tail", ("feed_ratio",), "t distributed with 3 degrees of freedom")
    fish.plant("subset_of_one", "swim_cm_s", np.flatnonzero(fish.strain == 1), "the river strain swims faster")
    fish.plant("subset_of_two", "feed_ratio", np.flatnonzero(_ill_fed(fish)), "insect feed, not vaccinated: more feed")
    fish.whole_column(
        "sign_reversal", ("activity_min_h", "growth_pct_day", "tank"), "rises over all tanks, falls within each"
    )


def _ill_fed(fish: _Fish) -> NDArray[np.bool_]:
    """The fish that need more feed: insect feed, and not vaccinated."""
    pairs = zip(fish.text["feed"], fish.text["vaccinated"], strict=True)
    return np.array([pair == ("insect", "no") for pair in pairs])


def _chemistry(fish: _Fish) -> None:
    n, draw = fish.n, fish.draw
    fish.put("oxygen_mg_l", 8.9 + 0.62 * draw.standard_normal(n) - 0.05 * fish.tank, 2)
    cortisol = np.exp(1.15 + 0.85 * draw.standard_normal(n))
    fish.text["cortisol_ng_ml"] = [f"{c:.1f}" if c >= 0.5 else "<0.5" for c in cortisol]
    fish.plant("limit_cells", "cortisol_ng_ml", np.flatnonzero(cortisol < 0.5), "below what the kit can measure")
    fish.put("glucose_mmol_l", 4.6 + 0.7 * draw.standard_normal(n), 1)


def _spoil_lengths(fish: _Fish) -> None:
    picked = fish.draw.choice(fish.n, 9, replace=False)
    for row in picked[:5]:
        fish.text["length_mm"][row] = f"{fish.length[row] / 10:.1f}"
    fish.plant("unit_cm", "length_mm", picked[:5], "entered in cm: ten times too small")
    for row, value in zip(picked[5:7], (412.0, 398.0), strict=True):
        fish.text["length_mm"][row] = f"{value:.1f}"
    fish.plant("two_on_board", "length_mm", picked[5:7], "two fish on one measuring board")
    for row in picked[7:9]:
        value = float(fish.text["mass_g"][row])
        fish.text["mass_g"][row] = f"{value * 10:.1f}"
    fish.plant("slipped_point", "mass_g", picked[7:9], "decimal point one place to the right")
    fish.blank("length_mm", 6)
    fish.blank("mass_g", 11)


def _spoil_probes(fish: _Fish) -> None:
    failed = fish.draw.choice(fish.n, 14, replace=False)
    for row in failed:
        fish.text["oxygen_mg_l"][row] = "-9"
    fish.plant("missing_code", "oxygen_mg_l", failed, "−9 written where the probe failed")
    batch = np.arange(1310, 1372)
    for row in batch:
        fish.text["glucose_mmol_l"][row] = fish.text["glucose_mmol_l"][row].replace(".", ",")
    fish.plant("decimal_comma", "glucose_mmol_l", batch, "one batch typed with a decimal comma")
    fish.blank("glucose_mmol_l", 23)
    empty = [row for row in range(fish.n) if not fish.text["glucose_mmol_l"][row]]
    for row in empty[::3]:
        fish.text["glucose_mmol_l"][row] = "NA"
    fish.key[-1] = Trouble(
        "decimal_comma",
        ("glucose_mmol_l",),
        tuple(row + 1 for row in range(fish.n) if "," in fish.text["glucose_mmol_l"][row]),
        "one batch typed with a decimal comma",
    )
    fish.plant("missing_tokens", "glucose_mmol_l", empty[::3], "NA where another hand left the cell empty")


def _as_last_year(fish: _Fish) -> None:
    """What was otherwise last year: a unit, a tank that was not there yet, and a header."""
    fish.text["fork_length_mm"] = [f"{float(text) / 10:.2f}" for text in fish.text["fork_length_mm"]]
    fish.whole_column("changed_unit", ("fork_length_mm",), "noted in cm last year")
    fish.text["tank"] = ["T5" if tank == "T6" else tank for tank in fish.text["tank"]]
    fish.whole_column("changed_level", ("tank",), "tank T6 is new this spring")
    fish.text = {"glucose" if name == "glucose_mmol_l" else name: cells for name, cells in fish.text.items()}
    fish.whole_column("changed_name", ("glucose_mmol_l",), "called glucose last year")
    fish.whole_column("changed_mean", ("length_mm",), "fish are longer this spring")
    fish.whole_column("changed_code", ("oxygen_mg_l",), "−9 was not in use last year")


def _table(fish: _Fish) -> tuple[tuple[str, ...], list[tuple[str, ...]]]:
    return tuple(fish.text), list(zip(*fish.text.values(), strict=True))


def spring_cohort() -> Cohort:
    """This spring's cohort: 2 180 rows, 12 of which repeat an earlier row, with every trouble of the key."""
    fish = _Fish(2168, seed=20260318, first_day=date(2026, 3, 18), mean_length=211.9)
    _labels(fish, "H")
    _sizes(fish)
    _behaviour(fish)
    _chemistry(fish)
    _spoil_lengths(fish)
    _spoil_probes(fish)
    header, rows = _table(fish)
    repeated = np.sort(fish.draw.choice(2000, 12, replace=False))
    # Repeats stand together at the end, as if a page had been typed twice, so that no other row moves.
    rows += [rows[row] for row in repeated]
    key = [_with_repeats(trouble, repeated.tolist(), fish.n) for trouble in fish.key]
    key.append(Trouble("duplicate_rows", (), tuple(range(fish.n + 1, len(rows) + 1)), "a page entered twice"))
    return Cohort("spring_cohort.csv", header, tuple(rows), tuple(key))


def _with_repeats(trouble: Trouble, repeated: list[int], n: int) -> Trouble:
    """The trouble with the rows that repeat one of its rows."""
    again = tuple(n + 1 + position for position, row in enumerate(repeated) if row + 1 in trouble.rows)
    return Trouble(trouble.kind, trouble.columns, trouble.rows + again, trouble.note)


def last_cohort() -> Cohort:
    """Last year's cohort for comparison: 1 940 rows, carefully entered, slightly smaller fish.

    What this spring's has changed against it is in the key of this one, as ``changed_…``.
    """
    fish = _Fish(1940, seed=20250320, first_day=date(2025, 3, 20), mean_length=206.4)
    _labels(fish, "G")
    _sizes(fish)
    _behaviour(fish)
    _chemistry(fish)
    _as_last_year(fish)
    header, rows = _table(fish)
    return Cohort("last_cohort.csv", header, tuple(rows), tuple(fish.key))


def write_demo(folder: Path) -> Path:
    """Write both files into ``folder`` (made if need be) and return the path of this spring's."""
    folder.mkdir(parents=True, exist_ok=True)
    for cohort in (last_cohort(), spring_cohort()):
        path = folder / cohort.name
        path.write_text(cohort.csv, encoding="utf-8", newline="")
    return path
