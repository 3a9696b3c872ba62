"""Figures for monitors: counted by route, and for this machine only."""

from __future__ import annotations


def figures(client) -> dict[str, float]:
    lines = client.get("/metrics").text.splitlines()
    return {line.rsplit(" ", 1)[0]: float(line.rsplit(" ", 1)[1]) for line in lines if not line.startswith("#")}


def test_requests_are_counted_by_route_not_by_address(client):
    for piece in ("one", "two", "two"):
        client.get(f"/api/pieces/{piece}")
    found = figures(client)
    assert found['drelo_requests_total{method="GET",route="/api/pieces/<piece_id>",status="404"}'] == 3
    assert found['drelo_request_seconds_count{route="/api/pieces/<piece_id>"}'] == 3
    assert not any("one" in name and "piece" in name for name in found)


def test_database_and_workers_are_told(client):
    found = figures(client)
    assert found["drelo_database_up"] == 1
    assert found["drelo_jobs_waiting"] == 0


def test_nobody_else_is_told(client):
    answer = client.get("/metrics", environ_base={"REMOTE_ADDR": "10.0.0.7"})
    assert answer.status_code == 403
