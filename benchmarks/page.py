"""What a benchmark asks of the served application, and how it reads the page's clock."""

from __future__ import annotations

import json
import time
import urllib.request
from collections.abc import Callable
from typing import Any

import numpy as np
from playwright.sync_api import Page

FRAMES = 90


def call(address: str, path: str, body: dict[str, object]) -> tuple[dict[str, Any], int, float]:
    """The answer, its bytes, and seconds."""
    request = urllib.request.Request(
        address + path, json.dumps(body).encode(), {"Content-Type": "application/json", "Origin": address}
    )
    begin = time.perf_counter()
    with urllib.request.urlopen(request) as answer:
        data = answer.read()
    return json.loads(data), len(data), time.perf_counter() - begin


def got(address: str, path: str) -> tuple[dict[str, Any], int, float]:
    """The answer to a plain request, its bytes, and seconds."""
    begin = time.perf_counter()
    with urllib.request.urlopen(address + path) as answer:
        data = answer.read()
    return json.loads(data), len(data), time.perf_counter() - begin


def frames(page: Page, move: Callable[[int], object]) -> tuple[float, float]:
    """Frames a second while the hand moves, and the longest wait between two, ms."""
    page.evaluate(
        """() => { window.frames_at = []; window.counting = true;
        const step = (now) => { window.frames_at.push(now); window.counting && requestAnimationFrame(step); };
        requestAnimationFrame(step); }"""
    )
    for i in range(FRAMES):
        move(i)
    at = np.array(page.evaluate("() => { window.counting = false; return window.frames_at; }"))
    gaps = np.diff(at)
    return 1000 * len(gaps) / float(gaps.sum()), float(gaps.max())


def mark_drawn(page: Page) -> None:
    """From now on every mark of the page is followed by one of the same name and "-drawn" when it is on the screen."""
    page.evaluate(
        """() => { const mark = performance.mark.bind(performance);
        performance.mark = (name) => { mark(name);
        requestAnimationFrame(() => requestAnimationFrame(() => mark(`${name}-drawn`))); }; }"""
    )


def waited(page: Page, mark: str, act: Callable[[], object]) -> float:
    """Milliseconds from an act of the hand to the next `mark`, both on the page's clock."""
    page.evaluate("() => performance.clearMarks()")
    page.evaluate("() => { window.begin = performance.now(); }")
    act()
    page.wait_for_function(f"() => performance.getEntriesByName('{mark}').length > 0")
    return float(page.evaluate(f"() => performance.getEntriesByName('{mark}')[0].startTime - window.begin"))
