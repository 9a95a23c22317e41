"""`culvix verify`: its exit status, and what it says where."""

from pathlib import Path

import pytest

from culvix.cli import main


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("verify") / "pond.csv"
    path.write_text("depth,warmth\n" + "".join(f"{k % 7 + 0.5},{(k * 13) % 11}.25\n" for k in range(50)))
    return path


def test_status_and_words_of_a_report_that_is_the_same_and_one_that_is_not(
    table: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    report = tmp_path / "pond.html"
    assert main(["report", str(table), "-o", str(report)]) == 0
    assert main(["verify", str(report)]) == 0
    said = capsys.readouterr()
    assert said.out.endswith(" the same.\n") and not said.err
    other = tmp_path / "other.csv"
    other.write_text(table.read_text().replace("6.5,", "6.4,", 1))
    assert main(["verify", str(report), "--source", str(other)]) == 3
    assert "column/depth/mean is" in capsys.readouterr().err
    assert main(["verify", str(table)]) == 2
    said = capsys.readouterr()
    assert said.err.count("\n") == 1 and "no report" in said.err and not said.out


@pytest.mark.parametrize("name", ["report", "report.txt", "report.parquet"])
def test_a_report_is_refused_under_an_ending_that_says_nothing(
    name: str, table: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["report", str(table), "-o", str(tmp_path / name)]) == 2
    assert capsys.readouterr().err.count("\n") == 1 and not list(tmp_path.iterdir())
