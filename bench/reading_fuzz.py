"""Damaged, odd and hostile files of every format, made from a seed, and what reading makes of them:

    .venv/bin/python bench/reading_fuzz.py --cases 2000 --seed 1

Each case is read as the command line would, its intake document made, and nothing else. A file is read or refused in a
sentence; every other outcome is a failure and is printed with the seed that makes it again. Memory is limited to that
of the process at the start and six gigabytes of addresses more.
"""

import argparse
import csv
import gzip
import io
import json
import resource
import sqlite3
import sys
import tempfile
import time
import traceback
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import polars as pl
import zstandard

from culvix.errors import CulvixError
from culvix.report.documents.intake import intake_document
from culvix.tables import read_table

__all__ = ["FORMATS", "Failure", "cases", "read_case"]

_CELLS = (
    *("", " ", "NA", "n/a", "None", "-", "?", "#DIV/0!", "#N/A", "x", "1", "0", "-1", "1.5", "1,5", "1.080", "1,080"),
    *(
        "1.234,5",
        "1,234.5",
        "1e5",
        "1e999",
        "inf",
        "nan",
        "−3",
        "(5)",
        "5-",
        "5%",
        "$5",
        "5 mm",
        "0.5 cm",
        "<0.5",
        ">9",
    ),
    *(
        "25-29",
        "1st",
        "41B",
        "2023Q2",
        "03/04/2026",
        "2026-03-18",
        "yes",
        "no",
        "TRUE",
        "FALSE",
        "Köln",
        "a b",
        '"',
        "'",
    ),
    *(
        "=1+1",
        "<img src=x>",
        "12345678901234567890",
        "9007199254740993",
        "0007",
        "\u202eabc",
        "😀",
        "a\tb",
        "a,b",
        "a;b",
    ),
    *("Total", "\x0b", "\u00a0", "9" * 400, "x" * 300, "-9", "999", "20260318"),
)
_NAMES = ("a", "n", "", "id", "year", "1940", "x (2)", "length_mm", "a", "text", "count", "<b>", "name", "temp °C")


@dataclass(frozen=True)
class Failure:
    """A case that was neither read nor refused in a sentence."""

    form: str
    seed: int
    text: str


def _table(draw: np.random.Generator) -> tuple[list[str], list[list[str]]]:
    width, height = int(draw.integers(1, 7)), int(draw.integers(0, 30))
    names = [str(draw.choice(_NAMES)) for _ in range(width)]
    pools = [draw.choice(_CELLS, int(draw.integers(1, 6))) for _ in range(width)]
    numbers = draw.random(width) < 0.5
    rows = []
    for _ in range(height):
        row = [
            f"{draw.normal(10, 3):.2f}"
            if numbers[position] and draw.random() < 0.8
            else str(draw.choice(pools[position]))
            for position in range(width)
        ]
        rows.append(row)
    return names, rows


def _text(draw: np.random.Generator) -> bytes:
    names, rows = _table(draw)
    out = io.StringIO()
    mark = str(draw.choice([",", ";", "\t", "|", " "]))
    quoting = csv.QUOTE_ALL if draw.random() < 0.3 else csv.QUOTE_MINIMAL
    ends = str(draw.choice(["\n", "\r\n", "\r"]))
    writer = csv.writer(out, delimiter=mark, lineterminator=ends, quoting=quoting)
    for _ in range(int(draw.integers(0, 3))):
        if draw.random() < 0.2:
            writer.writerow(["Report"] + [""] * (len(names) - 1) * int(draw.integers(0, 2)))
    writer.writerow(names)
    for row in rows:
        ragged = draw.random()
        writer.writerow(row[:-1] if ragged < 0.01 else [*row, "more"] if ragged < 0.02 else row)
    if draw.random() < 0.1:
        out.write("Source: somebody\n")
    coding = str(draw.choice(["utf-8", "utf-8-sig", "utf-16", "cp1252", "latin-1"]))
    return out.getvalue().encode(coding, errors="replace")


