"""A job played: pure steps from one state to the next, as time goes by and as hands act."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from drelo.device.job import BUSY, ENDED, HELD, Change, Frozen, Job, Lay, Phase, Spool, WarmUp

# Less than this is none: g, s.
NONE_LEFT = 1e-9


class NotNow(Exception):
    """What was asked for cannot be done in this state; says why."""


class State(Frozen):
    """job: on the bed, None for none. step: that is at work; spent: s of it. used: g by filament; left: on its spool.

    words: what somebody should do or know.
    """

    job: Job | None = None
    phase: Phase = "idle"
    step: int = 0
    spent: float = 0.0
    used: dict[str, float] = Field(default_factory=dict)
    left: dict[str, float | None] = Field(default_factory=dict)
    words: str = ""

    def with_(self, **change: Any) -> State:
        return self.model_copy(update=change)


def begun(state: State, job: Job) -> State:
    """A job taken on. Raises NotNow while another one is on the bed."""
    if state.phase in BUSY or state.phase in HELD:
        raise NotNow(f"It is busy with {state.job.title if state.job else 'a job'}.")
    left = {spool.id: spool.left for spool in job.spools}
    return _at_step(State(job=job, left=left, used={spool.id: 0.0 for spool in job.spools}), 0)


def played(state: State, seconds: float) -> State:
    """The state some seconds later."""
    while state.phase in BUSY and state.job is not None:
        step = state.job.steps[state.step]
        rest = step.seconds - state.spent
        take = min(rest, seconds)
        if isinstance(step, (Lay, Change)):
            filament = step.filament if isinstance(step, Lay) else step.into
            share, state = _fed(state, filament, step.grams, take / step.seconds if step.seconds else 1.0)
            if state.phase == "out of filament":
                return state.with_(spent=state.spent + share * step.seconds)
        state = state.with_(spent=state.spent + take)
        seconds -= take
        if take < rest:
            return state
        state = _at_step(state, state.step + 1)
    return state


def _fed(state: State, filament: str, grams: float, share: float) -> tuple[float, State]:
    """So much of a step's filament used; less where the spool runs out."""
    left = state.left.get(filament)
    wanted = grams * share
    if left is not None and wanted > left + NONE_LEFT:
        share *= left / wanted
        wanted = left
    used = {**state.used, filament: state.used.get(filament, 0.0) + wanted}
    after = state.with_(used=used)
    if left is None:
        return share, after
    after = after.with_(left={**state.left, filament: left - wanted})
    if wanted == left and grams > 0 and share < 1:
        name = _spool(state, filament).name
        return share, after.with_(phase="out of filament", words=f"{name} has run out. Load another spool.")
    return share, after


def _at_step(state: State, number: int) -> State:
    job = state.job
    if job is None or number >= len(job.steps):
        return state.with_(phase="done", step=max(number - 1, 0), words="")
    step = job.steps[number]
    phase: Phase = "printing"
    words = ""
    if isinstance(step, WarmUp):
        phase = "warming up"
    elif isinstance(step, Change):
        phase = "waiting for a change" if step.by_hand else "changing filament"
        words = step.words or f"Take out {_spool(state, step.out).name}, load {_spool(state, step.into).name}."
    return state.with_(phase=phase, step=number, spent=0.0, words=words)


def _spool(state: State, identifier: str) -> Spool:
    spools = state.job.spools if state.job else ()
    return next((s for s in spools if s.id == identifier), Spool(id=identifier, name=identifier, colour="#888888"))


def paused(state: State) -> State:
    """Raises NotNow."""
    if state.phase not in BUSY:
        raise NotNow("It is not printing.")
    return state.with_(phase="paused", words="")


def resumed(state: State) -> State:
    """Goes on after a pause. Raises NotNow."""
    if state.phase != "paused":
        raise NotNow("It is not paused.")
    return _going_on(state)


def confirmed(state: State) -> State:
    """The filament was changed by hand. Raises NotNow."""
    if state.phase != "waiting for a change":
        raise NotNow("It is not waiting for a filament change.")
    return _at_step(state, state.step + 1)


def refilled(state: State, grams: float | None) -> State:
    """Another spool was loaded. grams: on it, where it was weighed. Raises NotNow."""
    if state.phase != "out of filament" or state.job is None:
        raise NotNow("No spool has run out.")
    step = state.job.steps[state.step]
    filament = step.into if isinstance(step, Change) else step.filament if isinstance(step, Lay) else ""
    return _going_on(state.with_(left={**state.left, filament: grams}))


def _going_on(state: State) -> State:
    """At the same step again, as far as it had come."""
    spent = state.spent
    return _at_step(state, state.step).with_(spent=spent)


def stopped(state: State) -> State:
    """Given up by hand. Raises NotNow."""
    if state.phase not in (*BUSY, *HELD):
        raise NotNow("There is no job to stop.")
    return state.with_(phase="stopped", words="Stopped by hand.")


def failed(state: State, why: str) -> State:
    """Something broke. Raises NotNow."""
    if state.phase not in (*BUSY, *HELD):
        raise NotNow("There is no job to fail.")
    return state.with_(phase="failed", words=why)


def layer_of(state: State) -> tuple[int, float]:
    """The layer that is printed, or was last, and its upper side; 0 before the first."""
    if state.job is None:
        return 0, 0.0
    for step in reversed(state.job.steps[: state.step + 1]):
        if isinstance(step, Lay):
            return step.layer, step.z
    return 0, 0.0


def seconds_of(job: Job) -> float:
    """How long a job takes, without what a hand takes for a change."""
    return sum(_machine(step) for step in job.steps)


def done_of(state: State) -> float:
    """How many of these seconds are done."""
    if state.job is None:
        return 0.0
    if state.phase == "done":
        return seconds_of(state.job)
    spent = 0.0 if state.phase == "waiting for a change" else state.spent
    return sum(_machine(step) for step in state.job.steps[: state.step]) + spent


def _machine(step: WarmUp | Lay | Change) -> float:
    return 0.0 if isinstance(step, Change) and step.by_hand else step.seconds


def is_over(state: State) -> bool:
    return state.phase in ENDED
