"""Pictures account for every value."""

import numpy as np

from culvix.study import DecisionKind, Study
from culvix.study.pictures.column_pictures import shape_picture

LENGTH = "length_mm"


def test_pictures_account_for_every_value(study: Study) -> None:
    flags = study.workspace.analysis(LENGTH).flags
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, flags.rows[:3].tolist())
    picture = shape_picture(study.workspace.analysis(LENGTH), study.working, np.zeros(0, dtype=np.int64))
    assert picture.excluded.rows.tolist() == flags.rows[:3].tolist()
    assert picture.flagged.rows.tolist() == flags.rows[3:].tolist()
    assert picture.histogram is not None and picture.histogram.n == picture.n
