"""The process that `drelo start` starts: migrations, demo data, workers, web application.

It has none of root's rights, and is started again should it be killed.
"""

from __future__ import annotations

import gc
import logging
import signal
import sys
import threading
import time
import urllib.request
from contextlib import ExitStack, suppress
from ipaddress import IPv4Address, IPv6Address
from itertools import count
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING

from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from drelo.application.bench import Bench
from drelo.application.device import Device
from drelo.application.printing import settle
from drelo.cli import logs
from drelo.cli.__main__ import refusing
from drelo.cli.folder import DATABASE, step
from drelo.cli.order import Order, say
from drelo.cli.seed import seed
from drelo.core.errors import Refusal
from drelo.core.people.limits import Limits
from drelo.device.process import Process
from drelo.settings import Settings, settings
from drelo.store import cabinet
from drelo.store.backup import back_up
from drelo.store.consumption import Consumption
from drelo.store.database import engine_for, migrate, newest, one_at_a_time, revision_of, sessions
from drelo.store.models import now
from drelo.store.server import Address, create_database
from drelo.store.space import Space
from drelo.web.app import FRONT_END, create_app
from drelo.web.listening import listening
from drelo.web.requests import number
from drelo.work.pool import COLLECT, Pool
from drelo.work.workers import Workers

if TYPE_CHECKING:
    from drelo.web.people.workshop import Workshop

# How long its own address may take for one answer, s, and for the first before it is said that there is none yet.
ASKED_SECONDS, ANSWER_SECONDS = 5.0, 30.0
# Another web process may be bringing the tables up, s.
MIGRATION_SECONDS = 600.0
SHORTEST_SECRET = 32
# How often it is looked how much room there is, s.
RESERVE_SECONDS = 1.0
# How often what need not be kept is taken away, s: what can be made again, which comes quickly, and all else.
TRIM_SECONDS, SWEEP_SECONDS = 60, 3600
# How often it is looked whether a print has ended, s.
SETTLE_SECONDS = 5.0
log = logging.getLogger(__name__)


def main() -> int:
    """What is to be done is told on the standard input, once the database answers; nothing where it does not."""
    for each in (signal.SIGINT, signal.SIGTERM):
        signal.signal(each, _as_interrupt)
    with suppress(KeyboardInterrupt):
        told = sys.stdin.readline()
        return refusing(lambda: serve(Order.of(told))) if told else 0
    return 0


def serve(order: Order) -> None:
    """Serve until told to end, and end everything that was started. Raises Refusal naming the step that failed."""
    chosen = settings()
    folder, port, address = chosen.data, order.port, order.database
    with ExitStack() as stack:
        step("log", lambda: logs.install(folder / "log", chosen, number))
        space = Space(folder)
        if space.room() == "none":
            say("disk: nearly full; nothing can be changed until there is room again")
        threading.Thread(target=_keep_reserve, args=(space,), daemon=True).start()
        step("database", lambda: create_database(address, DATABASE))
        engine = engine_for(address.url(DATABASE))
        stack.callback(engine.dispose)
        with one_at_a_time(engine, "migrations", MIGRATION_SECONDS) as mine:
            if not mine:
                raise Refusal("start.another-migrates")
            step("migrations", lambda: _brought_up(engine, address, folder))
        say("database: ready")
        maker = sessions(engine)
        pool = _workers(chosen, maker if order.shared else None)
        stack.callback(pool.close)
        bench = Bench.on(maker, pool, space, _device(chosen, folder, stack))
        if order.shared and not bench.accounts.has_keeper():
            raise Refusal("start.no-keeper")
        if not order.empty:
            with one_at_a_time(engine, "demo", MIGRATION_SECONDS):
                added = step("demo", lambda: seed(bench.pieces, bench.assets))
            if added:
                say(f"demo: {added} pieces laid out")

        def end(by: int, frame: FrameType | None) -> None:
            # Pages that listen would keep it from ending.
            bench.watching.close()
            _as_interrupt(by, frame)

        signal.signal(signal.SIGINT, end)
        signal.signal(signal.SIGTERM, end)
        app = create_app(bench, FRONT_END, _workshop(folder, chosen) if order.shared else None)
        server = step("web", lambda: listening(app, port, str(chosen.listen), order.shared))
        stack.callback(server.close)
        threading.Thread(target=_keep_tidy, args=(bench, engine, chosen.derived_mb * 2**20), daemon=True).start()
        threading.Thread(target=_keep_settled, args=(bench,), daemon=True).start()
        cabinet.search("words")
        # What stands by now stays; looking through it again and again would hold up answers.
        gc.freeze()
        gc.set_threshold(*COLLECT)
        threading.Thread(target=_announce, args=(chosen.listen, port, pool), daemon=True).start()
        with suppress(KeyboardInterrupt):
            server.run()
        say("stopping")


