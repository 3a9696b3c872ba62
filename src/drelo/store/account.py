"""The account that the database server runs as: started by root, it needs none of root's rights."""

from __future__ import annotations

import os
import pwd
import shutil
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from drelo.guard import in_reach, may_change_account

# As Debian's package of the server names it.
NAME = "mysql"


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
    return Account(known.pw_uid, known.pw_gid)
