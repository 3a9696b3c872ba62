"""The API as a page: all of it comes from here."""

import re


def test_the_page_brings_all_that_it_needs(client):
    page = client.get("/api/docs")
    assert page.status_code == 200
    needed = re.findall(r'(?:src|href)="([^"]+)"', page.text)
    assert len(needed) == 3
    for address in needed:
        assert address.startswith("/"), address
        answer = client.get(address)
        assert answer.status_code == 200
        assert answer.headers["Content-Security-Policy"].startswith("default-src 'none'; script-src 'self';")
    assert "/api/openapi.json" in client.get("/api/docs/page.js").text


def test_nothing_else_of_the_package_is_served(client):
    for name in ("swagger-ui-standalone-preset.js", "..%2f__init__.py", "nothing"):
        assert client.get(f"/api/docs/{name}").status_code == 404
