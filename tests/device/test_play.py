"""A job played by the stand-in printer: in time, stopped for changes, out of filament, paused, failed, and kept."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from drelo.device import play
from drelo.device.app import create_device
from drelo.device.job import Change, Job, Lay, Spool, WarmUp
from drelo.device.play import NotNow, State

SPOOLS = (
    Spool(id="night", name="Night", colour="#2e3a4d", left=50.0),
    Spool(id="cream", name="Cream", colour="#f0e3c4"),
)


def lay(layer: int, filament: str, seconds: float = 100.0, grams: float = 2.0) -> Lay:
    return Lay(layer=layer, z=0.2 * layer, seconds=seconds, filament=filament, grams=grams)


def job(*steps, spools=SPOOLS, name="job") -> Job:
    return Job(id=name, title="Coaster", steps=(WarmUp(seconds=60), *steps), spools=spools)


TWO = job(
    lay(1, "night"),
    lay(2, "night"),
    Change(layer=3, out="night", into="cream", by_hand=True, seconds=180),
    lay(3, "cream"),
)


def test_a_job_runs_in_time_and_waits_for_a_hand():
    state = play.begun(State(), TWO)
    assert state.phase == "warming up"
    state = play.played(state, 110)
    assert (state.phase, play.layer_of(state)) == ("printing", (1, 0.2))
    assert state.used["night"] == pytest.approx(1.0)
    state = play.played(state, 10_000)
    assert state.phase == "waiting for a change"
    assert state.words == "Take out Night, load Cream."
    assert play.done_of(state) == pytest.approx(260)
    state = play.played(play.confirmed(state), 99)
    assert state.phase == "printing"
    state = play.played(state, 1)
    assert (state.phase, play.done_of(state)) == ("done", play.seconds_of(TWO))
    assert state.used == {"night": pytest.approx(4.0), "cream": pytest.approx(2.0)}
    assert state.left == {"night": pytest.approx(46.0), "cream": None}


@given(st.lists(st.floats(0, 90), max_size=30))
def test_small_steps_of_time_lead_where_one_large_one_does(parts):
    changer = Change(layer=2, out="night", into="cream", by_hand=False, seconds=40, grams=0.2)
    whole = job(lay(1, "night"), changer, lay(2, "cream"), lay(3, "cream"))
    at_once = play.played(play.begun(State(), whole), sum(parts))
    state = play.begun(State(), whole)
    for part in parts:
        state = play.played(state, part)
    assert state.phase == at_once.phase
    assert play.done_of(state) == pytest.approx(play.done_of(at_once), abs=1e-6)
    for filament, grams in at_once.used.items():
        assert state.used[filament] == pytest.approx(grams, abs=1e-6)


def test_an_empty_spool_stops_it_where_it_ran_out():
    short = (Spool(id="night", name="Night", colour="#2e3a4d", left=3.0), SPOOLS[1])
    state = play.played(play.begun(State(), job(lay(1, "night"), lay(2, "night"), spools=short)), 10_000)
    assert state.phase == "out of filament"
    assert "Night has run out" in state.words
    assert state.used["night"] == pytest.approx(3.0)
    assert play.done_of(state) == pytest.approx(60 + 100 + 50)
    with pytest.raises(NotNow):
        play.resumed(state)
    state = play.played(play.refilled(state, 100.0), 50)
    assert state.phase == "done"
    assert state.used["night"] == pytest.approx(4.0)
    assert state.left["night"] == pytest.approx(99.0)


def test_what_is_paused_goes_on_where_it_was():
    state = play.paused(play.played(play.begun(State(), TWO), 110))
    assert play.played(state, 1000) == state
    state = play.played(play.resumed(state), 50)
    assert play.layer_of(state)[0] == 2
    assert state.used["night"] == pytest.approx(2.0)
    assert play.stopped(state).phase == "stopped"
    assert play.failed(state, "The nozzle is blocked.").words == "The nozzle is blocked."


def test_what_cannot_be_done_now_is_said():
    for act in (play.paused, play.resumed, play.confirmed, play.stopped):
        with pytest.raises(NotNow):
            act(State())
    busy = play.begun(State(), TWO)
    with pytest.raises(NotNow, match="busy with Coaster"):
        play.begun(busy, TWO)
    assert play.begun(play.stopped(busy), TWO).phase == "warming up"


class Clock:
    now = 0.0

    def __call__(self) -> float:
        return self.now


def test_over_http_at_sixty_times_and_after_it_was_started_again(tmp_path: Path):
    clock = Clock()
    file = tmp_path / "printer.json"
    client = create_device(file, clock).test_client()
    assert client.get("/status").json["phase"] == "idle"
    assert client.put("/speed", json={"times": 60}).json["speed"] == 60
    assert client.put("/speed", json={"times": 7}).status_code == 422
    sent = client.post("/jobs", json=TWO.model_dump(mode="json"))
    assert sent.json["phase"] == "warming up"
    clock.now += 2
    status = client.get("/status").json
    assert (status["phase"], status["layer"], status["of"]) == ("printing", 1, 3)
    assert client.post("/jobs", json=TWO.model_dump(mode="json")).status_code == 409
    assert client.post("/jobs/other/pause").status_code == 409
    # Its power fails; time that it is off does not count.
    clock.now += 0.5
    client.post("/jobs/job/pause")
    client.post("/jobs/job/resume")
    clock.now += 1000
    client = create_device(file, clock).test_client()
    again = client.get("/status").json
    assert (again["phase"], again["speed"]) == ("printing", 60)
    assert again["done"] == pytest.approx(150)
    clock.now += 10
    assert client.get("/status").json["phase"] == "waiting for a change"
    client.post("/jobs/job/confirm")
    clock.now += 10
    assert client.get("/status").json["phase"] == "done"


def test_a_spoilt_file_is_an_empty_bed(tmp_path: Path):
    file = tmp_path / "printer.json"
    file.write_text('{"state": {"phase": "printing"')
    client = create_device(file).test_client()
    assert client.get("/status").json["phase"] == "idle"
    assert "/jobs" in client.get("/openapi/openapi.json").json["paths"]
