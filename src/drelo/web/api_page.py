"""Blueprint: the API as a page to read and to try, made of its description. Nothing of it comes from elsewhere."""

from __future__ import annotations

from pathlib import Path

import flask_openapi3_swagger
from flask import Blueprint, Response, abort, send_file

from drelo.web.replies import FOREVER

blueprint = Blueprint("api-page", __name__)

_SHIPPED = Path(flask_openapi3_swagger.__file__).parent / "templates" / "swagger"
_FILES = {"swagger-ui.css": "css/swagger-ui.css", "swagger-ui-bundle.js": "js/swagger-ui-bundle.js"}

_PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<title>API · Drelo</title>
<meta name="viewport" content="width=device-width">
<link rel="stylesheet" href="/api/docs/swagger-ui.css">
</head>
<body>
<div id="api"></div>
<script src="/api/docs/swagger-ui-bundle.js"></script>
<script src="/api/docs/page.js"></script>
</body>
</html>
"""
_SCRIPT = """SwaggerUIBundle({
  url: "/api/openapi.json",
  dom_id: "#api",
  docExpansion: "list",
  defaultModelsExpandDepth: -1,
});
"""


@blueprint.get("/api/docs")
def page() -> Response:
    return Response(_PAGE, mimetype="text/html")


@blueprint.get("/api/docs/page.js")
def script() -> Response:
    return Response(_SCRIPT, mimetype="text/javascript")


@blueprint.get("/api/docs/<name>")
def shipped(name: str) -> Response:
    if name not in _FILES:
        abort(404, "There is no such address.")
    response = send_file(_SHIPPED / _FILES[name])
    response.headers["Cache-Control"] = FOREVER
    return response
