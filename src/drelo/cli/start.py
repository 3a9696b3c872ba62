"""`drelo start`: start the database and the web application, and keep both running until Ctrl+C."""

from __future__ import annotations

import argparse
import logging
import os
import signal
import socket
import subprocess
import sys
import time
from contextlib import ExitStack, suppress
from pathlib import Path
from types import FrameType
from typing import NoReturn

from drelo.cli import logs
from drelo.cli.folder import alone, step
from drelo.cli.order import Order, say
from drelo.core.errors import Refusal
from drelo.guard import drop_rights, end_with_parent
from drelo.settings import settings
from drelo.store.server import Server, elsewhere
from drelo.store.space import Space

# A process that is killed again and again is started again ever later, s; one that lived so long begins anew.
BACK_OFF, MOST_BACK_OFF, LIVED = 0.2, 10.0, 60.0
# The number of the capability that it takes to listen at a port below 1024.
_BIND = 10
# How long the process that serves may take to end, s.
END_SECONDS = 60.0
# Not run as a module: each worker would load the module again that its parent was started as.
_SERVING = "import sys; from drelo.cli.serving import main; sys.exit(main())"
log = logging.getLogger(__name__)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--port", type=int, default=None, metavar="N", help="port to listen on (8137 if left out)")
    parser.add_argument("--empty", action="store_true", help="start without the demo pieces")
    parser.add_argument("--shared", action="store_true", help="for several people, who sign in (docs/running.md)")


def run(args: argparse.Namespace) -> None:
    """Start everything, and end everything that was started on Ctrl+C. Raises Refusal naming the step that failed."""
    chosen = settings()
    folder, port = chosen.data, args.port or chosen.port
    if args.port is not None and not 0 < args.port < 65536:
        raise Refusal("command.port")
    if not chosen.listen.is_loopback and not args.shared:
        raise Refusal("start.needs-shared", listen=chosen.listen)
    _port_is_free(str(chosen.listen), port)
    # A shell that starts us in the background has SIGINT ignored; here both always end everything in order.
    for each in (signal.SIGINT, signal.SIGTERM):
        signal.signal(each, _as_interrupt)
    status = 0
    with suppress(KeyboardInterrupt), ExitStack() as stack:
        stack.enter_context(alone(folder))
        step("log", lambda: logs.install(folder / "log", chosen, name="start.log"))
        space = Space(folder)
        space.keep_reserve()
        web = stack.enter_context(Serving(folder))
        say("database: starting")
        if chosen.database:
            address = step("database", lambda: elsewhere(chosen.database))
        else:
            address = step("database", lambda: stack.enter_context(Server(folder)))
            # On a full disk it would wait a minute for room before it ends.
            stack.callback(space.keep_reserve)
        # Ended before the database is.
        stack.callback(web.end)
        status = web.serve(Order(port, args.empty, args.shared, address))
    if status:
        raise SystemExit(status)


class Serving:
    """The process that serves: it is started while the database starts, for its own start takes as long.

    Where root starts Drelo it has none of root's rights; this process keeps them, to start the database as an account
    of its own.
    """

    def __init__(self, folder: Path) -> None:
        # In a folder, or with a program, that is somebody else's root gets at its files by rights that others have not.
        self._is_own = {os.stat(place).st_uid for place in (folder, __file__)} == {os.geteuid()}
        self._process: subprocess.Popen[str] | None = None

    def __enter__(self) -> Serving:
        self._launch()
        return self

    def __exit__(self, *_: object) -> None:
        self.end()

    def _launch(self) -> subprocess.Popen[str]:
        self._process = subprocess.Popen(
            [sys.executable, "-c", _SERVING],
            stdin=subprocess.PIPE,
            text=True,
            # Ctrl+C goes to the whole terminal group; it is ended by us, before the database is.
            start_new_session=True,
            preexec_fn=self._begin,
        )
        return self._process

    def _begin(self) -> None:
        """What it does before anything of it is loaded: libraries have threads of their own at once."""
        end_with_parent()
        if self._is_own:
            drop_rights(but=_BIND)

    def serve(self, order: Order) -> int:
        """The status that it ends with. Killed, it is started again, ever later where that happens again and again."""
        process = self._process or self._launch()
        failures = 0
        while True:
            begin = time.monotonic()
            assert process.stdin is not None
            try:
                process.stdin.write(order.line())
                process.stdin.close()
            except BrokenPipeError:
                pass
            status = process.wait()
            if status == 0 or (status > 0 and not failures):
                return status
            failures = 1 if time.monotonic() - begin > LIVED else failures + 1
            log.warning("the web process ended (%d); it is started again", status)
            time.sleep(min(BACK_OFF * 2 ** (failures - 1), MOST_BACK_OFF))
            process = self._launch()

    def end(self) -> None:
        """End it and wait for it."""
        process = self._process
        if process is None or process.poll() is not None:
            return
        process.terminate()
        try:
            process.wait(END_SECONDS)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


def _as_interrupt(by: int, frame: FrameType | None) -> NoReturn:
    # Told again, it goes on ending in order.
    for each in (signal.SIGINT, signal.SIGTERM):
        signal.signal(each, signal.SIG_IGN)
    raise KeyboardInterrupt


def _port_is_free(address: str, port: int) -> None:
    with socket.socket(socket.AF_INET6 if ":" in address else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((address, port))
        except OSError as error:
            raise Refusal("start.port-taken", port=port, address=address, reason=error.strerror) from None
