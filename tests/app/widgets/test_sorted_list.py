"""Lists that sort by each column, and are copied with all digits."""

from collections.abc import Iterator

import pytest
from PyQt6.QtCore import QObject, Qt
from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.lists.sorted_list import ListHead, SortedList, number_head, p_head
from culvix.stats.display import signed

Item = tuple[str, float | None, float | None]
ITEMS: list[Item] = [("a", -0.91234567, 0.5), ("b", 0.5, None), ("c", None, 1e-7)]


@pytest.fixture
def listed(qapp: QObject) -> Iterator[SortedList[Item]]:
    heads = [
        ListHead("name", 60, lambda item: item[0], lambda item: item[0], right=False),
        number_head("shift", 60, lambda item: item[1], signed, by_size=True),
        p_head("p", 60, lambda item: item[2]),
        number_head("n", 60, lambda item: 12345, tip=lambda _: "how many"),
    ]
    parent = QWidget()
    model: SortedList[Item] = SortedList(heads, parent)
    model.put(ITEMS)
    yield model
    parent.deleteLater()


def names(listed: SortedList[Item]) -> str:
    return "".join(item[0] for item in listed.items)


def test_it_sorts_by_size_and_what_has_no_number_stands_at_the_end(listed: SortedList[Item]) -> None:
    listed.sort(1, Qt.SortOrder.DescendingOrder)
    assert names(listed) == "abc"
    listed.sort(2, Qt.SortOrder.AscendingOrder)
    assert names(listed) == "cab"
    listed.sort(-1)
    assert names(listed) == "abc"


def test_numbers_are_copied_with_their_sign_and_all_digits(listed: SortedList[Item]) -> None:
    assert listed.lines[1] == ["a", "-0.91234567", "0.5", "12345"]
    assert listed.lines[2] == ["b", "0.5", "—", "12345"]
    assert listed.lines[3] == ["c", "—", "1e-07", "12345"]


def test_other_heads_leave_the_items_in_the_order_they_were_put(listed: SortedList[Item]) -> None:
    listed.sort(0, Qt.SortOrder.DescendingOrder)
    assert names(listed) == "cba"
    listed.show_heads(listed.columns[:2])
    assert names(listed) == "abc" and listed.lines[0] == ["name", "shift"]
