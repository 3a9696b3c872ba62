"""Compiled loops run where they cannot be kept."""

from __future__ import annotations

import errno
import importlib.util
import os
import subprocess
import sys
from pathlib import Path

import pytest
from numba.core.caching import FunctionCache

LOOP = """
from drelo.core.compiled import compiled

@compiled
def total(count):
    found = 0
    for k in range(count):
        found += k
    return found
"""


@pytest.fixture
def module(tmp_path: Path):
    path = tmp_path / "loop.py"
    path.write_text(LOOP)
    spec = importlib.util.spec_from_file_location("loop", path)
    assert spec
    assert spec.loader
    found = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(found)
    return found


def test_a_loop_is_kept_on_disk(module, tmp_path):
    assert module.total(5) == 10
    assert list((tmp_path / "__pycache__").glob("loop.total*.nbi"))


def test_a_full_disk_does_not_keep_a_loop_from_running(module, monkeypatch):
    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(FunctionCache, "save_overload", full)
    assert module.total(5) == 10


def test_where_there_is_no_place_to_keep_it_a_loop_runs(tmp_path):
    """Nothing can be made in the folder of the system's processes, whoever one is."""
    (tmp_path / "loop.py").write_text(LOOP)
    words = "import sys; sys.path.insert(0, '.'); import loop; print(loop.total(5))"
    place = {**os.environ, "NUMBA_CACHE_DIR": "/proc/none"}
    ran = subprocess.run([sys.executable, "-c", words], cwd=tmp_path, env=place, capture_output=True, text=True)
    assert (ran.stdout.strip(), ran.returncode) == ("10", 0), ran.stderr
