"""Sends edits of every kind that are nearly right to a running demo: python -m benchmarks.fuzz.edits [--count N]

Edits are made from the description of the API (numbers at and past their limits, names of things that are there and
that are not, parts left out), some are spoilt as text; half are made, a quarter previewed flat, a quarter as a solid.
Each must be answered within 10 s by what became of it or by a refusal. Ends with status 1 otherwise.
"""

from __future__ import annotations

import argparse
import json
import random
import secrets
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections import Counter
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from benchmarks.fuzz.spoil import spoilt
from benchmarks.server import served
from drelo.web.listening import most_bytes
from drelo.web.schemas.bench import Change

SECONDS = 10
FINE = {200, 400, 404, 409, 413, 415, 422}
ODD: tuple[Any, ...] = (
    None, True, "", "x" * 3000, -1, 0, 1e-300, 1e300, -1e9, 2**63, 0.1, [], {}, [[]], "nan", "through", "none",
)  # fmt: skip


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=5000, metavar="N")
    parser.add_argument("--seed", type=int, default=None, metavar="N", help="else one that is new each time")
    args = parser.parse_args()
    seed = secrets.randbelow(2**32) if args.seed is None else args.seed
    schema = TypeAdapter(Change).json_schema()
    answers: Counter[int] = Counter()
    faults: Counter[str] = Counter()
    slowest = (0.0, "")
    with tempfile.TemporaryDirectory(prefix="fuzz-") as folder, served(Path(folder)) as application:
        pieces = ask(application.address, "/api/pieces")[1]["pieces"]
        for number in range(args.count):
            chance = random.Random(seed * 1_000_003 + number)
            piece = chance.choice(pieces)["id"]
            state = ask(application.address, f"/api/pieces/{piece}")[1]
            edit = Maker(schema, chance, _names(state)).edit()
            body = json.dumps({"revision": state["piece"]["revision"], "edit": edit}).encode()
            if chance.random() < 0.1:
                body = spoilt(seed + number, [body], True)
            way = chance.choice(("edits", "edits", "preview", "solid"))
            begin = time.monotonic()
            path = f"/api/pieces/{piece}/{way}"
            status, said = ask(application.address, path, body)
            took = time.monotonic() - begin
            if status == 0 and len(body) > most_bytes(path):
                # It is turned away while it is still being sent.
                status = 413
            slowest = max(slowest, (took, f"{way} {body[:200]!r}"))
            answers[status] += 1
            if status not in FINE or took > SECONDS:
                what = f"{way} {edit.get('do')} (edit {number}, {len(body)} bytes) {body[:300]!r}"
                faults[f"{status} {'' if status else said} in {took:.1f} s: {what}"] += 1
            # Pieces grow by what is made; they go back to what they were.
            if status == 200 and way == "edits" and chance.random() < 0.7:
                state = ask(application.address, f"/api/pieces/{piece}")[1]
                undo = json.dumps({"revision": state["piece"]["revision"]}).encode()
                status, _ = ask(application.address, f"/api/pieces/{piece}/undo", undo)
                if status != 200:
                    faults[f"{status}: undo of {body[:300]!r}"] += 1
    print(
        f"{args.count} edits from seed {seed}: {dict(answers)}, slowest {slowest[0]:.1f} s ({slowest[1]}), "
        f"{sum(faults.values())} faults"
    )
    for fault, times in faults.most_common(20):
        print(f"  {times} × {fault}")
    return 1 if faults else 0


def ask(address: str, path: str, body: bytes | None = None) -> tuple[int, Any]:
    request = urllib.request.Request(address + path, body, {"Content-Type": "application/json"})
    try:
        with urllib.request.urlopen(request, timeout=60) as answer:
            data = answer.read()
            return answer.status, json.loads(data) if data[:1] == b"{" else None
    except urllib.error.HTTPError as error:
        return error.code, json.load(error)
    except OSError as error:
        return 0, repr(error)


def _names(state: dict[str, Any]) -> list[str]:
    """Names of regions, things and pictures of a piece."""
    document, flat = state["piece"]["document"], state["flat"]
    rows = [*flat["regions"][:40], *document["drawn"][:40], *document["pictures"], *document["filaments"]]
    return [row["id"] for row in rows] or ["none"]


class Maker:
    """Makes values that fit a JSON schema, and now and then one that does not."""

    def __init__(self, schema: dict[str, Any], chance: random.Random, names: list[str]) -> None:
        self._schema, self._chance, self._names = schema, chance, names

    def edit(self) -> dict[str, Any]:
        found: dict[str, Any] = self._value(self._chance.choice(self._schema["oneOf"]), 0)
        return found

    def _value(self, schema: dict[str, Any], depth: int) -> Any:
        if depth and self._chance.random() < 0.006:
            return self._chance.choice(ODD)
        if "$ref" in schema:
            return self._value(self._schema["$defs"][schema["$ref"].rsplit("/", 1)[1]], depth)
        for several in ("anyOf", "oneOf"):
            if several in schema:
                return self._value(self._chance.choice(schema[several]), depth)
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return self._chance.choice(schema["enum"])
        match schema.get("type"):
            case "object":
                return self._object(schema, depth)
            case "array":
                return self._array(schema, depth)
            case "string":
                return self._text(schema)
            case "number" | "integer":
                return self._number(schema)
            case "boolean":
                return self._chance.random() < 0.5
        return None

    def _object(self, schema: dict[str, Any], depth: int) -> dict[str, Any]:
        wanted = schema.get("required", [])
        return {
            name: self._value(inner, depth + 1)
            for name, inner in schema.get("properties", {}).items()
            if (name in wanted and self._chance.random() < 0.99) or self._chance.random() < 0.2 or "const" in inner
        }

    def _array(self, schema: dict[str, Any], depth: int) -> list[Any]:
        if "prefixItems" in schema:
            return [self._value(inner, depth + 1) for inner in schema["prefixItems"]]
        low, high = schema.get("minItems", 0), min(schema.get("maxItems", 6), 12)
        return [
            self._value(schema.get("items", {}), depth + 1) for _ in range(self._chance.randint(low, max(low, high)))
        ]

    def _text(self, schema: dict[str, Any]) -> str:
        if schema.get("pattern", "").startswith("^#"):
            return f"#{self._chance.randrange(1 << 24):06x}"
        longest = schema.get("maxLength", 40)
        found: str = self._chance.choice(
            [*self._names, "a1", "new", "font:script", "Plot Ünïcode\n梨", "M0 0L10 0L5 8Z", "x" * longest]
        )
        return found[:longest]

    def _number(self, schema: dict[str, Any]) -> float:
        low = schema.get("minimum", schema.get("exclusiveMinimum", -200))
        high = schema.get("maximum", schema.get("exclusiveMaximum", 200))
        found = self._chance.choice(
            (low, high, 0, 1, self._chance.uniform(low, high), self._chance.uniform(low, min(high, low + 20)))
        )
        return int(found) if schema.get("type") == "integer" else found


if __name__ == "__main__":
    sys.exit(main())
