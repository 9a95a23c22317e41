"""Recipes, packages, reports and packed files that are damaged are read, or refused in words: a short run."""

import json
import subprocess
import sys
from pathlib import Path

CAMPAIGN = Path(__file__).parents[2] / "bench/hostile_files.py"


def test_nothing_that_is_damaged_is_a_fault() -> None:
    done = subprocess.run([sys.executable, str(CAMPAIGN), "--each", "8"], capture_output=True, text=True, check=False)
    found = json.loads(done.stdout)
    assert done.returncode == 0 and found["faults"] == 0 and not done.stderr, (found, done.stderr)
