"""What differs between two states: the part that travels brings the one to the other."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from drelo.core.piece.difference import Difference, difference, put_on


@dataclass(frozen=True)
class Row:
    id: str
    name: str


def brought(before: dict[str, Any], change: Difference) -> dict[str, Any]:
    after = put_on(before, change, lambda row: row.id)
    return {name: list(value) if name == "rows" else value for name, value in after.items()}


rows = st.dictionaries(st.sampled_from("abcdefghij"), st.sampled_from(["pear", "leaf", "stem"]), min_size=1).flatmap(
    lambda d: st.permutations([Row(i, n) for i, n in d.items()])
)


@given(rows, rows, st.integers(0, 2), st.integers(0, 2))
def test_a_difference_brings_one_state_to_the_other(one, other, left, right):
    before, after = {"rows": list(one), "width": left}, {"rows": list(other), "width": right}
    assert brought(before, difference(before, after, ("rows",))) == after


def test_of_many_rows_only_those_that_changed_travel():
    before = {"rows": [Row(str(i), "pear") for i in range(50)], "width": 4.0}
    after = {"rows": [Row("7", "leaf") if row.id == "7" else row for row in before["rows"]], "width": 4.0}
    change = difference(before, after, ("rows",))
    assert change.fields == {}
    assert change.rows["rows"].order is None
    assert change.rows["rows"].changed == (Row("7", "leaf"),)


def test_a_row_more_is_one_id_more_whatever_the_list_holds():
    before = {"rows": [Row(str(i), "pear") for i in range(50)]}
    after = {"rows": [*before["rows"][:20], Row("new", "leaf"), *before["rows"][20:]]}
    found = difference(before, after, ("rows",)).rows["rows"]
    assert found.order == (20, 0, ("new",))
    assert found.changed == (Row("new", "leaf"),)


def test_rows_that_share_an_id_travel_whole():
    before = {"rows": [Row("a", "pear"), Row("a", "leaf"), Row("b", "stem")]}
    after = {"rows": [Row("a", "pear"), Row("a", "stem"), Row("b", "stem")]}
    change = difference(before, after, ("rows",))
    assert change.fields == after
    assert not change.rows