def _frame(draw: np.random.Generator) -> pl.DataFrame:
    names, rows = _table(draw)
    unique = [f"{name}{position}" for position, name in enumerate(names)]
    frame = pl.DataFrame({name: [row[position] for row in rows] for position, name in enumerate(unique)})
    extra = {
        "i": pl.Series(draw.integers(-5, 2**62, frame.height), dtype=pl.Int64),
        "u": pl.Series([2**64 - 1 - k for k in range(frame.height)], dtype=pl.UInt64),
        "f": pl.Series(draw.normal(size=frame.height)),
        "d": pl.Series([k * 1000 for k in range(frame.height)]).cast(pl.Duration("ms")),
        "t": pl.Series(list(range(frame.height))).cast(pl.Time),
        "day": pl.Series(list(range(frame.height))).cast(pl.Date),
        "list": pl.Series([[k, k + 1] for k in range(frame.height)], dtype=pl.List(pl.Int64)),
        "bytes": pl.Series([b"\x00\xff"] * frame.height, dtype=pl.Binary),
        "none": pl.Series([None] * frame.height, dtype=pl.Null),
        "cat": pl.Series(["a"] * frame.height, dtype=pl.Categorical),
        "dec": pl.Series(["1.50"] * frame.height).cast(pl.Decimal(10, 2)),
    }
    for name, series in extra.items():
        if draw.random() < 0.3:
            frame = frame.with_columns(series.alias(name))
    return frame


def _written(how: str) -> Callable[[np.random.Generator], bytes]:
    def make(draw: np.random.Generator) -> bytes:
        data = io.BytesIO()
        getattr(_frame(draw), how)(data)
        return data.getvalue()

    return make


def _json(draw: np.random.Generator) -> bytes:
    names, rows = _table(draw)
    unique = [f"{name}{position}" for position, name in enumerate(names)]
    records = [dict(zip(unique, row, strict=True)) for row in rows]
    for record in records:
        if draw.random() < 0.1:
            record.pop(unique[0], None)
        if draw.random() < 0.05:
            record[unique[-1]] = [1, {"a": 2}]  # type: ignore[assignment]
    shapes = (
        records,
        {"data": records},
        {name: [row[position] for row in rows] for position, name in enumerate(unique)},
        {"columns": unique, "data": rows},
        [unique, *rows],
        {name: {str(k): row[position] for k, row in enumerate(rows)} for position, name in enumerate(unique)},
        {"meta": 1, "items": records, "other": records[:1]},
        5,
        "text",
        [],
    )
    return json.dumps(shapes[int(draw.integers(len(shapes)))]).encode()


def _lines(draw: np.random.Generator) -> bytes:
    names, rows = _table(draw)
    unique = [f"{name}{position}" for position, name in enumerate(names)]
    return "\n".join(json.dumps(dict(zip(unique, row, strict=True))) for row in rows).encode() or b"{}"


