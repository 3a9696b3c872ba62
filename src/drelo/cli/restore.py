"""`drelo restore`: make a new data folder from a backup."""

from __future__ import annotations

import argparse
from pathlib import Path

from drelo.cli.folder import DATA_VARIABLE, DATABASE, data_folder, database, step
from drelo.core.errors import Refusal
from drelo.settings import settings
from drelo.store.backup import restore, verify
from drelo.store.database import engine_for, revision_of


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="FILE.zip", help="the backup")


def run(args: argparse.Namespace) -> None:
    """Fill a new data folder from a backup; one that holds something is not touched."""
    verify(args.file)
    folder = data_folder()
    if settings().database:
        _into_server(args.file)
        return
    if (folder / "mariadb").exists():
        raise Refusal("restore.folder-in-use", folder=folder, setting=DATA_VARIABLE)
    with database(folder) as address:
        step("restore", lambda: restore(address, DATABASE, args.file))
    print(f"{folder}: restored from {args.file}")


def _into_server(backup: Path) -> None:
    """Fill the empty database of a server that runs already."""
    with database(data_folder()) as address:
        engine = engine_for(address.url(DATABASE))
        try:
            if step("database", lambda: revision_of(engine)) is not None:
                raise Refusal("restore.database-in-use")
        finally:
            engine.dispose()
        step("restore", lambda: restore(address, DATABASE, backup))
    print(f"{address.host}: restored from {backup}")
