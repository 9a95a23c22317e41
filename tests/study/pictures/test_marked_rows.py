"""What a picture says of its rows holds for all of them, though of many only some are drawn."""

from pathlib import Path

import numpy as np

from culvix.study import DecisionKind, Study
from culvix.study.pictures.column_pictures import Marks, shape_picture
from culvix.tables import read_table


def test_the_sentence_counts_every_row(tmp_path: Path) -> None:
    path = tmp_path / "heavy.csv"
    values = np.random.default_rng(4).standard_t(1.5, 24_000).round(4)
    path.write_text("x\n" + "\n".join(map(str, values)) + "\n")
    study = Study.of_table(read_table(path))
    flagged = study.workspace.analysis("x").flags.rows
    study.decide(DecisionKind.EXCLUDE_VALUE, "x", flagged[:900])
    picture = shape_picture(study.workspace.analysis("x"), study.working, np.arange(5000))
    assert flagged.size > 1700 and picture.flagged.rows.size < 800
    assert f"{flagged.size - 900:,} values flagged".replace(",", "\u202f") in picture.sentence
    assert "; 900 values excluded; 5\u202f000 rows selected." in picture.sentence


def test_fewer_marks_leave_no_gap_and_are_some_of_those_there_were() -> None:
    draw = np.random.default_rng(5)
    values = draw.normal(size=3000)
    marks = Marks(np.arange(3000), values, draw.integers(1, 4, 3000))
    some = marks.fewer(150)
    assert some.rows.size <= 150 and np.array_equal(values[some.rows], some.values)
    assert np.array_equal(marks.weights[some.rows], some.weights)
    assert {values.argmin(), values.argmax()} <= set(some.rows.tolist())
    assert marks.fewer(5000) is marks
