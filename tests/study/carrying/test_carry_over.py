"""What was said of a table stays when its file is read another way."""

from pathlib import Path

import numpy as np
import pytest

from culvix.stats.shape.transform import Scale
from culvix.study import Study
from culvix.study.carrying.carry_over import carry_over
from culvix.study.document.choices.settings import ColumnSettings
from culvix.study.document.marks import Mark
from culvix.tables import Table, read_table
from culvix.tables.model.dictionary import Dictionary
from culvix.tables.model.options.extent import Extent
from culvix.tables.model.options.read_options import ReadOptions

TEXT = "tank,mass_g,length_mm\n" + "".join(f"T{i % 3},{100 + i * i}.5,{200 + i}\n" for i in range(1, 41))


def read(tmp_path: Path, **options: object) -> Table:
    path = tmp_path / "fish.csv"
    path.write_text(TEXT)
    return read_table(path, ReadOptions(extent=Extent(**options)))  # type: ignore[arg-type]


@pytest.fixture
def study(tmp_path: Path) -> Study:
    made = Study.of_table(read(tmp_path))
    made.sign("ab")
    made.change_settings(made.settings.with_column("mass_g", ColumnSettings(bin_width=50.0)))
    root = made.derive("mass_g", Scale("sqrt"))
    made.derive(root, Scale("standard"))
    made.set_reviewed("mass_g", True)
    made.mark_viewed("length_mm")
    made.add_mark(Mark("heavy", "mass_g", "above", "900", 1, "■"))
    made.add_mark(Mark("long", "length_mm", "above", "220", 1, "◆"))
    return made


def test_all_of_it_fits_more_or_fewer_rows(study: Study, tmp_path: Path) -> None:
    table = read(tmp_path, last=20)
    found = carry_over(study.workspace, table, study.dictionary, study.history.cursor)
    new = found.study
    assert [column.name for column in new.table] == [column.name for column in study.table] and new.table.rows < 40
    masses = new.table["mass_g"].sample.values
    assert new.table["sqrt_mass_g"].sample.values == pytest.approx(np.sqrt(masses))
    assert new.workspace.analysis("z_sqrt_mass_g").description.mean == pytest.approx(0, abs=1e-12), (
        "made anew for these rows"
    )
    assert (new.document.initials, new.settings, new.document.marks) == ("ab", study.settings, study.document.marks)
    assert (new.document.reviewed, new.document.viewed) == (("mass_g",), ("length_mm",))
    assert found.lost == ("3 steps made before cannot be undone any more; what they set stays.",)


def test_what_does_not_fit_is_named(study: Study, tmp_path: Path) -> None:
    flags = study.add_flag_counts(study.workspace.analysis("length_mm"))
    found = carry_over(
        study.workspace, read(tmp_path, columns=("tank", "length_mm")), study.dictionary, study.history.cursor
    )
    new, text = found.study, " ".join(found.lost)
    assert [column.name for column in new.table] == ["tank", "length_mm"]
    for name in ("sqrt_mass_g", "z_sqrt_mass_g", flags):
        assert f"{name} is gone: " in text
    assert "1 mark without a column now: heavy." in text and [mark.name for mark in new.document.marks] == ["long"]
    assert new.document.reviewed == () and new.document.viewed == ("length_mm",)
    assert new.workspace.marked(new.document.marks[0]).size == 20


def test_nothing_is_said_where_nothing_was_done(tmp_path: Path) -> None:
    untouched = Study.of_table(read(tmp_path))
    assert carry_over(untouched.workspace, read(tmp_path, last=20), Dictionary(), 0).lost == ()
