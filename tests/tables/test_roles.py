"""Roles: codes, ranks, identifiers, dates, categories that hold digits, units, and what names a row."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.errors import Cancelled
from culvix.tables import Role, Table, read_table
from culvix.tables.cells.date_values import days_of
from culvix.tables.cells.dates import DAY_FIRST, MONTH_FIRST
from culvix.tables.cells.units import conversion, label_and_unit
from culvix.tables.checks.column_checks import check_column, suspected_codes
from culvix.tables.checks.table_checks import check_table
from culvix.tables.model.column_builder import reread
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.options.column_questions import QUESTIONS_OF_COLUMNS


def column(folder: Path, name: str, cells: list[str], *, before: bool = True) -> Table:
    path = folder / "t.csv"
    first = [f"k{k % 5} {k}" for k in range(len(cells))]
    rows = zip(first, cells, strict=True) if before else zip(cells, first, strict=True)
    heads = ("z", name) if before else (name, "z")
    path.write_text("|".join(heads) + "\n" + "".join("|".join(row) + "\n" for row in rows))
    return read_table(path)


draw = np.random.default_rng(5)
CASES: dict[str, tuple[str, list[str], Role, str]] = {
    "codes from 1": ("q7", [str(k) for k in draw.integers(1, 7, 200)], Role.ORDERED, "codes_or_amounts"),
    "1 and 2": ("sex", [str(k) for k in draw.integers(1, 3, 80)], Role.ORDERED, "codes_or_amounts"),
    "codes and a 9": ("q8", [str(k) for k in draw.choice([1, 2, 3, 4, 9], 200)], Role.ORDERED, "codes_or_amounts"),
    "counts from 0": ("lice", [str(k) for k in draw.poisson(1.5, 200)], Role.COUNT, ""),
    "named counts": ("children", [str(k) for k in draw.integers(1, 6, 200)], Role.COUNT, ""),
    "named ranks": ("fin_score", [str(k) for k in draw.integers(0, 5, 200)], Role.ORDERED, ""),
    "a permutation": ("place", [str(k) for k in draw.permutation(np.arange(1, 61))], Role.ORDERED, ""),
    "years": ("year", [str(k) for k in draw.integers(1980, 2020, 90)], Role.DATE, ""),
    "days without marks": ("day", [f"2025{k % 12 + 1:02d}{k % 28 + 1:02d}" for k in range(90)], Role.DATE, ""),
    "ordinals": ("class", ["1st", "2nd", "3rd", "Crew"] * 20, Role.CATEGORY, ""),
    "ranges": ("age", ["<25", "25-29", "30-34", ">35"] * 20, Role.CATEGORY, ""),
    "digits and a letter": ("seat", [f"{k % 3}{'BM'[k % 2]}" if k % 5 else "4C" for k in range(80)], Role.CATEGORY, ""),
    "quarters": ("when", ["2023Q2", "2023Q3", "2023Q4"] * 20, Role.DATE, ""),
    "hexadecimal": ("hash", [f"{k * 7919 + 65536:x}a" for k in range(80)], Role.IDENTIFIER, ""),
    "marks": ("seen", ["x", "", "x", ""] * 20, Role.CATEGORY, ""),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES)
def test_a_column_is_what_its_cells_show(case: str, tmp_path: Path) -> None:
    name, cells, role, asks = CASES[case]
    found = column(tmp_path, name, cells)[name]
    assert (found.role, found.asks) == (role, asks), found.reason


@pytest.mark.parametrize(
    ("cells", "role"),
    [([str(k) for k in (3, 8, 9, 14, 20, 31)], Role.IDENTIFIER), (["3", "9", "8", "14", "20", "31"], Role.COUNT)],
)
def test_a_first_column_without_a_name_that_rises_names_the_rows(cells: list[str], role: Role, tmp_path: Path) -> None:
    table = column(tmp_path, "", cells, before=False)
    assert table.columns[0].role is role


def test_identifiers_beyond_doubles_are_told_apart_to_the_last_digit(tmp_path: Path) -> None:
    big = [str(2**64 - 1 - k) for k in range(40)] + ["123456789012345678901", "123456789012345678902"]
    path = tmp_path / "t.csv"
    path.write_text("big,twin,v\n" + "".join(f"{n},{int(n) - k % 2},{k % 3}\n" for k, n in enumerate(big)))
    table = read_table(path)
    assert table["big"].role is Role.MEASURE and table["big"].distinct == len(big)
    values, counts = table["big"].sample.runs
    assert int(values[-1]) == 123456789012345678902 and counts.max() == 1
    assert not any(found.kind == "duplicate_columns" for found in _about(table))
    repeated = tmp_path / "r.csv"
    repeated.write_text("id,v\n" + "".join(f"{2**63 + k // 2},1\n" for k in range(20)))
    again = read_table(repeated)
    assert again["id"].distinct == 10 and again.repeated_rows.size == 10
    assert again["id"].sample.runs[1].tolist() == [2] * 10


def _about(table: Table) -> list:
    return list(check_table(table))


DATES = {
    "day first": (["18/03/2025", "02/04/2025", "05/06/2025"], "day first", ""),
    "month first": (["03/18/2025", "02/04/2025", "05/06/2025"], "month first", ""),
    "both": (["03/04/2025", "02/04/2025", "05/06/2025"], "day or month first", "day_or_month"),
    "first of the month": ([f"{k}/1/25" for k in range(1, 13)], "month first", ""),
    "points": (["18.03.2025", "2.4.2025"] * 3, "day first", ""),
    "words": (["18 Mar 2025", "2 April 2025"] * 3, "18 Mar 2026", ""),
    "American words": (["Mar 18, 2025", "April 2, 2025"] * 3, "Mar 18, 2026", ""),
    "with a time": (["2025-03-18 10:30", "2025-03-18T10:31:05Z"] * 3, "2026-03-18", ""),
}


@pytest.mark.parametrize("case", DATES)
def test_dates_in_the_common_forms_and_the_order_of_day_and_month(case: str, tmp_path: Path) -> None:
    cells, words, asks = DATES[case]
    found = column(tmp_path, "on", cells * 3)["on"]
    assert found.role is Role.DATE and words in found.reason and found.asks == asks
    if asks:
        orders = [answer.says["date_order"] for answer in QUESTIONS_OF_COLUMNS[asks].answers]
        assert orders == [DAY_FIRST, MONTH_FIRST]
        assert reread(found, ColumnEntry(date_order=DAY_FIRST)).asks == ""


UNITS = {
    "length_mm": "mm", "oxygen_mg_l": "mg/l", "depth (m)": "m", "speed [km/h]": "km/h", "mass_g": "g", "temp °C": "°C",
    "x (2)": None, "gender_m": None, "size_s": None, "log": None, "group_t": None, "p (n=5)": None, "share (%)": "%",
    "acvar_lb": None, "weight_lb": "lb",
}  # fmt: skip


@pytest.mark.parametrize("name", UNITS)
def test_units_come_from_names_that_are_units(name: str) -> None:
    assert label_and_unit(name)[1] == UNITS[name]


@pytest.mark.parametrize(
    ("unit", "target", "value", "given"),
    [
        ("cm", "mm", 1.5, 15),
        ("°F", "°C", 212, 100),
        ("K", "°C", 273.15, 0),
        ("lb", "kg", 1, 0.45359237),
        ("g/l", "mg/l", 2, 2000),
    ],
)
def test_units_are_converted(unit: str, target: str, value: float, given: float) -> None:
    factor = conversion(unit, target)
    assert factor is not None and value * factor[0] + factor[1] == pytest.approx(given, abs=1e-9)
    assert conversion("mm", "g") is None and conversion("g/l", "g/ml") is None


def test_mixed_units_are_read_only_with_the_conversion_said(tmp_path: Path) -> None:
    table = column(tmp_path, "size", ["1.5 mm", "0.15 cm", "2 mm", "2.5 mm"] * 5)
    plain = table["size"]
    assert plain.unread == 20 and plain.kinds["mixed_units"].unit == "mm" and plain.role is Role.MEASURE
    said = reread(plain, ColumnEntry(rules={"mixed_units": "convert"}))
    assert sorted(set(said.sample.values)) == pytest.approx([1.5, 2, 2.5]) and not said.unread
    unlike = column(tmp_path, "size", ["1.5 mm", "3 kg"] * 5)["size"]
    assert unlike.role is Role.CATEGORY and unlike.values is None


def test_what_names_a_row_is_a_text_before_a_number_and_never_the_number_of_the_row(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("no,code,who,v\n" + "".join(f"{k},{k * 3 + 100},Fish {k} of {k},1\n" for k in range(1, 30)))
    label = read_table(path).label_column
    assert label is not None and label.name == "who"
    path.write_text("no,v\n" + "".join(f"{k},1.5\n" for k in range(1, 30)))
    assert read_table(path).label_column is None


def test_a_column_without_a_number_says_what_it_holds(tmp_path: Path) -> None:
    table = column(tmp_path, "x", ["12 %", "14 %", "9 %", "8 %"] * 4)
    words = [found.evidence for found in check_column(table["x"], table.repeated_rows)]
    assert words == ["No cell was read as a number: 16 cells hold something else."]
    gone = column(tmp_path, "x", ["NA", "", "NA"])["x"]
    assert [found.evidence for found in check_column(gone, table.repeated_rows)] == [
        "Every cell is missing: empty, or NA."
    ]


def test_the_largest_of_a_few_levels_is_no_code(tmp_path: Path) -> None:
    doses = [f"{dose:g}" for dose in (0.5, 1, 2, 4, 64)] * 8
    assert not suspected_codes(column(tmp_path, "dose", doses)["dose"].sample)
    panel = [str(size) for size in (210, 215, 222, 230, 231, 7300) for _ in range(9)]
    assert not suspected_codes(column(tmp_path, "size", panel)["size"].sample)


def test_the_comparison_of_columns_can_be_given_up_at_each_of_them(tmp_path: Path) -> None:
    path = tmp_path / "wide.csv"
    cells = np.random.default_rng(3).normal(size=(60, 9)).round(4)
    path.write_text("\n".join(",".join(map(str, row)) for row in [[f"c{k}" for k in range(9)], *cells.tolist()]) + "\n")
    told: list[str] = []

    def give_up_at_the_fourth(share: float, doing: str) -> None:
        told.append(doing)
        if len(told) == 4:
            raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        list(check_table(read_table(path), progress=give_up_at_the_fourth))
    assert told[-1] == "comparing c3 with the others"


def test_an_order_of_dates_that_was_declared_holds_though_another_is_likelier() -> None:
    cells = pl.Series([f"0{month}/03/2026" for month in range(1, 10)])
    likely, said = days_of(cells), days_of(cells, DAY_FIRST)
    assert likely is not None and said is not None
    assert likely[1] - likely[0] == 31 and (np.diff(said) == 1).all()
    impossible = days_of(pl.Series([f"{day}/03/2026" for day in range(10, 29)]), MONTH_FIRST)
    assert impossible is not None and (np.diff(impossible) == 1).all(), "no month is the 28th"
