"""Seconds by stage."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager


class Stages:
    """A stopwatch with a name for every stretch."""

    def __init__(self) -> None:
        self.seconds: dict[str, float] = {}

    @contextmanager
    def stage(self, name: str) -> Iterator[None]:
        begin = time.perf_counter()
        try:
            yield
        finally:
            self.seconds[name] = round(self.seconds.get(name, 0.0) + time.perf_counter() - begin, 6)
