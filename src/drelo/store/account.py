"""The account that the database server runs as: started by root, it needs none of root's rights."""

from __future__ import annotations

import os
import pwd
import re
import shutil
import stat
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

# As Debian's package of the server names it.
NAME = "mysql"
# Numbers of the capabilities that it takes to give files away and to run a process as another account.
_CHOWN, _SETGID, _SETUID = 0, 6, 7


@dataclass(frozen=True)
class Account:
    """user, group: their numbers; None where the server runs as who starts it."""

    user: int | None = None
    group: int | None = None

    def own(self, place: Path) -> None:
        """Give a place, and all that is in it, to the account."""
        if self.user is None:
            return
        for folder, _, files in os.walk(place):
            for one in (folder, *(os.path.join(folder, name) for name in files)):
                shutil.chown(one, self.user, self.group)

    @property
    def starting(self) -> Mapping[str, Any]:
        """What a process that runs as the account is started with."""
        if self.user is None:
            return {}
        return {"user": self.user, "group": self.group, "extra_groups": []}

    @property
    def words(self) -> list[str]:
        """What the server wants to be told: it refuses to run as root otherwise."""
        return ["--user=root"] if self.user is None and os.geteuid() == 0 else []


def account_for(folder: Path) -> Account:
    """The account for a server whose data lie in a folder.

    In a folder that only root may enter, where the package has made no account, or in a container whose root may not
    change accounts, root is left.
    """
    if not may_change_account() or not in_reach(folder):
        return Account()
    try:
        known = pwd.getpwnam(NAME)
    except KeyError:
        return Account()
    return Account(known.pw_uid, known.pw_gid) if _is_mapped(known.pw_uid) else Account()


def may_change_account() -> bool:
    """Whether this process may give files away and run others as another account. Not every container's root may."""
    wanted = 1 << _CHOWN | 1 << _SETGID | 1 << _SETUID
    known = re.search(r"^CapEff:\s*(\w+)", Path("/proc/self/status").read_text(), re.MULTILINE)
    return os.geteuid() == 0 and known is not None and int(known[1], 16) & wanted == wanted


def _is_mapped(account: int) -> bool:
    """Whether an account is there in this container."""
    spans = (line.split() for line in Path("/proc/self/uid_map").read_text().splitlines())
    return any(int(first) <= account < int(first) + int(count) for first, _, count in spans)


def in_reach(place: Path) -> bool:
    """Whether every account may go to a place."""
    folders = [folder for folder in (place, *place.resolve().parents) if folder.is_dir()]
    return all(folder.stat().st_mode & stat.S_IXOTH for folder in folders)
