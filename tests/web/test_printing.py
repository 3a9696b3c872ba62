"""Prints on the stand-in printer, over the wire to a real one of its own process."""

from __future__ import annotations

import io
import os
import signal
import time
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path

import cv2
import numpy as np
import pytest
from sqlalchemy import Engine

from drelo.application.bench import Bench
from drelo.application.device import Device
from drelo.application.printing import job_of
from drelo.core.rehearsal.settings import ByHand, Changer, Printer
from drelo.device.job import Change, Lay, Spool
from drelo.device.play import seconds_of
from drelo.device.process import Process
from drelo.formats.rehearsal_out import RehearsalReport
from drelo.store.database import sessions
from drelo.store.keeping import Keeping
from drelo.store.models import now
from drelo.web.app import create_app
from drelo.work.pool import Pool

PATIENCE = 20.0


@pytest.fixture
def process(tmp_path: Path) -> Iterator[Process]:
    with Process(tmp_path) as running:
        yield running


@pytest.fixture
def client(engine: Engine, pool: Pool, process: Process):
    bench = Bench.on(sessions(engine), pool, device=Device(lambda: process.address))
    client = create_app(bench).test_client()
    until(client, lambda out: out["status"] is not None)
    client.put("/api/printer/pace", json={"times": 600})
    yield client
    for told in bench.prints.open():
        bench.prints.end(told.id, "stopped", "", 0, {})


@pytest.fixture
def bars(client) -> dict:
    sheet = np.full((240, 320, 3), 255, np.uint8)
    sheet[40:200, 40:110] = 0
    form = {"picture": (io.BytesIO(cv2.imencode(".png", sheet)[1].tobytes()), "bars.png")}
    piece = client.post("/api/pieces/from-picture", data=form).json["piece"]
    edit = {"do": "set-form", "layer": 0.4}
    body = {"revision": piece["revision"], "edit": edit}
    found: dict = client.post(f"/api/pieces/{piece['id']}/edits", json=body).json["piece"]
    return found


def until(client, wanted) -> dict:
    end = time.monotonic() + PATIENCE
    while time.monotonic() < end:
        told: dict = client.get("/api/printer").json
        if wanted(told):
            return told
        time.sleep(0.1)
    raise AssertionError(told)


def phase(name: str):
    return lambda out: out["status"] is not None and out["status"]["phase"] == name


def begin(client, piece: dict) -> dict:
    answer = client.post(f"/api/pieces/{piece['id']}/print", json={"revision": piece["revision"]})
    assert answer.status_code == 200, answer.text
    found: dict = answer.json
    return found


def act(client, job: str, do: str, **more):
    return client.post(f"/api/prints/{job}", json={"do": do, **more})


def weighed(client) -> dict[str, float]:
    return {row["id"]: row["weighed"] for row in client.get("/api/filaments").json["filaments"]}


def weigh(client, grams: float) -> None:
    for row in client.get("/api/filaments").json["filaments"]:
        told = {key: value for key, value in row.items() if key != "id"}
        assert client.put(f"/api/filaments/{row['id']}", json={**told, "weighed": grams}).status_code == 200


def test_a_print_runs_stops_for_the_change_and_stands_in_the_history(client, bars):
    weigh(client, 500.0)
    job = begin(client, bars)["print"]["id"]
    waiting = until(client, phase("waiting for a change"))
    assert "take out" in waiting["status"]["words"]
    again = client.post(f"/api/pieces/{bars['id']}/print", json={"revision": bars["revision"]})
    assert "busy" in again.json["detail"]
    assert act(client, job, "confirm").status_code == 200
    done = until(client, phase("done"))
    assert done["print"]["state"] == "done"
    (told,) = client.get(f"/api/prints?piece={bars['id']}").json["prints"]
    assert told["layer"] == told["layers"]
    rest = weighed(client)
    used = done["status"]["used"]
    for filament, grams in used.items():
        assert rest[filament] == pytest.approx(500 - grams, abs=1e-6)
    assert sum(told["grams"].values()) == pytest.approx(sum(used.values()), abs=0.01)
    # Looked at again, nothing leaves the spools twice.
    client.get("/api/prints")
    assert weighed(client) == rest


def test_the_layers_of_a_print_stay_while_it_runs(client, bars, engine):
    running = begin(client, bars)["print"]["rehearsal"]
    asked = {"revision": bars["revision"], "copies": 3}
    aside = client.post(f"/api/pieces/{bars['id']}/rehearsal", json=asked).json["key"]
    for key in (running, aside):
        assert client.get(f"/api/rehearsals/{key}/patterns/0").status_code == 200
    Keeping(sessions(engine)).trim(now() + timedelta(hours=1), quota=0)
    assert client.get(f"/api/rehearsals/{running}").status_code == 200
    assert client.get(f"/api/rehearsals/{running}/patterns/0").status_code == 200
    assert client.get(f"/api/rehearsals/{aside}/patterns/0").status_code == 404