def _workshop(folder: Path, chosen: Settings) -> Workshop:
    from drelo.web.people.workshop import Workshop, secret_of

    names = tuple(name.strip() for name in chosen.names.split(",") if name.strip())
    if chosen.secret and len(chosen.secret) < SHORTEST_SECRET:
        raise Refusal("start.short-secret", least=SHORTEST_SECRET)
    return Workshop(
        secret=chosen.secret.encode() or secret_of(folder),
        secure=chosen.https,
        names=(*names, str(chosen.listen)),
        proxies=chosen.proxies,
        counts=chosen.broker or "memory://",
        trust=chosen.broker_ca,
        limits=_limits(chosen),
    )


def _workers(chosen: Settings, people: sessionmaker[Session] | None) -> Workers:
    """Worker processes of this machine, or the machines that have joined where there is a broker.

    people: where what is worked out for each person is counted, in a shared workshop.
    """
    if chosen.broker:
        from drelo.work.machines.engine import engine
        from drelo.work.machines.machines import Machines

        workers: Workers = Machines(engine(chosen.broker, chosen.machines_key, chosen.broker_ca))
    else:
        workers = Pool(chosen.workers, chosen.spare_workers)
    if people is None:
        return workers
    from drelo.application.metering import Metered

    return Metered(workers, Consumption(people), _limits(chosen))


def _limits(chosen: Settings) -> Limits:
    return Limits(chosen.person_pieces, chosen.person_mb, chosen.person_jobs, chosen.person_minutes)


def _device(chosen: Settings, folder: Path, stack: ExitStack) -> Device:
    """The printer that runs already, or the stand-in, which ends with us."""
    if chosen.printer:
        return Device(lambda: chosen.printer)
    printer = step("printer", lambda: stack.enter_context(Process(folder)))
    return Device(lambda: printer.address)


def _as_interrupt(by: int, frame: FrameType | None) -> None:
    # Told twice, by the whole group and by who started it, it ends once.
    for each in (signal.SIGINT, signal.SIGTERM):
        signal.signal(each, signal.SIG_IGN)
    raise KeyboardInterrupt


def _announce(listen: IPv4Address | IPv6Address, port: int, pool: Workers) -> None:
    host = "127.0.0.1" if listen.is_unspecified else f"[{listen}]" if listen.version == 6 else str(listen)
    address = f"http://{host}:{port}"
    begin, told = time.monotonic(), False
    while True:
        try:
            with urllib.request.urlopen(f"{address}/api/health", timeout=ASKED_SECONDS):
                say(f"Drelo is running at {address} (press Ctrl+C to stop)")
            # The page is read while the workers get ready.
            pool.warm()
            return
        except OSError:
            time.sleep(0.05)
        if not told and time.monotonic() - begin > ANSWER_SECONDS:
            told = True
            print("web: no answer on its own address yet", file=sys.stderr, flush=True)


def _brought_up(engine: Engine, address: Address, folder: Path) -> None:
    """Bring the tables to the newest revision, with a backup before anything in them is changed."""
    was = revision_of(engine)
    if was is not None and was != newest():
        kept = folder / "backups" / f"before-{newest()}.zip"
        kept.parent.mkdir(exist_ok=True)
        back_up(address, DATABASE, kept)
        say(f"migrations: a backup was made first, {kept}")
    migrate(engine)


def _keep_tidy(bench: Bench, engine: Engine, quota: int) -> None:
    """Take away now and then what need not be kept; should it fail, the next time does."""
    rounds = SWEEP_SECONDS / TRIM_SECONDS
    for turn in count(1):
        time.sleep(TRIM_SECONDS)
        try:
            with one_at_a_time(engine, "sweep", 0) as mine:
                if not mine:
                    continue
                bench.keeping.trim(now(), quota)
                if turn % rounds == 0:
                    bench.history.thin(now())
                    bench.keeping.sweep(now(), quota)
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
