"""A real small file system fills up to its last byte under a running application, and is emptied again.

Where the tests may mount none, `tests/web/test_room.py` shows the same on a stand-in for the free space.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import pytest

from drelo.store.space import LITTLE, RESERVE
from tests.cli.test_faults import asked, soon
from tests.cli.test_start import free_port, running, servers

MB = 2**20
# Plenty when nothing but the application is on it.
SIZE = LITTLE + RESERVE + 500 * MB


@pytest.fixture
def disk(tmp_path: Path) -> Iterator[Path]:
    folder = tmp_path / "small"
    folder.mkdir()
    if os.geteuid() != 0:
        pytest.skip("only root may mount a small file system")
    memory = dict(line.split(":") for line in Path("/proc/meminfo").read_text().splitlines())
    if int(memory["MemAvailable"].split()[0]) * 1024 < 2 * SIZE:
        pytest.skip("the file system lies in memory, of which there is too little")
    mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={SIZE}", "tmpfs", folder], check=False)
    if mounted.returncode:
        pytest.skip("no file system may be mounted here")
    yield folder
    subprocess.run(["umount", "-l", folder], check=True)


def fill(disk: Path, left: int) -> None:
    """Somebody else's file takes all but so many bytes."""
    path = disk / "somebody-elses"
    path.unlink(missing_ok=True)
    with path.open("wb") as file:
        size = 0
        while (more := shutil.disk_usage(disk).free - left) > 0:
            # Others take some meanwhile.
            with suppress(OSError):
                os.posix_fallocate(file.fileno(), size, more)
                size += more


def test_a_disk_that_is_full_to_the_last_byte_loses_nothing(disk: Path) -> None:
    port = free_port()

    def room() -> str:
        return str(asked(port, "/api/ready")[1].get("room"))

    def named(name: str) -> tuple[int, dict]:
        return asked(port, f"/api/pieces/{key}", json.dumps({"name": name}).encode(), "PATCH")

    with running(disk / "data", port, "--empty"):
        key = asked(port, "/api/pieces", b'{"name": "Sign"}', "POST")[1]["id"]
        spare = asked(port, "/api/pieces", b'{"name": "Spare"}', "POST")[1]["id"]
        soon(lambda: room() == "plenty" and (disk / "data/reserve").exists())
        server = servers(disk / "data")

        fill(disk, LITTLE - 50 * MB)
        assert room() == "little"
        assert named("Gate")[0] == 200

        fill(disk, 200 * MB)
        assert room() == "none"
        code, told = named("Never")
        assert code == 507
        assert "disk is full" in told["detail"]

        # Faster than anybody could look.
        fill(disk, 0)
        soon(lambda: not (disk / "data/reserve").exists())
        assert asked(port, f"/api/pieces/{key}")[1]["piece"]["name"] == "Gate"
        assert asked(port, f"/api/pieces/{spare}", method="DELETE")[0] < 300
        fill(disk, 0)
        assert asked(port, f"/api/pieces/{key}")[1]["piece"]["name"] == "Gate"
        assert named("Never")[0] == 507
        assert servers(disk / "data") == server

        (disk / "somebody-elses").unlink()
        soon(lambda: room() == "plenty")
        assert named("Garden gate")[0] == 200
        assert servers(disk / "data") == server
        soon(lambda: (disk / "data/reserve").exists())

        fill(disk, 0)
    # Started on a full disk it says so in words, or runs; what was acknowledged is there as soon as there is room.
    (disk / "somebody-elses").unlink()
    with running(disk / "data", port, "--empty"):
        assert [piece["name"] for piece in asked(port, "/api/pieces")[1]["pieces"]] == ["Garden gate"]
