"""The way to a printer: plain HTTP and JSON, as `drelo.device` describes it."""

from __future__ import annotations

import json
import urllib.error
import urllib.request
from collections.abc import Callable
from typing import Literal

from pydantic import BaseModel, ValidationError

from drelo.core.errors import Refusal
from drelo.device.job import Job, Speed, Status

TIMEOUT = 5.0
Act = Literal["pause", "resume", "stop", "confirm", "refill", "fault"]


class DeviceAway(Refusal):
    """The printer does not answer."""


class Device:
    """address: where the printer answers now, empty where there is none."""

    def __init__(self, address: Callable[[], str] = str) -> None:
        self._address = address

    def status(self) -> Status:
        """Raises DeviceAway."""
        return self._ask("GET", "/status")

    def begin(self, job: Job) -> Status:
        """Raises Refusal when it is busy, DeviceAway when it does not answer."""
        return self._ask("POST", "/jobs", job)

    def act(self, job: str, act: Act, body: dict[str, object] | None = None) -> Status:
        """Raises Refusal when it cannot be done now, DeviceAway when it does not answer."""
        return self._ask("POST", f"/jobs/{job}/{act}", body or {})

    def set_speed(self, times: Speed) -> Status:
        """Raises DeviceAway."""
        return self._ask("PUT", "/speed", {"times": times})

    def _ask(self, method: str, path: str, body: BaseModel | dict[str, object] | None = None) -> Status:
        address = self._address()
        if not address:
            raise DeviceAway("printer.none")
        told = body.model_dump(mode="json") if isinstance(body, BaseModel) else body
        request = urllib.request.Request(
            address + path,
            None if told is None else json.dumps(told).encode(),
            {"Content-Type": "application/json"},
            method=method,
        )
        try:
            with urllib.request.urlopen(request, timeout=TIMEOUT) as answer:
                return Status.model_validate_json(answer.read())
        except urllib.error.HTTPError as error:
            raise _refused(error) from None
        except (OSError, ValidationError):
            raise DeviceAway("printer.away") from None


def _refused(error: urllib.error.HTTPError) -> Refusal:
    """In the printer's own words, where it has some."""
    try:
        return Refusal("printer.says", detail=str(json.loads(error.read())["detail"]))
    except (ValueError, KeyError, OSError):
        return Refusal("printer.refused", status=error.code)
