"""What the process that serves is told by the one that starts it."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass

from drelo.store.server import Address


@dataclass(frozen=True)
class Order:
    """port: to listen at. empty: without the demo's pieces. shared: for several people. database: where it answers."""

    port: int
    empty: bool
    shared: bool
    database: Address

    @classmethod
    def of(cls, line: str) -> Order:
        told = json.loads(line)
        return cls(told["port"], told["empty"], told["shared"], Address(**told["database"]))

    def line(self) -> str:
        return json.dumps(asdict(self)) + "\n"


def say(text: str) -> None:
    print(text, flush=True)
