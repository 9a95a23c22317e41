"""Study files tampered with, or damaged at random, with odd things beside them: each is read, in part, or refused
with a sentence, within limits, and nothing but what is the program's own is written.

Prints one JSON object: how many of each, what took longest and most, and everything else that came of it, which is a
fault. Seeded.
"""

import argparse
import json
import os
import random
import sqlite3
import sys
import tempfile
import time
from collections import Counter
from contextlib import closing
from pathlib import Path

from own_state import peak_megabytes

from culvix.errors import CulvixError
from culvix.study import DecisionKind, Study
from culvix.study.carrying.fingerprint import fingerprint_of
from culvix.study.storage.reopening import reopen, reopen_damaged
from culvix.study.storage.study_file import StudyFile, write_study_copy
from culvix.study.storage.study_reading import read_study
from culvix.tables import read_table

HUGE = "9" * 5000
JOURNAL_MARK = b"\xd9\xd5\x05\xf9\x20\xa1\x63\xd7"
OWN = ("STATE", "CACHE", "DATA", "CONFIG")

TAMPERED = (
    "CREATE TRIGGER t AFTER INSERT ON acts BEGIN DELETE FROM acts; END",
    "CREATE TRIGGER acts AFTER INSERT ON about BEGIN DELETE FROM acts; END",
    "CREATE VIEW more AS SELECT * FROM acts",
    "CREATE TABLE more (a)",
    "CREATE INDEX i ON acts (label)",
    'UPDATE acts SET patch = \'[{"op": "replace", "path": "/settings", "value": 7}]\'',
    'UPDATE acts SET patch = \'[{"op": "add", "path": "/decisions/-", "value": {}}]\'',
    'UPDATE acts SET patch = \'[{"op": "replace", "path": "/name/x/y", "value": 7}]\'',
    "UPDATE acts SET patch = '[7]'",
    "UPDATE acts SET patch = '[{}]'",
    f"UPDATE acts SET patch = '[{HUGE}]'",
    f"UPDATE about SET value = '{HUGE}' WHERE key = 'cursor'",
    "UPDATE about SET value = '-1' WHERE key = 'cursor'",
    f"UPDATE beginning SET json = '{HUGE}' WHERE section = 'version'",
    "UPDATE beginning SET json = '\"/etc/passwd\"' WHERE section = 'origin'",
    'UPDATE beginning SET json = \'{"uri": "file:///dev/zero", "size": 1}\' WHERE section = \'origin\'',
    'UPDATE beginning SET json = \'{"uri": "http://example.org/x.csv", "size": 1}\' WHERE section = \'origin\'',
    'UPDATE about SET value = \'{"origin": {"uri": "file:///dev/zero", "size": 1}}\' WHERE key = \'reading\'',
    "UPDATE about SET value = '[]' WHERE key = 'reading'",
    "UPDATE aside SET json = '[' WHERE section = 'view'",
    "UPDATE aside SET json = '{\"stage\": 7}' WHERE section = 'view'",
    "UPDATE checksums SET packed = zeroblob(100000000) WHERE kind = 'key'",
    "UPDATE source SET packed = zeroblob(1000)",
    "UPDATE source SET packed = CAST(x'28b52ffd' || packed AS BLOB)",
    "UPDATE sparklines SET json = ''",
    "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 1000000) "
    "INSERT INTO beginning SELECT 's' || i, '{}' FROM n",
    "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 100000) "
    "INSERT INTO acts SELECT 1000 + i, 'act', 'now', '[]' FROM n",
    "PRAGMA user_version = 99",
    "PRAGMA user_version = -1",
    "PRAGMA application_id = 7",
    "PRAGMA journal_mode = WAL",
)


def make_study(folder: Path) -> Path:
    """A study with some of everything, its table in it."""
    table = folder / "fish.csv"
    table.write_text("tag,net,mass\n" + "".join(f"F{n:03d},{'ab'[n % 2]},{n * n / 7:.2f}\n" for n in range(300)))
    study = Study.of_table(read_table(table))
    for row in range(12):
        study.decide(DecisionKind.KEEP, "mass", [row], reason=f"looked at {row}")
    study.sign("mo")
    path = folder / "fish.culvix"
    write_study_copy(path, study.history, study.table.source.sha256, fingerprint_of(study.table), table)
    file = StudyFile.open(path, read_study(path))
    file.put_sparklines(['{"column": "mass"}'])
    file.close()
    return path


BESIDE = ("-journal", "-wal", "-shm")


def put_beside(path: Path, draw: random.Random, home: Path) -> None:
    """Something odd beside the study, as if it were a part of it."""
    beside, kind = path.with_name(path.name + draw.choice(BESIDE)), draw.randrange(6)
    if kind == 0:
        beside.symlink_to("/dev/zero")
    elif kind == 1:
        os.mkfifo(beside)
    elif kind == 2:
        beside.symlink_to(home / ".bashrc")
    elif kind == 3:
        beside.mkdir()
    elif kind == 4:
        with beside.open("wb") as file:
            file.truncate(1 << 36)
    else:
        name = os.fsencode(home / ".bashrc")
        tail = len(name).to_bytes(4, "big") + sum(name).to_bytes(4, "big") + JOURNAL_MARK
        beside.write_bytes(JOURNAL_MARK.ljust(512, b"\0") + b"\0" * 4 + name + tail)


