"""The API's description: what comes in as it is checked, what goes out as it is sent.

A value that does both ways is described twice: in a request its defaults may be left out, in an answer they are there.
"""

from __future__ import annotations

import copy
from collections.abc import Iterator
from typing import Any, Literal

from flask_openapi3 import OpenAPI
from pydantic import BaseModel
from pydantic.json_schema import models_json_schema

from drelo.web.schemas import (
    base,
    beds,
    bench,
    filaments,
    files,
    people,
    pieces,
    printing,
    rehearsal,
    shape,
    storage,
    versions,
)

REFERENCE = "#/components/schemas/"
Way = Literal["validation", "serialization"]


def described(app: OpenAPI) -> dict[str, Any]:
    """The OpenAPI description, with the schemas of requests and of answers told apart."""
    doc: dict[str, Any] = copy.deepcopy(app.api_doc)
    models = _models()
    found = [(node, name, way) for node, name, way in _references(doc["paths"]) if name in models]
    wanted: list[tuple[type[BaseModel], Way]] = list(dict.fromkeys((models[name], way) for _, name, way in found))
    by_model, schemas = models_json_schema(wanted, ref_template=REFERENCE + "{model}")
    for node, name, way in found:
        node["$ref"] = by_model[(models[name], way)]["$ref"]
    own = set(schemas["$defs"])
    used = {name for _, name, _ in _references(doc["paths"])} - own
    rest = {name: value for name, value in doc["components"]["schemas"].items() if name in used}
    doc["components"]["schemas"] = {**rest, **schemas["$defs"]}
    return doc


def _models() -> dict[str, type[BaseModel]]:
    return {
        name: value
        for module in (
            base,
            pieces,
            bench,
            shape,
            files,
            filaments,
            storage,
            rehearsal,
            beds,
            printing,
            versions,
            people,
        )
        for name, value in vars(module).items()
        if isinstance(value, type) and issubclass(value, BaseModel)
    }


def _references(paths: dict[str, Any]) -> Iterator[tuple[dict[str, Any], str, Way]]:
    """Every reference to a schema: the node that holds it, the schema's name, and which way its values go."""
    for operations in paths.values():
        for operation in operations.values():
            for part, way in (("requestBody", "validation"), ("responses", "serialization")):
                for node in _nodes(operation.get(part, {})):
                    target = node.get("$ref", "")
                    if isinstance(target, str) and target.startswith(REFERENCE):
                        yield node, target.removeprefix(REFERENCE), way  # type: ignore[misc]


def _nodes(value: Any) -> Iterator[dict[str, Any]]:
    if isinstance(value, dict):
        yield value
        value = list(value.values())
    if isinstance(value, list):
        for inner in value:
            yield from _nodes(inner)
