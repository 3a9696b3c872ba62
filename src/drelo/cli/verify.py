"""`drelo verify`: say whether a backup is whole."""

from __future__ import annotations

import argparse
from pathlib import Path

from drelo.store.backup import verify


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="FILE.zip", help="the backup")


def run(args: argparse.Namespace) -> None:
    """Hold a backup against what it says of itself."""
    found = verify(args.file)
    print(f"{args.file}: whole, {found.bytes / 2**20:.1f} MB of pieces and pictures")