def clear_beside(path: Path) -> None:
    """Take away what lies beside the study."""
    for ending in BESIDE:
        beside = path.with_name(path.name + ending)
        if beside.is_dir() and not beside.is_symlink():
            beside.rmdir()
        else:
            beside.unlink(missing_ok=True)


def told_otherwise(path: Path, draw: random.Random) -> None:
    """A value of the file that says something else."""
    odd = draw.choice(
        ("", "../../..", "/etc/passwd", ".bashrc", "0" * 64, HUGE, "x" * 5000, "[" * 50_000, "\x00", "-1")
    )
    table, key, value = draw.choice(
        (
            *(("about", "key", "value"), ("acts", "position", "patch")),
            *(("beginning", "section", "json"), ("aside", "section", "json")),
        )
    )
    with closing(sqlite3.connect(path, isolation_level=None)) as connection:
        keys = [row[0] for row in connection.execute(f"SELECT {key} FROM {table}")]
        connection.execute(f"UPDATE {table} SET {value} = ? WHERE {key} = ?", (odd, draw.choice(keys)))


def attempt(path: Path) -> str:
    """What becomes of the file at ``path``: read, in part, or refused; anything else is the name of a fault."""
    before = path.read_bytes()
    try:
        reopen(path)
        outcome = "read"
    except CulvixError as refused:
        outcome = "refused" if _is_sentence(refused.sentence) else f"no sentence: {refused.sentence[:80]}"
        try:
            reopen_damaged(path)
            outcome = "read in part"
        except CulvixError as again:
            outcome = outcome if _is_sentence(again.sentence) else f"no sentence: {again.sentence[:80]}"
        except BaseException as fault:
            return f"fault in part: {type(fault).__name__}: {str(fault)[:100]}"
    except BaseException as fault:
        return f"fault: {type(fault).__name__}: {str(fault)[:100]}"
    return outcome if path.read_bytes() == before else "changed"


def _is_sentence(text: str) -> bool:
    return text.endswith(".") and "\n" not in text and len(text) < 1000


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--flips", type=int, default=2000)
    parser.add_argument("--beside", type=int, default=300)
    parser.add_argument("--said", type=int, default=300)
    parser.add_argument("--seed", type=int, default=19)
    asked = parser.parse_args()
    draw, outcomes = random.Random(asked.seed), Counter[str]()
    with tempfile.TemporaryDirectory() as folder:
        plain = make_study(Path(folder))
        home, longest = Path(folder) / "home", 0.0
        home.mkdir()
        (home / ".bashrc").write_text("precious")
        for kind in OWN:
            (home / kind).mkdir()
            os.environ[f"XDG_{kind}_HOME"] = str(home / kind)
        data, spoilt = plain.read_bytes(), Path(folder) / "spoilt.culvix"
        for statement in TAMPERED:
            spoilt.write_bytes(data)
            with closing(sqlite3.connect(spoilt, isolation_level=None)) as connection:
                connection.execute(statement)
            outcomes[attempt(spoilt)] += 1
            for left in spoilt.parent.glob("spoilt.culvix-*"):
                left.unlink()
        for _ in range(asked.flips):
            bytes_now = bytearray(data)
            for _ in range(draw.choice((1, 2, 10, 100))):
                bytes_now[draw.randrange(len(bytes_now))] = draw.randrange(256)
            spoilt.write_bytes(bytes_now)
            outcomes[attempt(spoilt)] += 1
        for number in range(asked.beside + asked.said):
            spoilt.write_bytes(data)
            if number < asked.beside:
                put_beside(spoilt, draw, home)
            else:
                told_otherwise(spoilt, draw)
            began = time.monotonic()
            outcomes[attempt(spoilt)] += 1
            longest = max(longest, time.monotonic() - began)
            clear_beside(spoilt)
        outcomes["written elsewhere"] += sum(
            [(home / ".bashrc").read_text() != "precious", {each.name for each in home.iterdir()} != {".bashrc", *OWN}]
        )
    faults = {what: many for what, many in outcomes.items() if what not in ("read", "read in part", "refused")}
    files = asked.flips + len(TAMPERED) + asked.beside + asked.said
    megabytes = peak_megabytes()
    over = (longest > 30) + (megabytes > 1024)
    took = {"longest seconds": round(longest, 2), "megabytes": megabytes}
    print(json.dumps({"files": files, **outcomes, **took, "faults": sum(faults.values()) + over}))
    sys.exit(1 if sum(faults.values()) + over else 0)


if __name__ == "__main__":
    main()
