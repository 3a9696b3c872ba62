"""One of several machines: takes jobs from the engine and has its own pool do them."""

from __future__ import annotations

import logging
import pickle
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from celery import Celery
from celery.worker.control import control_command, inspect_command

from drelo.core.errors import Refusal
from drelo.work.machines.engine import REPORT, RUN, STOP, address_of, queue_of
from drelo.work.pool import MAX_WAITING, Pool
from drelo.work.workers import given_up

# Jobs that a machine has at hand at once, those that wait for one of its workers among them.
AT_HAND = MAX_WAITING + 16
ASK = 2.0
log = logging.getLogger(__name__)


@dataclass
class _Node:
    """The pool of this machine and what it was asked for, by the ids of the engine."""

    pool: Pool
    jobs: dict[str, threading.Event] = field(default_factory=dict)


_node: _Node | None = None


def serve(app: Celery, name: str, workers: int, spare: int, log_level: str = "WARNING") -> None:
    """Do jobs until told to end; then finish those at hand. Raises Refusal where a machine of that name has joined."""
    global _node
    answers = app.control.ping(destination=[address_of(name)], timeout=ASK, limit=1)
    if answers:
        raise Refusal("machines.name-taken", name=name)
    pool = Pool(workers, spare)
    _node = _Node(pool)
    app.task(run, bind=True, name=RUN)
    pool.warm()
    try:
        app.worker_main(
            [
                "worker",
                f"--hostname={address_of(name)}",
                f"--queues={queue_of(name)}",
                "--pool=threads",
                f"--concurrency={AT_HAND}",
                "--without-gossip",
                "--without-mingle",
                f"--loglevel={log_level}",
            ]
        )
    finally:
        pool.close()


def run(
    task: Any, piece: str, function: Callable[..., Any], arguments: tuple[Any, ...], how: dict[str, Any]
) -> tuple[bool, Any]:
    """One job: whether it went well, and what came of it."""
    assert _node is not None
    job = str(task.request.id)
    stopped = _node.jobs.setdefault(job, threading.Event())
    given_up.set(stopped.is_set)
    try:
        return True, _node.pool.run(piece, function, *arguments, **how)
    except Exception as error:
        return False, _sendable(error)
    finally:
        _node.jobs.pop(job, None)


def _sendable(error: Exception) -> Exception:
    try:
        pickle.loads(pickle.dumps(error))
    except Exception:
        return RuntimeError(f"{type(error).__name__}: {error}")
    return error


@inspect_command(name=REPORT)  # type: ignore[untyped-decorator]
def report(_state: Any) -> dict[str, Any]:
    """What this machine says of itself."""
    if _node is None:
        return {}
    state = _node.pool.state()
    return {
        "workers": _node.pool.workers,
        "ready": state.ready,
        "running": state.running,
        "waiting": state.waiting,
        "longest": state.longest,
        "jobs": list(_node.jobs),
    }


@control_command(name=STOP, args=[("job", str)])  # type: ignore[untyped-decorator]
def stop(_state: Any, job: str) -> dict[str, str]:
    """Nobody waits for a job any more."""
    if _node is not None and job in _node.jobs:
        _node.jobs[job].set()
    return {"ok": job}
