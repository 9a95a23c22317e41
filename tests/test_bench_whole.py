"""Short runs of what measures surveys and samples of whole tables."""

import json
import sys
from pathlib import Path

import pytest
import samples
import whole

from culvix.study.whole.survey import survey_whole
from culvix.tables.engines import open_engine


def test_samples_lie_within_three_errors_of_the_whole(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setattr(sys, "argv", ["samples", "--rows", "20000", "--samples", "20", "--size", "1000"])
    samples.main()
    assert json.loads(capsys.readouterr().out)["all"] > 0.97


def test_a_survey_in_little_memory_reads_the_parts_a_few_times(tmp_path: Path) -> None:
    whole.make_parts(tmp_path, 60_000)
    found = whole.with_ratio(whole.limited(tmp_path, 2.0))
    assert found["readings"] <= 5 and found["first_figures"] <= found["all"] and found["ratio"] > 0
    assert survey_whole(open_engine(str(tmp_path))).rows == 60_000
