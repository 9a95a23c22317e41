"""The command line: documents written whole, one clear line and status 2 for a user's mistake."""

import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

from culvix.cli import main
from culvix.study import DecisionKind, Study
from culvix.study.document.choices.settings import replaced
from culvix.study.storage.study_file import StudyFile
from culvix.tables import read_table
from tests.tables.test_reading import UNREADABLE


def run(*arguments: str | Path, cwd: Path | None = None, **environment: str) -> subprocess.CompletedProcess[str]:
    hidden = {"DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"}
    kept = {name: value for name, value in os.environ.items() if name not in hidden}
    command = [sys.executable, "-m", "culvix", *map(str, arguments)]
    return subprocess.run(command, capture_output=True, text=True, cwd=cwd, env={**kept, **environment}, timeout=120)


@pytest.mark.parametrize("case", [*UNREADABLE, "folder", "missing"])
@pytest.mark.parametrize("command", ["profile", "report"])
def test_unreadable_files_end_with_one_line(
    case: str, command: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "in.csv"
    if case in UNREADABLE:
        path.write_bytes(UNREADABLE[case][0])
    elif case == "folder":
        path.mkdir()
    assert main([command, str(path), "-o", str(tmp_path / "out")]) == 2
    printed = capsys.readouterr()
    assert printed.out == "" and printed.err.startswith("culvix: ") and printed.err.count("\n") == 1
    assert not (tmp_path / "out").exists()


@pytest.mark.parametrize(
    "arguments",
    [
        ["profile"],
        ["profile", "FILE"],
        ["profile", "FILE", "-o", "OUT", "--alpha", "2"],
        ["profile", "FILE", "-o", "OUT", "--alpha", "x"],
        ["profile", "FILE", "-o", "OUT", "--quantile-type", "12"],
        ["profile", "FILE", "-o", "OUT", "--columns", "nothing"],
        ["profile", "FILE", "-o", "nowhere/at/all.json"],
        ["FILE", "FILE"],
        ["--nonsense"],
        ["no-such-file.csv"],
    ],
)
def test_wrong_use_ends_with_one_line(
    arguments: list[str], demo_path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    positions = {"FILE": str(demo_path), "OUT": str(tmp_path / "out.json")}
    try:
        status = main([positions.get(a, a) for a in arguments])
    except SystemExit as stop:
        status = int(stop.code or 0)
    printed = capsys.readouterr()
    assert status == 2 and printed.err.count("\n") == 1 and printed.err.startswith("culvix: ")


def test_profile_options(demo_path: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.json"
    options = ["--columns", "oxygen_mg_l,tank", "--missing", "-9", "--no-correlation", "--quantile-type", "6"]
    assert main(["profile", str(demo_path), "-o", str(out), "--jobs", "2", *options]) == 0
    document = json.loads(out.read_text())
    assert [c["name"] for c in document["columns"]] == ["oxygen_mg_l", "tank"] and "correlation" not in document
    assert document["columns"][0]["missing"] == 14 and document["columns"][0]["min"] > 0
    assert document["settings"]["quantile_type"] == 6 and document["settings"]["missing_codes"] == ["-9"]
    assert os.listdir(tmp_path) == ["out.json"]


def test_a_dictionary_is_taken_along(demo_path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    package = tmp_path / "datapackage.json"
    fields = [
        {"name": "oxygen_mg_l", "missingValues": ["", "-9"]},
        {"name": "cortisol_ng_ml", "culvix": {"rules": {"limit": "half"}}},
    ]
    package.write_text(json.dumps({"description": "By hand.", "resources": [{"schema": {"fields": fields}}]}))
    out = tmp_path / "p.json"
    options = ["--dictionary", str(package), "--no-correlation", "--columns", "oxygen_mg_l,cortisol_ng_ml"]
    assert main(["profile", str(demo_path), "-o", str(out), *options]) == 0
    oxygen, cortisol = json.loads(out.read_text())["columns"]
    assert oxygen["missing"] == 14 and cortisol["min"] == 0.25 and cortisol["unread"] == 0
    report = tmp_path / "r.html"
    assert main(["report", str(demo_path), "-o", str(report), "--dictionary", str(package)]) == 0
    assert "cortisol_ng_ml: 38 cells with a limit: take half the limit." in report.read_text()
    assert "By hand." in report.read_text()
    package.write_text("[")
    assert main(["profile", str(demo_path), "-o", str(out), "--dictionary", str(package)]) == 2
    assert capsys.readouterr().err.count("\n") == 1


def test_names_that_are_markup_and_many_columns(tmp_path: Path) -> None:
    wide = tmp_path / "wide.csv"
    names = ["<script>alert(1)</script>", *(f"c{k}" for k in range(400))]
    wide.write_text(",".join(names) + "\n" + "".join(",".join([str(k)] * 401) + "\n" for k in (1, 2, 4, 8)))
    assert main(["profile", str(wide), "-o", str(tmp_path / "p.json")]) == 0
    assert "choose at most" in json.loads((tmp_path / "p.json").read_text())["correlation"]["notes"]["matrices"]
    small = tmp_path / "small.csv"
    small.write_text("<script>alert(1)</script>,b\n1.5,2\n3,4\n2,9\n")
    assert main(["report", str(small), "-o", str(tmp_path / "r.html")]) == 0
    html = (tmp_path / "r.html").read_text()
    assert html.count("<script") == html.count('<script type="application/json"') == 1 and "&lt;script&gt;" in html


def test_report_stands_on_its_own(demo_path: Path, tmp_path: Path) -> None:
    out = tmp_path / "r.html"
    assert main(["report", str(demo_path), "-o", str(out)]) == 0
    html = out.read_text()
    assert html.count("<svg") == 19 and out.stat().st_size < 4_000_000
    assert not re.search(r'(?:src|href)="(?!#)', html.replace('xlink:href="#', 'href="#'))
    assert set(re.findall(r'href="#(guide-\w+)"', html)) <= set(re.findall(r'id="(guide-\w+)"', html))
    assert "NaN" not in html and "p = 0.000" not in html and "not reviewed" in html


def test_version_help_and_no_display(tmp_path: Path, demo_path: Path) -> None:
    assert re.fullmatch(r"culvix \d+\.\d+\.\d+\n", run("--version").stdout)
    assert "culvix profile FILE" in run("--help").stdout
    refused = run(demo_path)
    assert refused.returncode == 2 and refused.stderr.count("\n") == 1 and "no display" in refused.stderr


def test_demo_without_a_display(tmp_path: Path) -> None:
    done = run("demo", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    made = {path.name for path in (tmp_path / "culvix-demo").iterdir()}
    assert made == {
        "spring_cohort.csv",
        "last_cohort.csv",
        "spring_cohort.profile.json",
        "spring_cohort.report-pictures",
        *(f"spring_cohort.report{suffix}" for suffix in (".html", ".pdf", ".docx", ".md", ".xlsx")),
        "intake.png",
        "survey.png",
        "shape.png",
        "relations.png",
        "pair.png",
        "relations-wide.png",
        "shape-groups.png",
        "spring_cohort.culvix",
        "outliers.png",
        "outliers-multivariate.png",
        "what-if.png",
        "start.png",
        "shape-axis.png",
        "questions.png",
        "report.png",
        "groups.png",
        "subsets.png",
        "compare.png",
    }
    assert str(tmp_path / "culvix-demo") in done.stdout


def test_a_part_of_a_file_is_profiled(demo_path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "p.json"
    some = ["--only", "tag,length_mm", "--rows", "101-2000", "--sample", "50", "--sample-seed", "3"]
    assert main(["profile", str(demo_path), "-o", str(out), "--no-correlation", *some]) == 0
    document = json.loads(out.read_text())
    assert document["source"]["rows"] == 50 and [c["name"] for c in document["columns"]] == ["tag", "length_mm"]
    flagged = [row for method in document["columns"][1]["outliers"].values() for row in method["rows"]]
    assert all(101 <= row <= 2000 for row in flagged)
    inspected = tmp_path / "i.json"
    assert main(["inspect", str(demo_path), "-o", str(inspected), "--key", "tank,feed", "--rows", "2001-"]) == 0
    (found,) = [f for f in json.loads(inspected.read_text())["findings"] if f["kind"] == "repeated_key"]
    assert len(found["rows"]) >= 162 and min(found["rows"]) > 2001
    for wrong in (["--rows", "ten"], ["--rows", "9-3"], ["--sample", "0"], ["--only", "weight"], ["--encoding", "x"]):
        assert main(["inspect", str(demo_path), "-o", str(inspected), *wrong]) == 2
        assert capsys.readouterr().err.count("\n") == 1


PACKAGES = {
    "brackets": "[" * 100_000,
    "a list for a number": '{"resources": [{"schema": {"fields": [{"name": "a", "constraints": {"minimum": [1]}}]}}]}',
    "beyond a number": '{"resources": [{"schema": {"fields": [{"name": "a", "constraints": {"minimum": 1e999}}]}}]}',
    "a long number": '{"resources": [{"schema": {"fields": [{"name": "a", "constraints": {"minimum": '
    + "9" * 400
    + "}}]}}]}",
    "words for fields": '{"resources": [{"schema": {"fields": "abc"}}]}',
    "nothing": "null",
    "a number for codes": '{"resources": [{"schema": {"fields": [{"name": "a", "missingValues": 5}]}}]}',
    "no such role": '{"resources": [{"schema": {"fields": [{"name": "a", "culvix": {"role": "bird"}}]}}]}',
    "no such rule": '{"resources": [{"schema": {"fields": [{"name": "a", "culvix": {"rules": {"x": "y"}}}]}}]}',
    "an object for a title": '{"resources": [{"schema": {"fields": [{"name": "a", "title": {"b": 1}}]}}]}',
}  # fmt: skip


@pytest.mark.parametrize("case", PACKAGES)
def test_a_hostile_dictionary_gets_one_sentence(case: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    table, said, out = tmp_path / "t.csv", tmp_path / "d.json", tmp_path / "o.json"
    table.write_text("a,b\n1,2\n3,4\n")
    said.write_text(PACKAGES[case])
    assert main(["profile", str(table), "--dictionary", str(said), "-o", str(out)]) == 2
    message = capsys.readouterr().err
    assert message.count("\n") == 1 and len(message) < 600 and not out.exists()


WRONG = (
    ("--only", "a,a"), ("--seed", "-1"), ("--repeats", "1000000000000"), ("--rows", "9" * 5000 + "-"),
    ("--leave-last", "-1"), ("--leave-last", "7"), ("--header-lines", "-1"), ("--sample", "0"), ("--jobs", "0"),
)  # fmt: skip


@pytest.mark.parametrize("options", WRONG, ids=lambda options: " ".join(options)[:30])
def test_options_that_make_no_sense_get_one_line(
    options: tuple[str, str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    table, out = tmp_path / "t.csv", tmp_path / "o.json"
    table.write_text("a,b\n1,2\n3,4\n")
    try:
        status = main(["profile", str(table), "-o", str(out), *options])
    except SystemExit as ended:
        status = int(ended.code or 0)
    assert status == 2 and capsys.readouterr().err.count("\n") == 1 and not out.exists()


def test_pipes_are_refused_at_once_wherever_a_file_is_named(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    pipe, table, out = tmp_path / "pipe", tmp_path / "t.csv", tmp_path / "o.json"
    os.mkfifo(pipe)
    table.write_text("a,b\n1,2\n3,4\n")
    for arguments in (
        ["profile", str(pipe), "-o", str(out)],
        ["profile", str(table), "--dictionary", str(pipe), "-o", str(out)],
        ["profile", str(table), "-o", str(pipe)],
        [str(pipe)],
    ):
        assert main(arguments) == 2 and "a device or a pipe" in capsys.readouterr().err


def test_names_of_thousands_of_letters_are_only_long(tmp_path: Path) -> None:
    path, name = tmp_path / "t.csv", "x" * 5000
    path.write_text(f"{name},y\n" + "".join(f"{k * 1.5},{k % 5}\n" for k in range(30)))
    for command in ("profile", "inspect", "report"):
        out = tmp_path / f"{command}.html"
        assert main([command, str(path), "-o", str(out)]) == 0 and name in out.read_text()


# A study where a table may stand


@pytest.fixture
def kept(demo_path: Path, tmp_path: Path) -> Path:
    """A study file of the demo, with a decision and a convention of its own."""
    study = Study.of_table(read_table(demo_path))
    study.decide(DecisionKind.EXCLUDE_VALUE, "length_mm", [0, 1], reason="net torn")
    study.change_settings(replaced(study.settings, alpha=0.01))
    StudyFile.create(tmp_path / "fish.culvix", study.history).close()
    return tmp_path / "fish.culvix"


def test_a_study_is_profiled_as_it_was_left(kept: Path, tmp_path: Path) -> None:
    assert main(["profile", str(kept), "-o", str(tmp_path / "out.json"), "--columns", "length_mm"]) == 0
    document = json.loads((tmp_path / "out.json").read_text())
    assert document["settings"]["alpha"] == 0.01 and document["columns"][0]["excluded"] == 2
    assert main(["report", str(kept), "-o", str(tmp_path / "out.html")]) == 0
    assert "net torn" in (tmp_path / "out.html").read_text()
    assert main(["inspect", str(kept), "-o", str(tmp_path / "in.json")]) == 0
    assert json.loads((tmp_path / "in.json").read_text())["source"]["name"] == "spring_cohort.csv"


def test_options_of_reading_cannot_stand_beside_a_study(
    kept: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    for beside in (["--alpha", "0.1"], ["--rows", "1-20"], ["--missing", "NA"]):
        assert main(["profile", str(kept), "-o", str(tmp_path / "out.json"), *beside]) == 2
        assert f"{beside[0]} cannot stand beside it" in capsys.readouterr().err
    assert not (tmp_path / "out.json").exists()


def test_neither_study_nor_source_is_written_over(
    kept: Path, demo_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    for place in (kept, demo_path):
        before = place.read_bytes()
        assert main(["profile", str(kept), "-o", str(place)]) == 2
        assert place.read_bytes() == before and capsys.readouterr().err.count("\n") == 1


def test_compare_reads_both_files_in_the_same_way(tmp_path: Path) -> None:
    for name, shift in (("one", 0), ("other", 5)):
        rows = "".join(f"{k};{k + shift},5\n" for k in range(60))
        (tmp_path / f"{name}.csv").write_text("id;x\n" + rows)
    out = tmp_path / "out.json"
    done = run(
        "compare", tmp_path / "one.csv", tmp_path / "other.csv", "--rows", "1-40", "--decimal", "comma", "-o", out
    )
    assert done.returncode == 0, done.stderr
    found = json.loads(out.read_text())
    assert (found["here"]["rows"], found["there"]["rows"]) == (40, 40)
    assert found["columns"][0]["role"] and found["rows"]["changed_cells"] == {"x": 40}


def test_compare_writes_what_changed_as_data_and_to_be_read(tmp_path: Path, demo_path: Path) -> None:
    last, out, page = demo_path.with_name("last_cohort.csv"), tmp_path / "out.json", tmp_path / "out.html"
    done = run("compare", demo_path, last, "-o", out)
    assert done.returncode == 0, done.stderr
    found = json.loads(out.read_text())
    assert found["format"] == "culvix-comparison/1" and found["here"]["rows"] == 2180 and found["rows"] is None
    columns = {column["here"]: column for column in found["columns"]}
    assert columns["fork_length_mm"]["unit"]["factor"] == 10 and columns["tank"]["new_levels"] == ["T6"]
    assert columns["oxygen_mg_l"]["new_codes"] == [-9.0] and columns["glucose_mmol_l"]["there"] == "glucose"
    assert len(columns["length_mm"]["quantiles"]["here"]) == len(columns["length_mm"]["quantiles"]["share"])
    assert run("compare", demo_path, last, "-o", page).returncode == 0
    html = page.read_text()
    assert "Values here are about 10 times those there" in html and "<script" not in html
    for wrong in (["-o", tmp_path / "out.txt"], ["-o", out, "--level", "7"], ["-o", demo_path]):
        refused = run("compare", demo_path, last, *wrong)
        assert refused.returncode == 2 and refused.stderr.count("\n") == 1, refused.stderr
