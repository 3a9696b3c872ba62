"""A network of the tests' own: a bridge, and hosts behind it in network namespaces, each of which can be cut off."""

from __future__ import annotations

import os
import shutil
import subprocess
from ipaddress import IPv4Network

NET = IPv4Network("10.213.77.0/24")


def possible() -> bool:
    """Whether namespaces can be made here: Linux, as root, with Debian's iproute2."""
    if os.geteuid() != 0 or shutil.which("ip") is None:
        return False
    probe = f"drelo-probe-{os.getpid()}"
    if subprocess.run(["ip", "netns", "add", probe], capture_output=True, check=False).returncode:
        return False
    _ip("netns", "del", probe)
    return True


class Network:
    """A bridge of this computer, at `address`. Hosts are added by name, and reach it and each other."""

    def __init__(self) -> None:
        self._name = f"dr{os.getpid()}"
        self._hosts: dict[str, int] = {}
        self.address = str(NET[1])
        _ip("link", "add", self._name, "type", "bridge")
        _ip("addr", "add", f"{self.address}/{NET.prefixlen}", "dev", self._name)
        _ip("link", "set", self._name, "up")

    def host(self, name: str) -> tuple[str, ...]:
        """A host of that name, and the words that run a command on it."""
        number = len(self._hosts) + 2
        space, near, far = self._space(name), self._near(number), f"{self._name}f{number}"
        _ip("netns", "add", space)
        self._hosts[name] = number
        _ip("link", "add", near, "type", "veth", "peer", "name", far)
        _ip("link", "set", near, "master", self._name, "up")
        _ip("link", "set", far, "netns", space)
        _ip("-n", space, "addr", "add", f"{NET[number]}/{NET.prefixlen}", "dev", far)
        _ip("-n", space, "link", "set", far, "up")
        _ip("-n", space, "link", "set", "lo", "up")
        return ("ip", "netns", "exec", space)

    def cut(self, name: str) -> None:
        """As when its cable is pulled: nothing is refused, nothing arrives."""
        _ip("link", "set", self._near(self._hosts[name]), "down")

    def mend(self, name: str) -> None:
        _ip("link", "set", self._near(self._hosts[name]), "up")

    def close(self) -> None:
        for name, number in self._hosts.items():
            _ip("link", "del", self._near(number))
            _ip("netns", "del", self._space(name))
        _ip("link", "del", self._name)

    def _space(self, name: str) -> str:
        return f"{self._name}-{name}"

    def _near(self, number: int) -> str:
        return f"{self._name}n{number}"


def _ip(*words: str) -> None:
    subprocess.run(["ip", *words], check=True, capture_output=True, timeout=10)
