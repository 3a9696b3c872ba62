"""`drelo worker`: let this machine work for a workshop that runs on another one."""

from __future__ import annotations

import argparse
import logging

from drelo.core.errors import Refusal
from drelo.settings import settings
from drelo.work.machines.engine import engine
from drelo.work.machines.node import serve


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--join",
        required=True,
        metavar="ADDRESS",
        help="the workshop's Redis server, as rediss://:password@host:6379/0; DRELO_MACHINES_KEY holds the key",
    )
    parser.add_argument(
        "--name", default=None, metavar="NAME", help="a name for this machine (its host name if left out)"
    )
    parser.add_argument(
        "--workers", type=int, default=None, metavar="N", help="how many jobs to do at once (2 if left out)"
    )


def run(args: argparse.Namespace) -> None:
    """Take work until Ctrl+C; what is at hand then is finished first."""
    chosen = settings()
    if args.workers is not None and not 1 <= args.workers <= 64:
        raise Refusal("command.workers")
    logging.basicConfig(level=chosen.log_level.upper(), format="%(asctime)s %(levelname)s %(message)s")
    app = engine(args.join, chosen.machines_key, chosen.broker_ca)
    serve(app, args.name or chosen.machine, args.workers or chosen.workers, chosen.spare_workers, chosen.log_level)