def _sheet(draw: np.random.Generator) -> bytes:
    import xlsxwriter

    names, rows = _table(draw)
    data = io.BytesIO()
    book = xlsxwriter.Workbook(data, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    for position in range(int(draw.integers(1, 4))):
        sheet = book.add_worksheet(f"sheet {position}")
        if position == 0 and draw.random() < 0.1:
            continue
        down, right = (int(draw.integers(0, 4)) for _ in range(2))
        sheet.write_row(down, right, names)
        for number, row in enumerate(rows, start=1):
            for column, cell in enumerate(row):
                if draw.random() < 0.02:
                    sheet.write_formula(down + number, right + column, "=1/0", None, "#DIV/0!")
                else:
                    sheet.write(down + number, right + column, cell[:200])
        if draw.random() < 0.05:
            sheet.write(1_048_575, 16_383, "far")
    book.close()
    return data.getvalue()


def _open_sheet(draw: np.random.Generator) -> bytes:
    names, rows = _table(draw)

    def cell(text: str) -> str:
        plain = text.replace("&", "&amp;").replace("<", "&lt;").replace("\x0b", "")
        times = f' table:number-columns-repeated="{int(draw.integers(1, 9))}"' if draw.random() < 0.02 else ""
        return f'<table:table-cell office:value-type="string"{times}><text:p>{plain}</text:p></table:table-cell>'

    def row(cells: list[str]) -> str:
        times = f' table:number-rows-repeated="{int(10 ** draw.integers(1, 7))}"' if draw.random() < 0.01 else ""
        return f"<table:table-row{times}>{''.join(map(cell, cells))}</table:table-row>"

    space = "urn:oasis:names:tc:opendocument:xmlns"
    content = (
        f'<office:document-content xmlns:office="{space}:office:1.0" xmlns:table="{space}:table:1.0" '
        f'xmlns:text="{space}:text:1.0"><office:body><office:spreadsheet><table:table table:name="t">'
        f"{''.join(map(row, [names, *rows]))}</table:table></office:spreadsheet></office:body>"
        "</office:document-content>"
    )
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("content.xml", content)
        archive.writestr("META-INF/manifest.xml", "<manifest/>")
    return data.getvalue()


def _database(draw: np.random.Generator) -> bytes:
    names, rows = _table(draw)
    unique = [f"{name}{position}".replace('"', "") for position, name in enumerate(names)]
    with sqlite3.connect(":memory:") as database:
        quoted = ", ".join(f'"{name}"' for name in unique)
        database.execute(f"create table t ({quoted})")
        database.executemany(f"insert into t values ({', '.join('?' * len(unique))})", rows)
        if draw.random() < 0.1:
            database.execute("insert into t select * from t")
        if draw.random() < 0.1:
            database.execute(f"update t set \"{unique[0]}\" = x'00ff'")
        database.commit()
        data = bytearray(database.serialize())
    if draw.random() < 0.3:
        data[18] = data[19] = 2
    return bytes(data)


FORMATS: dict[str, Callable[[np.random.Generator], bytes]] = {
    "t.csv": _text,
    "t.csv.gz": lambda draw: gzip.compress(_text(draw)),
    "t.csv.zst": lambda draw: zstandard.compress(_text(draw)),
    "t.parquet": _written("write_parquet"),
    "t.arrow": _written("write_ipc"),
    "t.json": _json,
    "t.ndjson": _lines,
    "t.xlsx": _sheet,
    "t.ods": _open_sheet,
    "t.sqlite": _database,
}


def _damaged(data: bytes, draw: np.random.Generator) -> bytes:
    """``data`` cut off, with bytes changed, doubled or taken out; half of the time as it is."""
    if not data or draw.random() < 0.5:
        return data
    changed = bytearray(data)
    for _ in range(int(draw.integers(1, 6))):
        at = int(draw.integers(0, max(len(changed), 1)))
        what = int(draw.integers(0, 5))
        if what == 0:
            del changed[at:]
        elif what == 1:
            changed[at : at + 1] = bytes(draw.integers(0, 256, 1, dtype=np.uint8))
        elif what == 2:
            changed[at:at] = bytes(draw.integers(0, 256, int(draw.integers(1, 20)), dtype=np.uint8))
        elif what == 3:
            del changed[at : at + int(draw.integers(1, 40))]
        else:
            changed[at:at] = changed[at : at + int(draw.integers(1, 60))]
    return bytes(changed)


def cases(form: str, seed: int, count: int) -> Iterator[tuple[int, bytes]]:
    """``count`` files of a format, each with the seed that makes it again."""
    for number in range(seed, seed + count):
        draw = np.random.default_rng((number, list(FORMATS).index(form)))
        yield number, _damaged(FORMATS[form](draw), draw)


def read_case(form: str, seed: int, data: bytes, folder: Path) -> Failure | None:
    """Read one case; None where it was read, or refused in one sentence."""
    path = folder / form
    path.write_bytes(data)
    try:
        document = intake_document(read_table(path))
        json.dumps(document)
        for column in document["columns"]:
            if column["n"] + column["missing"] + column["unread"] > document["source"]["rows"]:
                return Failure(form, seed, f"{column['name']}: more cells than rows")
    except CulvixError as error:
        sentence = error.sentence
        if not sentence.endswith(".") or len(sentence) > 1500 or "Traceback" in sentence:
            return Failure(form, seed, f"no sentence: {sentence[:300]}")
    except BaseException as error:  # that nothing else comes out is what is tried
        if isinstance(error, KeyboardInterrupt):
            raise
        return Failure(form, seed, "".join(traceback.format_exception(error))[-1500:])
    return None


def _main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--cases", type=int, default=1000, help="cases of each format")
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--only", choices=list(FORMATS), help="one format")
    options = parser.parse_args()
    size = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (size + (6 << 30), resource.RLIM_INFINITY))
    failures = 0
    with tempfile.TemporaryDirectory() as folder:
        for form in [options.only] if options.only else FORMATS:
            begun, longest = time.perf_counter(), 0.0
            for seed, data in cases(form, options.seed, options.cases):
                before = time.perf_counter()
                failure = read_case(form, seed, data, Path(folder))
                longest = max(longest, time.perf_counter() - before)
                if failure is not None:
                    failures += 1
                    print(f"{form} seed {seed}: {failure.text}", flush=True)
            whole = time.perf_counter() - begun
            print(f"{form}: {options.cases} cases in {whole:.1f} s, longest {longest:.2f} s", file=sys.stderr)
    return min(failures, 1)


if __name__ == "__main__":
    sys.exit(_main())
