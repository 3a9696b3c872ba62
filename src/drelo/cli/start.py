"""`drelo start`: database, migrations, demo data, workers, web application."""

from __future__ import annotations

import argparse
import gc
import logging
import signal
import socket
import sys
import threading
import time
import urllib.request
from contextlib import ExitStack, suppress
from pathlib import Path
from types import FrameType

from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError

from drelo.application.bench import Bench
from drelo.application.device import Device
from drelo.application.printing import settle
from drelo.cli import logs
from drelo.cli.folder import DATABASE, alone, step
from drelo.cli.seed import seed
from drelo.core.errors import Refusal
from drelo.device.process import Process
from drelo.settings import settings
from drelo.store import cabinet
from drelo.store.backup import back_up
from drelo.store.database import engine_for, migrate, newest, revision_of, sessions
from drelo.store.keeping import Keeping
from drelo.store.models import now
from drelo.store.server import Address, Server, create_database
from drelo.store.space import Space
from drelo.web.app import FRONT_END, create_app
from drelo.web.listening import listening
from drelo.work.pool import COLLECT, Pool

ANSWER_SECONDS = 30.0
# How often it is looked how much room there is, s.
RESERVE_SECONDS = 1.0
# How often what need not be kept is taken away, s.
SWEEP_SECONDS = 3600.0
# How often it is looked whether a print has ended, s.
SETTLE_SECONDS = 5.0
log = logging.getLogger(__name__)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--port", type=int, default=None, metavar="N", help="port on 127.0.0.1")
    parser.add_argument("--empty", action="store_true", help="without the demo pieces")


def run(args: argparse.Namespace) -> None:
    """Start everything, and end everything that was started on Ctrl+C. Raises Refusal naming the step that failed."""
    chosen = settings()
    folder, port = chosen.data, args.port or chosen.port
    if args.port is not None and not 0 < args.port < 65536:
        raise Refusal("--port must be a number from 1 to 65535.")
    _port_is_free(port)
    # A shell that starts us in the background has SIGINT ignored; here both always end everything in order.
    signal.signal(signal.SIGINT, _as_interrupt)
    signal.signal(signal.SIGTERM, _as_interrupt)
    with ExitStack() as stack:
        stack.enter_context(alone(folder))
        begin = time.monotonic()
        step("log", lambda: logs.install(folder / "log", chosen))
        space = Space(folder)
        space.keep_reserve()
        if space.room() == "none":
            say("disk: nearly full; nothing can be changed until there is room again")
        threading.Thread(target=_keep_reserve, args=(space,), daemon=True).start()
        say("database: starting")
        address = step("database", lambda: stack.enter_context(Server(folder)))
        step("database", lambda: create_database(address, DATABASE))
        engine = engine_for(address.url(DATABASE))
        stack.callback(engine.dispose)
        step("migrations", lambda: _brought_up(engine, address, folder))
        say("database: ready")
        pool = Pool(chosen.workers, chosen.spare_workers)
        stack.callback(pool.close)
        maker = sessions(engine)
        printer = step("printer", lambda: stack.enter_context(Process(folder)))
        bench = Bench.on(maker, pool, space, Device(lambda: printer.address))
        if not args.empty:
            added = step("demo", lambda: seed(bench.pieces, bench.assets))
            if added:
                say(f"demo: {added} pieces laid out")
        server = step("web", lambda: listening(create_app(bench, FRONT_END), port))
        stack.callback(server.close)
        threading.Thread(target=_keep_tidy, args=(bench.keeping, chosen.derived_mb * 2**20), daemon=True).start()
        threading.Thread(target=_keep_settled, args=(bench,), daemon=True).start()
        cabinet.search("words")
        # What stands by now stays; looking through it again and again would hold up answers.
        gc.freeze()
        gc.set_threshold(*COLLECT)
        threading.Thread(target=_announce, args=(port, begin, pool), daemon=True).start()
        with suppress(KeyboardInterrupt):
            server.run()
        say("stopping")


def say(text: str) -> None:
    print(text, flush=True)


def _as_interrupt(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def _announce(port: int, begin: float, pool: Pool) -> None:
    address = f"http://127.0.0.1:{port}"
    while time.monotonic() - begin < ANSWER_SECONDS:
        try:
            with urllib.request.urlopen(f"{address}/api/health", timeout=2):
                say(f"Drelo answers at {address} (Ctrl+C ends it)")
            # The page is read while the workers get ready.
            pool.warm()
            return
        except OSError:
            time.sleep(0.05)
    print("web failed: no answer on its own address", file=sys.stderr, flush=True)


def _brought_up(engine: Engine, address: Address, folder: Path) -> None:
    """Bring the tables to the newest revision, with a backup before anything in them is changed."""
    was = revision_of(engine)
    if was is not None and was != newest():
        kept = folder / "backups" / f"before-{newest()}.zip"
        kept.parent.mkdir(exist_ok=True)
        back_up(address, DATABASE, kept)
        say(f"migrations: a backup was made first, {kept}")
    migrate(engine)


def _keep_tidy(keeping: Keeping, quota: int) -> None:
    """Take away now and then what need not be kept; should it fail, the next time does."""
    while True:
        time.sleep(SWEEP_SECONDS)
        try:
            keeping.sweep(now(), quota)
        except SQLAlchemyError as error:
            log.warning("sweeping failed: %s", error)


def _keep_settled(bench: Bench) -> None:
    """Notice now and then that a print has ended, though nobody looks."""
    while True:
        time.sleep(SETTLE_SECONDS)
        try:
            if bench.prints.open():
                settle(bench)
        except SQLAlchemyError as error:
            log.warning("what was printed could not be kept: %s", error)


def _keep_reserve(space: Space) -> None:
    while True:
        time.sleep(RESERVE_SECONDS)
        space.keep_reserve()


def _port_is_free(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise Refusal(f"Port {port} cannot be used ({error.strerror}). Choose another with --port N.") from None
