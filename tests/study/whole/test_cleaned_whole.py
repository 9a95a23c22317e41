"""The whole with decisions made on a sample: what the engine writes is what the same decisions make of all rows."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.cli import main
from culvix.errors import Cancelled, ReadError, WriteError
from culvix.report.documents.cleaned_data import cleaned_frame
from culvix.study import DecisionKind, Study
from culvix.study.document.rules import agreed, between
from culvix.study.storage.study_file import StudyFile
from culvix.study.whole.cleaned_whole import write_cleaned_whole
from culvix.study.whole.samples import SampleOf, draw_sample, open_whole, sample_file
from culvix.tables import read_table
from culvix.tables.engines import Engine, open_engine
from tests.study.recipes.making import decide_by_rule
from tests.tables.engines.servers import Server

DRAW = np.random.default_rng(18)
ROWS = 3_000
FRAME = pl.DataFrame(
    {
        "tag": [f"F-{place:04}" for place in range(ROWS)],
        "mass_g": np.where(DRAW.random(ROWS) < 0.02, -999.0, DRAW.gamma(9, 11, ROWS).round(1)),
        "length_mm": DRAW.normal(210, 25, ROWS).round(1),
        "count": DRAW.poisson(3, ROWS),
        "tank": DRAW.choice(["a", "b “x”", "c;d"], ROWS),
    }
).with_columns(pl.when(pl.col("count") == 7).then(None).otherwise(pl.col("length_mm")).alias("length_mm"))


@pytest.fixture(params=["files", "server"])
def engine(request: pytest.FixtureRequest, tmp_path: Path) -> Engine:
    if request.param == "files":
        (tmp_path / "whole").mkdir()
        FRAME[:1_000].write_parquet(tmp_path / "whole" / "a.parquet")
        FRAME[1_000:].write_parquet(tmp_path / "whole" / "b.parquet")
        opened = open_engine(str(tmp_path / "whole"))
    else:
        server: Server = request.getfixturevalue("postgres")
        server.load("fishes", FRAME)
        server.run("alter table fishes add primary key (tag)")
        server.run("comment on column fishes.length_mm is 'Fork length (mm)'")
        opened = open_engine(server.address(), table="fishes")
    request.addfinalizer(opened.close)
    return opened


def sampled(engine: Engine, path: Path, size: int) -> Study:
    """A study of a sample, in which the tag names a row and −999 is no mass."""
    frame, about = draw_sample(engine, SampleOf(size))
    path.write_bytes(sample_file(frame, about))
    study = Study.of_table(read_table(path))
    study.set_table_metadata(replace(study.dictionary, key=("tag",)))
    study.edit_column("mass_g", replace(study.dictionary.of("mass_g"), missing_codes=("-999.0", "-999")))
    return study


def decided(study: Study) -> Study:
    """All kinds of decisions by rule, of which a later one does not touch what an earlier one decided."""
    decide_by_rule(study, "mass_g", between(150.0, None), DecisionKind.EXCLUDE_VALUE)
    decide_by_rule(study, "length_mm", between(150.0, 158.0), DecisionKind.KEEP)
    decide_by_rule(study, "length_mm", between(None, 160.0), DecisionKind.EXCLUDE_ROW)
    decide_by_rule(study, "count", between(8.0, None), DecisionKind.MISSING)
    decide_by_rule(study, "mass_g", between(30.0, 60.0), DecisionKind.CORRECT, factor=10.0, shift=0.5)
    return study


def as_cells(frame: pl.DataFrame) -> list[tuple[object, ...]]:
    """Rows in the order of their tags, numbers as doubles."""
    names = FRAME.columns
    numbers = [pl.col(name).cast(pl.Float64) for name in ("mass_g", "length_mm", "count")]
    return frame.select(names).with_columns(numbers).sort("tag").rows()


def test_the_whole_is_what_the_decisions_make_of_all_its_rows(engine: Engine, tmp_path: Path) -> None:
    study = decided(sampled(engine, tmp_path / "sample.parquet", 400))
    everything = decided(sampled(engine, tmp_path / "all.parquet", ROWS))
    for suffix, read in ((".parquet", pl.read_parquet), (".csv", pl.read_csv)):
        out = tmp_path / f"out{suffix}"
        found = write_cleaned_whole(engine, study.workspace, out)
        assert as_cells(read(out)) == as_cells(cleaned_frame(everything.workspace))
    met = {each.decision.column: each.rows for each in found.decisions}
    assert met["count"] == int((FRAME["count"] >= 8).sum())
    if engine.name == "PostgreSQL":
        assert study.table["length_mm"].label == "Fork length" and study.table["length_mm"].unit == "mm"
        assert study.table.key == ("tag",), "the primary key names a row"


def test_a_code_that_no_row_of_the_sample_has_is_none_in_the_whole_either(engine: Engine, tmp_path: Path) -> None:
    study = sampled(engine, tmp_path / "sample.parquet", 25)
    assert "-999.0" not in study.table["mass_g"].missing_by, "the seed draws no such row"
    top = float(np.nanmax(study.table["mass_g"].values))
    decide_by_rule(study, "mass_g", between(None, top), DecisionKind.KEEP)
    (found,) = write_cleaned_whole(engine, study.workspace, tmp_path / "out.parquet").decisions
    mass = FRAME["mass_g"]
    assert found.rows == int(((mass <= top) & (mass != -999)).sum())
    out = pl.read_parquet(tmp_path / "out.parquet")["mass_g"]
    assert out.null_count() == int((mass == -999).sum()) > 0


def test_single_rows_are_found_by_what_names_them(engine: Engine, tmp_path: Path) -> None:
    study = sampled(engine, tmp_path / "sample.parquet", 400)
    study.decide(DecisionKind.EXCLUDE_ROW, "length_mm", [3, 5])
    study.decide(DecisionKind.CORRECT, "mass_g", [7], value=1.25)
    tags = study.table["tag"].text.gather([3, 5, 7]).to_list()
    write_cleaned_whole(engine, study.workspace, tmp_path / "out.parquet")
    out = pl.read_parquet(tmp_path / "out.parquet")
    assert out.height == ROWS - 2 and not set(out["tag"]) & set(tags[:2])
    assert out.filter(pl.col("tag") == tags[2])["mass_g"].to_list() == [1.25]


@pytest.mark.parametrize("key", [("length_mm", "mass_g"), ("tank",)])
def test_a_key_that_names_other_rows_besides_is_none(engine: Engine, tmp_path: Path, key: tuple[str, ...]) -> None:
    study = sampled(engine, tmp_path / "sample.parquet", 400)
    study.set_table_metadata(replace(study.dictionary, key=key))
    row = int(np.flatnonzero(np.isfinite(study.table["length_mm"].values))[0])
    study.decide(DecisionKind.EXCLUDE_ROW, "count", [row])
    out = tmp_path / "out.parquet"
    if len(key) == 2:
        write_cleaned_whole(engine, study.workspace, out)
        assert pl.read_parquet(out).height == ROWS - 1
        return
    with pytest.raises(ReadError, match=r"tank names .* rows of the whole where 1 are meant"):
        write_cleaned_whole(engine, study.workspace, out)


def test_what_cannot_be_done_is_refused_and_nothing_is_written(engine: Engine, tmp_path: Path) -> None:
    study = sampled(engine, tmp_path / "sample.parquet", 400)
    decide_by_rule(study, "mass_g", agreed(2), DecisionKind.EXCLUDE_VALUE)
    out = tmp_path / "out.csv"
    with pytest.raises(ReadError, match="cannot be made on the whole"):
        write_cleaned_whole(engine, study.workspace, out)
    study.undo()

    def stop(share: float, doing: str) -> None:
        if share > 0.3:
            raise Cancelled

    with pytest.raises(Cancelled):
        write_cleaned_whole(engine, study.workspace, out, stop)
    if engine.files:
        for inside in (engine.files[0], tmp_path / "whole" / "more.parquet"):
            before = inside.exists() and inside.read_bytes()
            with pytest.raises(WriteError, match="folder that is the table"):
                write_cleaned_whole(engine, study.workspace, inside)
            assert (inside.exists() and inside.read_bytes()) == before
    with pytest.raises(WriteError, match="cannot be written"):
        write_cleaned_whole(engine, study.workspace, tmp_path / "no" / "where.csv")
    with pytest.raises(WriteError, match="is the table itself"):
        write_cleaned_whole(engine, study.workspace, study.table.source.path)
    assert not out.exists() and not list(tmp_path.glob(".culvix*"))


def test_the_study_knows_where_the_whole_lies(
    engine: Engine, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    study = sampled(engine, tmp_path / "sample.parquet", 400)
    decide_by_rule(study, "length_mm", between(None, 160.0), DecisionKind.EXCLUDE_ROW)
    again = open_whole(study.table.source.sample)
    assert (again.name, again.title, again.rows) == (engine.name, engine.title, ROWS)
    again.close()
    file = StudyFile.create(tmp_path / "s.culvix", study.history)
    file.put_source(study.table.source.sha256)
    file.close()
    out = tmp_path / "kept.parquet"
    assert main(["clean", str(tmp_path / "s.culvix"), "--whole", "-o", str(out)]) == 0
    assert pl.read_parquet(out).height == ROWS - int((FRAME["length_mm"] <= 160).sum())
    assert "exclude row where length_mm up to 160" in capsys.readouterr().out
