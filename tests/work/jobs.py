"""What the tests have workers do."""

from __future__ import annotations

import importlib
import os
import signal
import sys
import threading
import time
from pathlib import Path

from drelo.core.errors import Superseded


def whoami(checkpoint) -> int:
    return os.getpid()


def rights(checkpoint) -> dict[str, int]:
    """The sets of capabilities that the worker has."""
    told = dict(line.split(":\t") for line in Path("/proc/self/status").read_text().splitlines() if "\t" in line)
    return {name: int(told[name], 16) for name in ("CapEff", "CapPrm")}


def sleep(checkpoint, seconds: float) -> str:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        time.sleep(0.01)
        checkpoint()
    return "done"


def chatty(watch, times: int, pause: float, size: int = 0) -> str:
    for number in range(times):
        watch.tell(number if not size else bytes(size))
        time.sleep(pause)
    return "done"


def load(checkpoint, folder: str) -> str:
    """Imports the module `halves` of a folder, then goes on for long."""
    sys.path.insert(0, folder)
    importlib.import_module("halves")
    time.sleep(60)
    return "done"


def loaded(checkpoint) -> bool:
    """Whether `halves` is there with its second half."""
    return hasattr(sys.modules["one_half"], "SECOND")


def deaf(checkpoint, seconds: float) -> str:
    """Heeds nothing."""
    signal.pthread_sigmask(signal.SIG_BLOCK, [signal.SIGUSR1])
    time.sleep(seconds)
    return "done"


def give_up(checkpoint) -> None:
    raise Superseded


def die(checkpoint) -> None:
    os._exit(9)


def die_once(checkpoint, mark: str) -> str:
    if not Path(mark).exists():
        Path(mark).touch()
        os._exit(9)
    return "done"


def greedy(checkpoint) -> int:
    return len(bytearray(8 * 2**30))


def unsendable(checkpoint) -> object:
    return threading.Lock()


def crunch(checkpoint, seconds: float) -> str:
    """Keeps a processor busy for so long."""
    until = time.process_time() + seconds
    while time.process_time() < until:
        pass
    return "done"
