"""Blueprint: what takes how much room, and emptying it."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC, datetime

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.store.models import now
from drelo.web.bench import bench
from drelo.web.replies import reply
from drelo.web.schemas.base import Problem
from drelo.web.schemas.storage import DeletedOut, Empty, StorageOut

blueprint = APIBlueprint(
    "storage", __name__, url_prefix="/api", abp_tags=[Tag(name="storage")], abp_responses={422: Problem}
)


@blueprint.get("/storage", operation_id="storage", responses={200: StorageOut})
def storage() -> Response:
    """Bytes by kind, and the deleted pieces that can still be brought back."""
    return _all()


@blueprint.post("/storage/empty", operation_id="emptyStorage", responses={200: StorageOut})
def empty(body: Empty) -> Response:
    """Empty the trash for good, or throw away what can be made again."""
    if body.what == "trash":
        bench().keeping.empty_trash(now())
    else:
        bench().keeping.empty_derived()
    return _all()


def _all() -> Response:
    keeping = bench().keeping
    deleted = [DeletedOut(id=d.id, name=d.name, deleted=_utc(d.deleted), until=_utc(d.until)) for d in keeping.trash()]
    return reply(StorageOut(**asdict(keeping.usage()), free=bench().space.free(), deleted=deleted))


def _utc(moment: datetime) -> str:
    return moment.replace(tzinfo=UTC).isoformat()
