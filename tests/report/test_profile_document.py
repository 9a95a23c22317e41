"""The profile document: its contract, its reasons, and its numbers against other code."""

import hashlib
import json
from pathlib import Path

import msgspec
import numpy as np
import pytest
from scipy import stats as oracle

from culvix.report.documents.profile import profile_document
from culvix.report.documents.profile_extras import COLUMN_EXTRAS, TABLE_EXTRAS, Asked
from culvix.stats.registry import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS
from culvix.study import Study
from culvix.tables import Table, read_table


@pytest.fixture(scope="module")
def document(demo_table: Table) -> dict:
    return json.loads(msgspec.json.encode(profile_document(Study.of_table(demo_table).workspace, jobs=2)))


KEYS = set(
    """name role unit label n missing unread non_finite distinct zeros negatives sum mean se_mean median modes
    mode_count sd variance min max range q1 q3 iqr percentiles mad mad_scaled sn qn medcouple trimmed_mean
    winsorized_mean geometric_mean harmonic_mean cv skewness excess_kurtosis skewness_g1
    excess_kurtosis_g2 se_skewness se_kurtosis
    l_scale l_skewness l_kurtosis density qq
    ci_mean ci_median ci_sd ci_sd_bonett normality outliers histogram notes""".split()  # noqa: SIM905
)


def test_document_keeps_its_contract(document: dict, demo_path: Path, demo_table: Table) -> None:
    assert document["format"] == "culvix-profile/2"
    source = document["source"]
    assert source["sha256"] == hashlib.sha256(demo_path.read_bytes()).hexdigest()
    assert (source["rows"], source["columns"], source["duplicate_rows"]) == (2180, 18, 12)
    assert set(document["correlation"]) == {k for k, kind in CORRELATION_KINDS.items() if kind.documented}
    for column in document["columns"]:
        if column["role"] in ("measure", "count", "ordered", "yes/no"):
            assert set(column) >= KEYS, column["name"]
            assert set(column["normality"]) >= {*NORMALITY_TESTS, "suggested", "verdict"}
            first = column["normality"][column["normality"]["suggested"]]["p"]
            assert first <= column["normality"]["p_benjamini_hochberg"] <= column["normality"]["p_holm"] <= 1
            assert set(column["outliers"]) == set(OUTLIER_METHODS)
            assert column["n"] + column["missing"] + column["unread"] + column["non_finite"] == 2180
            assert sum(column["histogram"]["counts"]) == column["n"]
            assert all(column["notes"][k] for k in KEYS if column[k] is None and k not in ("unit", "label"))
        else:
            assert {"n", "missing", "distinct", "most_frequent"} <= set(column)


def test_every_reason_stands_in_words_where_a_number_is_missing(tmp_path: Path) -> None:
    """Constant, tiny and endless columns: no number without a reason, and no number that is none."""
    rows = [
        ("constant", "one", "two", "huge", "small", "whole"),
        ("3.5", "1.5", "1.5", "1e308", "5e-324", "9007199254740993"),
        ("3.5", "", "2.25", "-1e308", "1e-310", "1"),
        ("3.5", "", "", "1.7e308", "0", "2"),
        ("3.5", "", "", "-1.7e308", "2e-310", "2"),
        ("3.5", "", "", "0.5", "5e-324", "3"),
        ("3.5", "", "", "1.5", "1e-320", "4"),
    ]
    path = tmp_path / "odd.csv"
    path.write_text("\n".join(",".join(row) for row in rows) + "\n")
    table = read_table(path)
    document = profile_document(Study.of_table(table).workspace, asked=Asked(frozenset(COLUMN_EXTRAS), repeats=19))
    text = msgspec.json.encode(document).decode()
    assert "NaN" not in text and "Infinity" not in text
    numeric = [column for column in document["columns"] if "mean" in column]
    assert len(numeric) >= 5
    for column in numeric:
        for key in KEYS - {"normality", "outliers", "notes", "unit", "label"}:
            assert column[key] is not None or column["notes"][key], (column["name"], key)
        for key in NORMALITY_TESTS:
            assert column["normality"][key]["p"] is not None or column["notes"][f"normality.{key}"]
        for found in (*column["bootstrap"].values(), *column["transformations"].values()):
            missing = {name for name, value in found.items() if value is None} - {"note", "plain"}
            assert not missing or found.get("note") or column["n"] < 3 or column["sd"] == 0, (column["name"], found)