def test_a_spool_that_runs_out_is_replaced_and_its_rest_is_right(client, bars):
    weigh(client, 0.4)
    job = begin(client, bars)["print"]["id"]
    out = until(client, phase("out of filament"))
    assert "has run out" in out["status"]["words"]
    assert act(client, job, "confirm").status_code == 422
    act(client, job, "refill", grams=300.0)
    first = out["status"]["filament"]
    until(client, phase("waiting for a change"))
    act(client, job, "confirm")
    until(client, phase("out of filament"))
    act(client, job, "refill")
    done = until(client, phase("done"))
    rest = weighed(client)
    assert rest[first] == pytest.approx(300.4 - done["status"]["used"][first], abs=1e-6)
    other = next(f for f in done["status"]["used"] if f != first)
    assert rest[other] is None


def test_pause_stop_and_a_fault_are_told(client, bars):
    client.put("/api/printer/pace", json={"times": 60})
    job = begin(client, bars)["print"]["id"]
    act(client, job, "pause")
    before = client.get("/api/printer").json["status"]
    time.sleep(0.3)
    assert client.get("/api/printer").json["status"]["done"] == before["done"]
    act(client, job, "resume")
    assert act(client, job, "stop").json["print"]["state"] == "stopped"
    job = begin(client, bars)["print"]["id"]
    failed = act(client, job, "fault", why="The plug was pulled.").json
    assert failed["print"]["state"] == "failed"
    assert failed["print"]["words"] == "The plug was pulled."
    assert [p["state"] for p in client.get(f"/api/prints?piece={bars['id']}").json["prints"]] == ["failed", "stopped"]
    assert act(client, job, "pause").status_code == 422


def test_it_goes_on_after_either_side_was_killed(client, bars, process, engine, pool):
    client.put("/api/printer/pace", json={"times": 60})
    job = begin(client, bars)["print"]["id"]
    until(client, lambda out: out["status"]["done"] > 60)
    os.kill(process._child.pid, signal.SIGKILL)
    away = client.get("/api/printer")
    assert away.status_code == 200
    assert away.json["status"] is None
    back = until(client, lambda out: out["status"] is not None)
    assert back["status"]["job"] == job
    assert back["print"]["state"] == "printing"
    # Another main process finds the same print, and notices that it ends.
    other = create_app(Bench.on(sessions(engine), pool, device=Device(lambda: process.address))).test_client()
    other.put("/api/printer/pace", json={"times": 600})
    until(other, phase("waiting for a change"))
    act(other, job, "confirm")
    assert until(other, phase("done"))["print"]["state"] == "done"


def test_without_a_printer_that_is_said(engine, pool, bars):
    bench = Bench.on(sessions(engine), pool)
    alone = create_app(bench).test_client()
    assert alone.get("/api/printer").json == {"status": None, "print": None}
    answer = alone.post(f"/api/pieces/{bars['id']}/print", json={"revision": bars["revision"]})
    assert answer.status_code == 422
    assert "no printer" in answer.json["detail"]
    for told in bench.prints.open():
        bench.prints.end(told.id, "failed", "", 0, {})


@pytest.mark.parametrize("change", [ByHand(minutes=4), Changer(seconds=30, purged=100)])
def test_a_job_takes_as_long_and_as_much_as_was_rehearsed(client, bars, change):
    printer = Printer(id="trial", name="Trial", change=change)
    told = client.put("/api/printers/trial", json=printer.model_dump(mode="json"))
    assert told.status_code == 200
    body = {"revision": bars["revision"], "printer": "trial", "copies": 3}
    report = RehearsalReport.model_validate(
        client.post(f"/api/pieces/{bars['id']}/rehearsal", json=body).json["report"]
    )
    spools = [Spool(id=f"s{i}", name=b.name, colour=b.colour) for i, b in enumerate(report.bodies)]
    job = job_of("job", "Bars", report, 0, printer, spools)
    by_hand = sum(s.seconds for s in job.steps if isinstance(s, Change) and s.by_hand)
    assert seconds_of(job) + by_hand == pytest.approx(report.beds[0].seconds, rel=1e-6)
    grams = sum(s.grams for s in job.steps if isinstance(s, (Lay, Change)))
    assert grams == pytest.approx(report.grams, rel=1e-6)
    assert sum(isinstance(s, Change) for s in job.steps) == len(report.changes)
    client.delete("/api/printers/trial")
