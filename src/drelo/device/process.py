"""The stand-in printer as a process of its own: started, watched, started again, and ended."""

from __future__ import annotations

import socket
import subprocess
import sys
import threading
from pathlib import Path

# How often it is looked whether it lives, s; a dead one is started again, later each time.
LOOK = 0.5
LONGEST_PAUSE = 30.0
GRACE = 5.0


class Process:
    """Where it keeps its state: a folder. `address` changes when it is started again."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._child: subprocess.Popen[bytes] | None = None
        self._port = 0
        self._ending = threading.Event()

    def __enter__(self) -> Process:
        self._start()
        threading.Thread(target=self._watch, name="printer watch", daemon=True).start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ending.set()
        child = self._child
        if child is None:
            return
        child.terminate()
        try:
            child.wait(GRACE)
        except subprocess.TimeoutExpired:
            child.kill()
            child.wait()

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self._port}"

    def _start(self) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self._port = int(probe.getsockname()[1])
        log = (self._folder / "printer.log").open("ab")
        with log:
            self._child = subprocess.Popen(
                [
                    sys.executable,
                    "-m",
                    "drelo.device",
                    "--port",
                    str(self._port),
                    "--state",
                    str(self._folder / "printer.json"),
                ],
                stdin=subprocess.DEVNULL,
                stdout=log,
                stderr=log,
                # Ctrl+C goes to us, and we end it in order.
                start_new_session=True,
            )

    def _watch(self) -> None:
        pause = LOOK
        while not self._ending.wait(LOOK):
            if self._child is not None and self._child.poll() is not None:
                if self._ending.wait(pause):
                    return
                pause = min(2 * pause, LONGEST_PAUSE)
                self._start()
