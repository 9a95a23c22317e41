"""A patch makes of what was before exactly what is after."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.errors import ReadError
from culvix.study.storage.json_patch import apply_patch, difference

plain = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False, allow_infinity=False) | st.text(max_size=6),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=3), inner, max_size=4),
    max_leaves=12,
)
objects = st.dictionaries(st.text(max_size=3), plain, max_size=5)


@given(before=objects, after=objects)
def test_what_was_patched_is_what_is_meant(before: dict, after: dict) -> None:
    untouched = json.dumps(before)
    patched = apply_patch(before, json.loads(json.dumps(difference(before, after))))
    assert patched == after and json.dumps(before) == untouched
    assert list(patched) == list(after), "the order of keys means something"


@given(same=objects)
def test_nothing_is_said_of_what_is_the_same(same: dict) -> None:
    assert difference(same, json.loads(json.dumps(same))) == []


@pytest.mark.parametrize(("before", "after"), [(0.0, -0.0), (1, True), (1, 1.0), (False, 0)])
def test_what_is_equal_but_written_otherwise_is_said(before: object, after: object) -> None:
    patched = apply_patch({"probe": before}, difference({"probe": before}, {"probe": after}))
    assert json.dumps(patched) == json.dumps({"probe": after})


def test_a_list_that_grew_is_told_by_what_is_new() -> None:
    before, after = {"a/b": {"~": [1, 2]}}, {"a/b": {"~": [1, 2, 3]}}
    patch = difference(before, after)
    assert patch == [{"op": "add", "path": "/a~1b/~0/-", "value": 3}]
    assert difference(after, before) == [{"op": "remove", "path": "/a~1b/~0/2"}]
    assert apply_patch(before, patch) == after


@pytest.mark.parametrize(
    "patch",
    [
        [{"op": "remove", "path": "/nothing"}],
        [{"op": "replace", "path": "/a/x", "value": 1}],
        [{"op": "remove", "path": "/a/9"}],
        [{"op": "replace", "path": "/a/-1", "value": 1}],
        [{"path": "/a"}],
        [{"op": "replace", "value": 1}],
        [3],
        7,
        [{"op": "replace", "path": 4, "value": 1}],
    ],
)
def test_a_patch_that_does_not_fit_is_refused(patch: object) -> None:
    with pytest.raises(ReadError, match="does not fit"):
        apply_patch({"a": [1, 2]}, patch)