def test_extras_are_those_of_the_core(demo_table: Table) -> None:
    study = Study.of_table(demo_table)
    names = ["length_mm", "mass_g", "vaccinated", "tank"]
    asked = Asked(frozenset({*COLUMN_EXTRAS, *TABLE_EXTRAS}), "tank", ("length_mm",), 7, 39)
    document = profile_document(study.workspace, columns=names, asked=asked)
    mass = document["columns"][1]
    sample = demo_table["mass_g"].sample
    assert mass["bootstrap"]["median"]["interval"] == pytest.approx(mass["ci_median"], rel=0.05)
    assert mass["bootstrap"]["qn"]["seed"] == 7 and mass["bootstrap"]["qn"]["repeats"] == 39
    assert set(mass["monte_carlo"]) == set(NORMALITY_TESTS)
    assert all(0 < found["p"] <= 1 for found in mass["monte_carlo"].values())
    logs = mass["transformations"]["ln"]
    assert logs["skewness"] == pytest.approx(oracle.skew(np.log(sample.sorted), bias=False), abs=1e-9)
    assert abs(logs["skewness"]) < abs(mass["transformations"]["none"]["skewness"])
    assert mass["transformations"]["box_cox"]["power"] == pytest.approx(
        oracle.boxcox_normmax(sample.sorted, method="mle"), abs=1e-3
    )
    centre = mass["intervals"]["hodges_lehmann"]
    assert centre["interval"][0] < centre["estimate"] < centre["interval"][1]
    assert mass["intervals"]["percentiles"]["50"] == list(mass["ci_median"])
    assert mass["ci_sd_bonett"][0] < mass["sd"] < mass["ci_sd_bonett"][1] and mass["unimodality"]["repeats"] == 39
    resampled = document["bootstrap_correlation"]["pairs"][0]["kendall"]
    assert resampled["interval"][0] < document["correlation"]["kendall"]["r"][0][1] < resampled["interval"][1]
    groups = mass["outliers_by_group"]["methods"]["modified_z"]
    assert set(groups["groups"]) == set(demo_table["tank"].text.drop_nulls().to_list())
    pairs = {(pair["x"], pair["y"]): pair for pair in document["pairs"]}
    assert pairs["length_mm", "vaccinated"]["pearson"] == "Point-biserial"
    assert pairs["length_mm", "mass_g"]["suggested"] == "spearman" and pairs["length_mm", "mass_g"]["reason"]
    low, high = document["correlation"]["pearson"]["interval"][0][1]
    assert low < document["correlation"]["pearson"]["r"][0][1] < high
    assert document["robust_correlation"]["biweight"]["r"][0][1] > 0.9
    assert document["distance_correlation"]["pairs"][0]["p"] == 1 / 40
    compared = mass["by_group"]
    assert compared["test"]["chosen"] == "kruskal_wallis" and len(compared["test"]["steps"]) == 3
    assert sum(group["n"] + group["missing"] for group in compared["groups"].values()) == demo_table.rows
    by_rank = oracle.kruskal(
        *(demo_table["mass_g"].values[demo_table["tank"].text.to_numpy() == t] for t in compared["groups"]),
        nan_policy="omit",
    )
    assert compared["tests"]["kruskal_wallis"]["p"] == pytest.approx(by_rank.pvalue)
    assert len(compared["follow_ups"]) == 15 and compared["effects"][0]["kind"] == "epsilon_squared"
    by_tank = document["correlation_by_group"]["pairs"][0]
    assert by_tank["spearman"]["pooled"]["n"] == sum(g["n"] for g in by_tank["spearman"]["groups"].values())
    held = document["partial_correlation"]["pairs"]
    assert [(pair["x"], pair["y"]) for pair in held] == [("mass_g", "vaccinated")]
    assert document["multivariate"]["columns"] == ["length_mm", "mass_g"]
    assert set(document["multivariate"]["flagged"]) <= set(document["multivariate"]["rows"])


def test_document_agrees_with_numpy(document: dict, demo_table: Table) -> None:
    for column in document["columns"]:
        if "mean" not in column:
            continue
        x = demo_table[column["name"]].sample.sorted
        assert column["mean"] == pytest.approx(x.mean(), rel=1e-13)
        assert column["sd"] == pytest.approx(x.std(ddof=1), rel=1e-12)
        assert list(column["percentiles"].values()) == pytest.approx(
            np.percentile(x, [int(p) for p in column["percentiles"]]), rel=1e-12
        )
        rows = column["outliers"]["iqr_fences"]["rows"]
        assert all(1 <= row <= 2180 for row in rows)
    matrix = document["correlation"]["pearson"]
    i, j = matrix["columns"].index("activity_min_h"), matrix["columns"].index("growth_pct_day")
    pair = [demo_table[c].sample.values for c in ("activity_min_h", "growth_pct_day")]
    assert matrix["r"][i][j] == pytest.approx(np.corrcoef(*pair)[0, 1], rel=1e-12) and matrix["n"][i][j] == 2180


def test_a_long_table_has_slow_matrices_by_name_only(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("culvix.report.documents.profile.MOST_ROWS", 20)
    path = tmp_path / "t.csv"
    path.write_text("x,y\n" + "".join(f"{row * 1.5},{row % 7 + 0.25}\n" for row in range(30)))
    plain = profile_document(Study.of_table(read_table(path)).workspace)["correlation"]
    assert (
        plain["kendall"] is None and "by name" in plain["notes"]["kendall"] and plain["spearman"]["r"][0][1] is not None
    )
    named = profile_document(Study.of_table(read_table(path)).workspace, asked=Asked(frozenset({"kendall"})))[
        "correlation"
    ]
    assert named["kendall"]["r"][0][1] is not None and "notes" not in named
