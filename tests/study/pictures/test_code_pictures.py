"""The bars of ordered codes: what each holds, the middle of all, and what decisions leave out."""

from pathlib import Path
from types import MappingProxyType

import numpy as np
import pytest

from culvix.study import DecisionKind, Study
from culvix.study.pictures.bars import BarsPicture
from culvix.study.pictures.code_pictures import codes_picture
from culvix.tables import read_table
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Role

CODES = ["1", "2", "2", "3", "5", "NA", "2", "5", ""]


@pytest.fixture
def study(tmp_path: Path) -> Study:
    path = tmp_path / "t.csv"
    path.write_text("item,ward\n" + "\n".join(f"{code},{'ab'[k % 2]}" for k, code in enumerate(CODES)) + "\n")
    made = Study.of_table(read_table(path))
    entry = ColumnEntry(role=Role.ORDERED, words=MappingProxyType({"1": "never", "5": "always"}))
    made.edit_column("item", entry)
    return made


def picture_of(study: Study, order: str = "order", split: str | None = None) -> BarsPicture:
    column = study.table["item"]
    by = None if split is None else study.table[split]
    return codes_picture(column, study.working.sample(column), order, by)


def shown(picture: BarsPicture) -> list[tuple[str, int]]:
    return [(bar.name, bar.rows) for bar in picture.bars]


def test_codes_stand_in_order_with_their_words_and_missing_cells_last(study: Study) -> None:
    picture = picture_of(study)
    values = [("1 never", 1), ("2", 3), ("3", 1), ("5 always", 2)]
    assert shown(picture) == [*values, ("missing: empty", 1), ("missing: “NA”", 1)]
    assert picture.n == 7 and picture.rows_of(1).tolist() == [1, 2, 6] and picture.bars[picture.median].name == "2"
    assert "median 2 · middle half from 2 to 5 always · lowest 14.3" in picture.about


def test_by_frequency_the_most_frequent_stands_first(study: Study) -> None:
    picture = picture_of(study, "frequency")
    assert [bar.name for bar in picture.bars[:4]] == ["2", "5 always", "1 never", "3"]
    assert picture.rows_of(0).tolist() == [1, 2, 6] and picture.bars[picture.median].name == "2"


def test_what_a_decision_leaves_out_has_a_bar_of_its_own(study: Study) -> None:
    study.decide(DecisionKind.EXCLUDE_VALUE, "item", [4, 7])
    picture = picture_of(study)
    assert ("5 always", 2) not in shown(picture) and ("left out by a decision", 2) in shown(picture)
    assert picture.n == 5


def test_bars_are_split_by_another_column(study: Study) -> None:
    picture = picture_of(study, split="ward")
    assert picture.parts == ("a", "b") and picture.bars[1].parts == (2, 1, 0)


def test_a_median_between_two_codes_is_said(study: Study) -> None:
    study.decide(DecisionKind.EXCLUDE_VALUE, "item", [2])
    assert "median between 2 and 3" in picture_of(study).about


@pytest.mark.parametrize("seed", range(4))
def test_every_row_is_in_the_bar_of_its_code(tmp_path: Path, seed: int) -> None:
    codes = np.random.default_rng(seed).integers(-2, 2 + 5 * seed, 80)
    path = tmp_path / "t.csv"
    path.write_text("item,x\n" + "\n".join(f"{code},{k}.5" for k, code in enumerate(codes)) + "\n")
    study = Study.of_table(read_table(path))
    study.edit_column("item", ColumnEntry(role=Role.ORDERED))
    for order in ("order", "frequency"):
        picture = picture_of(study, order)
        assert [picture.bars[bar].name for bar in picture.codes] == [f"{code:g}" for code in codes.tolist()]
        assert sum(bar.rows for bar in picture.bars) == codes.size
