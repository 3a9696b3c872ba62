"""A served demo for measuring: real database, real workers."""

from __future__ import annotations

import gc
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy.orm import Session, sessionmaker

from drelo.application.bench import Bench
from drelo.cli.seed import seed
from drelo.store.database import engine_for, migrate, sessions
from drelo.store.server import Server, create_database
from drelo.web.app import create_app
from drelo.web.listening import listening
from drelo.work.pool import COLLECT, Pool

CHROMIUM_FLAGS = [
    "--no-sandbox",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--enable-unsafe-swiftshader",
]


@dataclass(frozen=True)
class Served:
    """A running application: where it answers, and what stands behind it."""

    address: str
    bench: Bench
    sessions: sessionmaker[Session]


@contextmanager
def serving(folder: Path) -> Iterator[str]:
    """The address of the seeded demo while the context lasts."""
    with served(folder) as application:
        yield application.address


@contextmanager
def served(folder: Path) -> Iterator[Served]:
    """The seeded demo while the context lasts."""
    gc.set_threshold(*COLLECT)
    with Server(folder) as database:
        create_database(database, "drelo_bench")
        engine = engine_for(database.url("drelo_bench"))
        migrate(engine)
        maker = sessions(engine)
        pool = Pool()
        bench = Bench.on(maker, pool)
        seed(bench.pieces, bench.assets)
        server = listening(create_app(bench), 0)
        threading.Thread(target=server.run, daemon=True).start()
        pool.warm()
        try:
            yield Served(f"http://127.0.0.1:{server.effective_port}", bench, maker)
        finally:
            server.close()
            pool.close()
            engine.dispose()
