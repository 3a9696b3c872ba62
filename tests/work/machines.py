"""Machines of the tests: processes apart, joined over a broker."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

from drelo.work.machines.machines import Machines

ROOT = Path(__file__).resolve().parents[2]
KEY = "a key of the tests, which is long enough"
JOIN_SECONDS = 60.0


class Machine:
    """A machine that has joined, with all its processes in a group of their own."""

    def __init__(
        self,
        address: str,
        name: str,
        folder: Path,
        key: str = KEY,
        workers: int = 2,
        on: tuple[str, ...] = (),
        **more: str,
    ) -> None:
        """on: words that run a command on another host."""
        self.name = name
        self.log = folder / f"{name}.log"
        with self.log.open("ab") as log:
            self.process = subprocess.Popen(
                [
                    *on,
                    *(sys.executable, "-m", "drelo.cli", "worker"),
                    *("--join", address, "--name", name, "--workers", str(workers)),
                ],
                env={
                    **os.environ,
                    "DRELO_MACHINES_KEY": key,
                    "DRELO_MACHINE": name,
                    "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}",
                    **more,
                },
                cwd=ROOT,
                stdin=subprocess.DEVNULL,
                stdout=log,
                stderr=log,
                start_new_session=True,
            )

    def kill(self) -> None:
        """As a machine ends whose plug is pulled."""
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()

    def freeze(self) -> None:
        """As a machine is that nobody hears any more."""
        os.killpg(self.process.pid, signal.SIGSTOP)

    def thaw(self) -> None:
        os.killpg(self.process.pid, signal.SIGCONT)

    def leave(self) -> None:
        """As one that is told to end: what it is at is finished first."""
        self.process.terminate()
        self.process.wait(60)


def joined(machines: Machines, *names: str) -> None:
    """Wait until these machines, and no others, are there with warm workers."""
    machines.warm()
    until = time.monotonic() + JOIN_SECONDS
    while time.monotonic() < until:
        found = machines.machines()
        if set(found) == set(names) and all(report.ready for report in found.values()):
            return
        time.sleep(0.1)
    raise AssertionError(f"{sorted(machines.machines())} have joined, not {sorted(names)}")
