"""Recipes, data packages, reports, packed files and spreadsheets damaged at random: each is read, or refused in words.

Prints one JSON object by kind: how many were read and refused, what took longest and most, and faults. Seeded.
"""

import argparse
import gzip
import json
import random
import sqlite3
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import xlsxwriter
import zstandard
from own_state import peak_megabytes

from culvix.app.shell.start import make_application
from culvix.errors import CulvixError
from culvix.places import scratch_folder
from culvix.report.formats.report_files import write_report
from culvix.report.render_process import Drawing
from culvix.report.verify import verify
from culvix.study import DecisionKind, Study
from culvix.study.recipes.recipe import recipe_of
from culvix.study.recipes.recipe_format import encode_recipe, load_recipe
from culvix.tables import read_table
from culvix.tables.model.dictionary import load_data_package, write_data_package

REFUSED, READ = "refused", "read"


def make_files(folder: Path) -> dict[str, list[tuple[Path, Callable[[Path], object]]]]:
    """Files of each kind, with what reads them."""
    table = folder / "fish.csv"
    table.write_text("tag,net,mass\n" + "".join(f"F{n:03d},{'ab'[n % 2]},{n * n / 7:.2f}\n" for n in range(120)))
    study = Study.of_table(read_table(table))
    study.decide(DecisionKind.KEEP, "mass", [3], reason="looked at")
    recipe, package = folder / "recipe.json", folder / "datapackage.json"
    recipe.write_bytes(encode_recipe(recipe_of(study.workspace, study.history)))
    package.write_bytes(write_data_package(study.table.columns, study.table.source, None, study.dictionary))
    draw = Drawing().draw
    reports = [folder / f"report{ending}" for ending in (".html", ".docx", ".pdf")]
    for report in reports:
        write_report(study.workspace, report, draw)
    book, gz, zst, database = (folder / name for name in ("b.xlsx", "t.csv.gz", "t.csv.zst", "d.sqlite"))
    with xlsxwriter.Workbook(book) as made:
        sheet = made.add_worksheet("fish")
        for row, line in enumerate(table.read_text().splitlines()):
            sheet.write_row(row, 0, line.split(","))
    gz.write_bytes(gzip.compress(table.read_bytes()))
    zst.write_bytes(zstandard.ZstdCompressor().compress(table.read_bytes()))
    with closing(sqlite3.connect(database)) as connection, connection:
        connection.execute("CREATE TABLE fish (tag, mass)")
        connection.executemany("INSERT INTO fish VALUES (?, ?)", [(f"F{n}", n) for n in range(50)])
    return {
        "recipes and packages": [(recipe, load_recipe), (package, load_data_package)],
        "reports": [(report, lambda path: verify(path, table, draw)) for report in reports],
        "packed and spreadsheets": [(path, read_table) for path in (book, gz, zst, database)],
    }


def spoilt(data: bytes, draw: random.Random) -> bytes:
    """``data`` with some bytes other, a part gone, said twice, or something odd in it."""
    changed, kind = bytearray(data), draw.randrange(4)
    at = draw.randrange(len(changed))
    if kind == 0:
        for _ in range(draw.choice((1, 3, 30))):
            changed[draw.randrange(len(changed))] = draw.randrange(256)
    elif kind == 1:
        del changed[at : at + draw.choice((1, 40, 4000))]
    elif kind == 2:
        changed[at:at] = changed[at : at + draw.choice((1, 40, 4000))]
    else:
        changed[at:at] = draw.choice((b"[" * 60_000, b"9" * 5000, b'"/etc/passwd"', b"\xff\xfe\x00", b'{"a":' * 3000))
    return bytes(changed)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--each", type=int, default=200)
    parser.add_argument("--seed", type=int, default=42)
    asked = parser.parse_args()
    make_application(offscreen=True)
    draw, found, faults = random.Random(asked.seed), dict[str, object](), Counter[str]()
    with tempfile.TemporaryDirectory() as name, scratch_folder():
        for kind, files in make_files(Path(name)).items():
            outcomes, longest = Counter[str](), 0.0
            for number in range(asked.each):
                path, read = files[number % len(files)]
                odd = path.with_name(f"odd-{path.name}")
                odd.write_bytes(spoilt(path.read_bytes(), draw))
                began = time.monotonic()
                try:
                    read(odd)
                    outcomes[READ] += 1
                except CulvixError as refused:
                    outcomes[REFUSED] += 1
                    faults["no sentence"] += "\n" in refused.sentence or len(refused.sentence) > 1000
                except BaseException as fault:
                    faults[f"{kind}: {type(fault).__name__}: {str(fault)[:100]}"] += 1
                longest = max(longest, time.monotonic() - began)
            found[kind] = {**outcomes, "longest seconds": round(longest, 2)}
            faults["longer than 30 s"] += longest > 30
    megabytes = peak_megabytes()
    faults["more than 1 GB"] += megabytes > 1024
    real = {what: many for what, many in faults.items() if many}
    print(json.dumps({**found, "megabytes": megabytes, "faults": sum(real.values()), **real}))
    sys.exit(1 if real else 0)


if __name__ == "__main__":
    main()
