"""`drelo restore`: a new data folder from a backup."""

from __future__ import annotations

import argparse
from pathlib import Path

from drelo.cli.folder import DATA_VARIABLE, DATABASE, data_folder, database, step
from drelo.core.errors import Refusal
from drelo.store.backup import restore, verify


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="FILE.zip")


def run(args: argparse.Namespace) -> None:
    """Fill a new data folder from a backup; one that holds something is not touched."""
    verify(args.file)
    folder = data_folder()
    if (folder / "mariadb").exists():
        raise Refusal(
            f"The data folder {folder} holds pieces already; nothing was touched. "
            f"Set {DATA_VARIABLE} to a new folder, or move this one away."
        )
    with database(folder) as address:
        step("restore", lambda: restore(address, DATABASE, args.file))
    print(f"{folder}: restored from {args.file}")
