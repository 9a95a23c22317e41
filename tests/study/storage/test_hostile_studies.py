"""Files that were tampered with, or damaged at random, are read, read in part, or refused: a short run."""

import json
import subprocess
import sys
from pathlib import Path

CAMPAIGN = Path(__file__).parents[3] / "bench/hostile_studies.py"


def test_nothing_is_executed_changed_or_a_fault() -> None:
    command = [sys.executable, str(CAMPAIGN), "--flips", "12", "--beside", "10", "--said", "10"]
    done = subprocess.run(command, capture_output=True, text=True, timeout=120, check=False)
    found = json.loads(done.stdout)
    assert done.returncode == 0 and found["faults"] == 0, found
    assert found["refused"] > 3 and found["read in part"] > 3
