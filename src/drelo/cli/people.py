"""`drelo people`: list people, make a keeper, or set a forgotten password anew."""

from __future__ import annotations

import argparse
import getpass
import re
import sys

from drelo.application import people
from drelo.cli.folder import DATABASE, data_folder, database, step
from drelo.core.errors import Refusal
from drelo.core.people.passwords import checked_password
from drelo.store.accounts import Accounts
from drelo.store.database import engine_for, migrate, sessions

NAME = re.compile(r"[a-z0-9][a-z0-9._-]{1,39}")


def add_arguments(parser: argparse.ArgumentParser) -> None:
    ways = parser.add_subparsers(dest="way", required=True, metavar="list|keeper|password")
    ways.add_parser("list", help="list everybody: name, role, full name")
    keeper = ways.add_parser("keeper", help="make a keeper, who then invites everybody else on the page")
    keeper.add_argument("name", metavar="NAME", help="to sign in with: small letters, digits, dot, dash, underscore")
    forgot = ways.add_parser(
        "password", help="set a new password for somebody who forgot theirs; a second factor is removed"
    )
    forgot.add_argument("name", metavar="NAME")
    keeper.add_argument("--title", default=None, metavar="TITLE", help="what others see; else the name")


def run(args: argparse.Namespace) -> None:
    """Work on the data folder, beside a Drelo that runs on it. The password is asked for, or read."""
    password = ""
    if args.way in ("keeper", "password"):
        if not NAME.fullmatch(args.name):
            raise Refusal("people.name-pattern")
        password = checked_password(_asked(), args.name)
    with database(data_folder(), beside=True) as address:
        engine = engine_for(address.url(DATABASE))
        try:
            step("database", lambda: migrate(engine))
            accounts = Accounts(sessions(engine))
            if args.way == "keeper":
                made = people.new_keeper(accounts, args.name, args.title or args.name, password)
                print(f"{made.name} keeps the workshop. Start it with: ./drelo start --shared")
                return
            if args.way == "password":
                people.reset(accounts, args.name, password)
                print(f"{args.name} signs in with the new password, and without a second factor.")
                return
            for person in accounts.all():
                print(f"{person.name:<20} {person.role:<8} {person.title}{' (shut out)' if person.closed else ''}")
        finally:
            engine.dispose()


def _asked() -> str:
    """The password: typed twice, or a line of the standard input where nobody sits at it."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    password = getpass.getpass("Password: ")
    if getpass.getpass("Once more: ") != password:
        raise Refusal("password.two-different")
    return password
