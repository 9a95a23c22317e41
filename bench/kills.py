"""Kills the program while somebody works, and looks at what its study file holds:  python bench/kills.py [--kills 200]

Each run is a process of its own with the real window. It decides, undoes, changes settings and saves the study under
another name, as a seed says, and writes down in a log what the history is after each act. The process is killed at a
random moment (SIGKILL), asked to end (SIGTERM), or runs out of room for its file. Then the file has to be readable, and
to hold a state that was there not longer than a second before the end. Prints counts in JSON.
"""

import argparse
import json
import os
import random
import resource
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from pathlib import Path

SECOND = 1.0
ROWS = 60
_BEGINS_SECONDS = 60.0


@dataclass
class Outcome:
    """What came of some runs: how many there were, and what went wrong."""

    runs: int = 0
    acts: int = 0
    unreadable: list[str] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)


def _table(folder: Path) -> Path:
    path = folder / "fish.csv"
    lines = "".join(f"T{i % 3},{100 + i * i}.5,{200 + i}\n" for i in range(ROWS))
    path.write_text("tank,mass_g,length_mm\n" + lines)
    return path


# The process that is killed


def work(folder: Path, seed: int, limit: int) -> None:
    """Open the table in ``folder`` and act on it without end; the log tells of each state after it was reached."""
    os.environ.update(QT_QPA_PLATFORM="offscreen", XDG_STATE_HOME=str(folder / "state"))
    from PyQt6.QtCore import QSettings, QTimer

    from culvix.app.shell.start import Signals, make_application, wait_until
    from culvix.app.shell.window import MainWindow
    from culvix.study import DecisionKind

    draw = random.Random(seed)
    application = make_application(offscreen=True)
    window = MainWindow(QSettings(str(folder / "layout.ini"), QSettings.Format.IniFormat))
    signals = Signals(window)
    window.show()
    window.opening.open_path(folder / "fish.csv")
    wait_until(lambda: window.bench is not None, _BEGINS_SECONDS)
    assert window.bench is not None
    study = window.bench.hub.study
    if limit:
        # As good as a disk with so much room left, and needs no right to make one.
        resource.setrlimit(resource.RLIMIT_FSIZE, (limit, limit))
    log = os.open(folder / "log", os.O_WRONLY | os.O_CREAT | os.O_APPEND)

    def act() -> None:
        if not window.isVisible():
            return
        kind = draw.random()
        rows = draw.sample(range(ROWS), 3)
        if kind < 0.55:
            study.decide(DecisionKind.EXCLUDE_VALUE, "mass_g", rows, reason=f"seen {draw.random():.6f}")
        elif kind < 0.75 and study.history.undoable is not None:
            study.undo()
        elif kind < 0.85 and study.history.redoable is not None:
            study.redo()
        elif kind < 0.97:
            study.change_settings(study.settings.with_limit("z_score", draw.uniform(1, 5)))
        elif not limit:
            window.keeping.save_as(folder / f"saved-{draw.randrange(3)}.culvix")
        state = {"at": time.time(), "place": str(window.keeping.path), "labels": len(study.history.labels)}
        state |= {"cursor": study.history.cursor, "last": study.history.labels[-1:], "safe": window.keeping.is_safe}
        os.write(log, json.dumps(state).encode() + b"\n")
        timer.start(draw.choice((1, 2, 5, 20)))

    timer = QTimer(singleShot=True)
    timer.timeout.connect(act)
    timer.start(0)
    application.exec()
    del signals


# The one that kills


def run(folder: Path, seed: int, how: str, outcome: Outcome) -> None:
    """One process from its beginning to its end, and what is found after it."""
    folder.mkdir()
    _table(folder)
    limit = random.Random(seed).randrange(40_000, 120_000) if how == "full" else 0
    command = [sys.executable, __file__, "--work", str(folder), "--seed", str(seed), "--limit", str(limit)]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    log, deadline = folder / "log", time.monotonic() + _BEGINS_SECONDS
    while not log.exists() and process.poll() is None and time.monotonic() < deadline:
        time.sleep(0.01)
    time.sleep(random.Random(-seed).uniform(0.05, 1.5))
    ended = time.time()
    process.send_signal(signal.SIGTERM if how == "term" else signal.SIGKILL)
    process.wait(30)
    _look(folder, seed, how, ended, outcome)


def _look(folder: Path, seed: int, how: str, ended: float, outcome: Outcome) -> None:
    from culvix.errors import ReadError
    from culvix.study.storage.study_reading import read_study

    lines = (folder / "log").read_text().splitlines() if (folder / "log").exists() else []
    states = [json.loads(line) for line in lines if line.endswith("}")]
    outcome.runs += 1
    outcome.acts += len(states)
    # Where the room ended, what came after was told to be kept nowhere.
    states = [state for state in states if state["safe"]]
    if not states:
        return
    found = []
    for path in sorted({Path(state["place"]) for state in states[-50:]} - {Path("None")}):
        if path.exists():
            try:
                history = read_study(path)
            except ReadError as error:
                outcome.unreadable.append(f"{how} {seed}: {path.name}: {error}")
            else:
                found.append((len(history.labels), history.cursor, list(history.labels[-1:])))
    newest = max((at for at, state in enumerate(states) if _same(state, found)), default=-1)
    after = states[newest + 1 :] if how != "full" else []
    late = [state for state in after if state["at"] < ended - SECOND]
    if late or (how == "term" and after):
        outcome.lost.append(f"{how} {seed}: {len(after)} acts, the first {ended - after[0]['at']:.2f} s before the end")


def _same(state: dict[str, object], found: list[tuple[int, int, list[str]]]) -> bool:
    return (state["labels"], state["cursor"], state["last"]) in found


def campaign(how: str, runs: int, first: int = 0, tell: Callable[[str], object] = lambda _: None) -> Outcome:
    """So many runs that end ``how``: "kill", "term" or "full"."""
    outcome = Outcome()
    with tempfile.TemporaryDirectory() as folder:
        for seed in range(first, first + runs):
            run(Path(folder) / f"{how}-{seed}", seed, how, outcome)
            tell(f"{how} {seed}: {outcome.acts} acts, {len(outcome.unreadable)} unreadable, {len(outcome.lost)} lost")
    return outcome


def main() -> None:
    parser = argparse.ArgumentParser(description=(__doc__ or "").splitlines()[0])
    for name, usual in (("kills", 200), ("terms", 50), ("full", 50), ("first", 0), ("seed", 0), ("limit", 0)):
        parser.add_argument(f"--{name}", type=int, default=usual)
    parser.add_argument("--work", type=Path)
    options = parser.parse_args()
    if options.work is not None:
        work(options.work, options.seed, options.limit)
        return

    def tell(line: str) -> None:
        print(line, file=sys.stderr, flush=True)

    counts = (("kill", options.kills), ("term", options.terms), ("full", options.full))
    print(json.dumps({how: asdict(campaign(how, runs, options.first, tell)) for how, runs in counts}, indent=1))


if __name__ == "__main__":
    main()
