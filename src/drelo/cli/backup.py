"""`drelo backup`: save everything that makers brought and made in one file."""

from __future__ import annotations

import argparse
from pathlib import Path

from drelo.cli.folder import DATABASE, data_folder, database, step
from drelo.store.backup import back_up


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="FILE.zip", help="where to write it")


def run(args: argparse.Namespace) -> None:
    """Write a backup of the data folder; a Drelo that works on it goes on."""
    with database(data_folder(), beside=True) as address:
        made = step("backup", lambda: back_up(address, DATABASE, args.file))
    print(f"{args.file}: {made.bytes / 2**20:.1f} MB of pieces and pictures")
