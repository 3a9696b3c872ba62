"""What keepers see of the work."""

from __future__ import annotations


def test_a_keeper_sees_what_each_machine_is_at_and_nobody_else_does(workshop, signed_in):
    found = signed_in("kay").get("/api/work")
    assert found.status_code == 200
    [machine] = found.json["machines"]
    assert machine["name"] == ""
    assert machine["ready"] >= 0
    assert {"running", "waiting", "longest"} < machine.keys()
    for name in ("mira", "gus"):
        assert signed_in(name).get("/api/work").status_code == 403
