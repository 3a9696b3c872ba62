"""Which machine does a job, and when a job is lost: rules without processes."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from drelo.work.machines.placing import CROWDED, Report, Sent, is_lost, machine_for

IDLE = Report(at=0.0, workers=2, ready=2, running=0, waiting=0, longest=0.0, jobs=frozenset())
PIECES = [f"piece {n}" for n in range(300)]


def homes(names: list[str]) -> dict[str, str | None]:
    return {piece: machine_for(piece, dict.fromkeys(names, IDLE), {}, 60) for piece in PIECES}


def test_every_machine_has_its_share():
    found = list(homes(["a", "b", "c"]).values())
    assert all(found.count(name) > 60 for name in "abc")


def test_when_one_leaves_only_its_pieces_move():
    before, after = homes(["a", "b", "c"]), homes(["a", "c"])
    assert all(after[piece] == name for piece, name in before.items() if name != "b")


def test_when_one_joins_pieces_move_only_to_it():
    before, after = homes(["a", "b"]), homes(["a", "b", "c"])
    assert {after[piece] for piece, name in before.items() if after[piece] != name} == {"c"}


@given(st.integers(0, 40), st.integers(0, 40), st.sampled_from(PIECES))
def test_a_piece_moves_only_from_a_crowd_to_half_of_it(at_home, elsewhere, piece):
    home = machine_for(piece, {"a": IDLE, "b": IDLE}, {}, 60)
    other = "b" if home == "a" else "a"
    machines = {home: replace(IDLE, running=at_home), other: replace(IDLE, waiting=elsewhere)}
    found = machine_for(piece, machines, {}, 60)
    assert (found == other) == (at_home >= 2 * CROWDED and 2 * elsewhere <= at_home)


def test_what_was_sent_since_counts():
    piece = PIECES[0]
    home = machine_for(piece, {"a": IDLE, "b": IDLE}, {}, 60)
    assert machine_for(piece, {"a": IDLE, "b": IDLE}, {home: 2 * CROWDED}, 60) != home


def test_a_full_one_gets_nothing_and_full_ones_all_nothing():
    full = replace(IDLE, waiting=60)
    assert machine_for("p", {"a": full, "b": IDLE}, {}, 60) == "b"
    assert machine_for("p", {"a": full, "b": full}, {}, 60) is None
    assert machine_for("p", {}, {}, 60) is None


def test_a_job_is_lost_with_its_machine_or_when_that_says_so():
    sent = Sent("j", "a", at=10.0)
    there = replace(IDLE, at=13.0, jobs=frozenset({"j"}))
    assert not is_lost(sent, {"a": there}, 14.0, silence=5.0)
    assert is_lost(sent, {"a": there}, 18.1, silence=5.0)
    # Just sent, it may not have arrived when the machine last said what it has.
    assert not is_lost(sent, {"a": replace(IDLE, at=11.0)}, 12.0, silence=5.0)
    assert is_lost(sent, {"a": replace(IDLE, at=13.0)}, 13.5, silence=5.0)
    assert not is_lost(sent, {}, 12.0, silence=5.0)
    assert is_lost(sent, {}, 15.1, silence=5.0)
