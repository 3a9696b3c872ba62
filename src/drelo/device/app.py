"""The stand-in printer's own HTTP interface, described at /openapi/openapi.json."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Annotated

from flask import Response
from flask_openapi3 import Info, OpenAPI
from pydantic import BaseModel, Field, ValidationError

from drelo.device import play
from drelo.device.job import Frozen, Grams, Job, Key, Lay, Name, Speed, Status
from drelo.device.play import NotNow, State

NAME = "Stand-in printer"


class Problem(BaseModel):
    title: str
    status: int
    detail: str


class JobPath(Frozen):
    job: Key


class SetSpeed(Frozen):
    times: Speed


class Refill(Frozen):
    """grams: on the new spool, where it was weighed."""

    grams: Grams | None = None


class Fault(Frozen):
    """Something breaks on purpose, so that it can be seen what happens then."""

    why: Name = "The nozzle is blocked."


class Kept(Frozen):
    """What is written to the disk."""

    state: State
    speed: Speed = 1
    serial: Annotated[int, Field(ge=0)] = 0


class Machine:
    """The state on the disk, brought up to now whenever it is looked at. Time when it is off does not count."""

    def __init__(self, file: Path, clock: Callable[[], float] = time.monotonic) -> None:
        self._file, self._clock = file, clock
        self._lock = threading.Lock()
        self._kept = self._read()
        self._at = clock()

    def _read(self) -> Kept:
        try:
            return Kept.model_validate_json(self._file.read_bytes())
        except (OSError, ValidationError):
            # A file that cannot be read is an empty bed.
            return Kept(state=State())

    def _now(self) -> Kept:
        now = self._clock()
        passed, self._at = (now - self._at) * self._kept.speed, now
        state = play.played(self._kept.state, passed)
        if state is not self._kept.state:
            self._kept = self._kept.model_copy(update={"state": state})
        return self._kept

    def status(self) -> Status:
        with self._lock:
            before = self._kept.state
            kept = self._now()
            if (kept.state.phase, kept.state.step) != (before.phase, before.step):
                self._write()
            return _told(kept)

    def change(self, how: Callable[[State], State], job: str | None = None) -> Status:
        """Raises NotNow."""
        with self._lock:
            state = self._now().state
            if job is not None and (state.job is None or state.job.id != job):
                raise NotNow("That job is not on the bed any more.")
            self._kept = self._kept.model_copy(update={"state": how(state)})
            self._write()
            return _told(self._kept)

    def set_speed(self, times: Speed) -> Status:
        with self._lock:
            self._now()
            self._kept = self._kept.model_copy(update={"speed": times})
            self._write()
            return _told(self._kept)

    def _write(self) -> None:
        self._file.parent.mkdir(parents=True, exist_ok=True)
        beside = self._file.with_suffix(".new")
        beside.write_text(self._kept.model_dump_json())
        beside.replace(self._file)


def _told(kept: Kept) -> Status:
    state = kept.state
    layer, z = play.layer_of(state)
    step = state.job.steps[min(state.step, len(state.job.steps) - 1)] if state.job else None
    layers = [s.layer for s in state.job.steps if isinstance(s, Lay)] if state.job else []
    return Status(
        name=NAME,
        phase=state.phase,
        speed=kept.speed,
        job=state.job.id if state.job else None,
        title=state.job.title if state.job else "",
        words=state.words,
        layer=layer,
        of=max(layers, default=0),
        z=z,
        done=round(play.done_of(state), 3),
        total=round(play.seconds_of(state.job), 3) if state.job else 0.0,
        filament=step.filament if isinstance(step, Lay) else None,
        used=state.used,
        left=state.left,
    )


def create_device(file: Path, clock: Callable[[], float] = time.monotonic) -> OpenAPI:
    """The application. file: where the state is kept. clock: s."""
    app = OpenAPI(__name__, info=Info(title=NAME, version="1"))
    machine = Machine(file, clock)

    @app.errorhandler(NotNow)
    def not_now(error: NotNow) -> tuple[dict[str, object], int]:
        return {"title": "Conflict", "status": 409, "detail": str(error)}, 409

    def told(status: Status) -> Response:
        return Response(status.model_dump_json(), content_type="application/json")

    @app.get("/status", responses={200: Status})
    def status() -> Response:
        """What the printer is at."""
        return told(machine.status())

    @app.post("/jobs", responses={200: Status, 409: Problem})
    def begin(body: Job) -> Response:
        """Begin a job; the bed must be free."""
        return told(machine.change(lambda state: play.begun(state, body)))

    @app.post("/jobs/<job>/pause", responses={200: Status, 409: Problem})
    def pause(path: JobPath) -> Response:
        return told(machine.change(play.paused, path.job))

    @app.post("/jobs/<job>/resume", responses={200: Status, 409: Problem})
    def resume(path: JobPath) -> Response:
        return told(machine.change(play.resumed, path.job))

    @app.post("/jobs/<job>/confirm", responses={200: Status, 409: Problem})
    def confirm(path: JobPath) -> Response:
        """The filament was changed by hand."""
        return told(machine.change(play.confirmed, path.job))

    @app.post("/jobs/<job>/refill", responses={200: Status, 409: Problem})
    def refill(path: JobPath, body: Refill) -> Response:
        """Another spool was loaded where one had run out."""
        return told(machine.change(lambda state: play.refilled(state, body.grams), path.job))

    @app.post("/jobs/<job>/stop", responses={200: Status, 409: Problem})
    def stop(path: JobPath) -> Response:
        return told(machine.change(play.stopped, path.job))

    @app.post("/jobs/<job>/fault", responses={200: Status, 409: Problem})
    def fault(path: JobPath, body: Fault) -> Response:
        """Break on purpose. A real printer has no such address."""
        return told(machine.change(lambda state: play.failed(state, body.why), path.job))

    @app.put("/speed", responses={200: Status})
    def speed(body: SetSpeed) -> Response:
        """How many times as fast as a real printer. A real printer has no such address."""
        return told(machine.set_speed(body.times))

    return app
