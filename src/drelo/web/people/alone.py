"""Blueprint: what one maker alone is told of people."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.web.replies import reply
from drelo.web.schemas.people import Me

blueprint = APIBlueprint("alone", __name__, url_prefix="/api", abp_tags=[Tag(name="people")])


@blueprint.get("/me", operation_id="me", responses={200: Me})
def nobody() -> Response:
    """There are no people here."""
    return reply(Me(shared=False, person=None, token=""))
