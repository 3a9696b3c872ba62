"""A real Redis of the tests' own, on loopback, which can be ended and started again."""

from __future__ import annotations

import shutil
import socket
import subprocess
import time
from pathlib import Path

START_SECONDS = 10.0


class Redis:
    """Started by `start`. words: more of its settings."""

    def __init__(self, folder: Path, *words: str, tls: bool = False, bind: str = "127.0.0.1") -> None:
        self._bind = bind
        self._folder = folder
        self._words = words
        self._tls = tls
        self._process: subprocess.Popen[bytes] | None = None
        with socket.socket() as probe:
            probe.bind((bind, 0))
            self.port = int(probe.getsockname()[1])

    @property
    def address(self) -> str:
        return f"{'rediss' if self._tls else 'redis'}://:secret@{self._bind}:{self.port}/0"

    @property
    def pid(self) -> int:
        assert self._process is not None, "it is not started"
        return self._process.pid

    def start(self) -> None:
        program = shutil.which("redis-server")
        assert program, "redis-server is missing; install it with: sudo apt-get install redis-server"
        ports = ["--port", "0", "--tls-port", str(self.port)] if self._tls else ["--port", str(self.port)]
        words = ["--bind", self._bind, *ports, "--requirepass", "secret", "--save", "", "--appendonly", "no"]
        with (self._folder / "redis.log").open("ab") as log:
            self._process = subprocess.Popen(
                [program, *words, "--dir", str(self._folder), *self._words], stdout=log, stderr=log
            )
        until = time.monotonic() + START_SECONDS
        while time.monotonic() < until:
            with socket.socket() as probe:
                if probe.connect_ex((self._bind, self.port)) == 0:
                    return
            time.sleep(0.05)
        raise AssertionError((self._folder / "redis.log").read_text()[-2000:])

    def stop(self) -> None:
        if self._process is not None:
            self._process.kill()
            self._process.wait()
            self._process = None
