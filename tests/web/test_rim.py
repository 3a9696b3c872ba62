"""The rim of the application: headers, hosts, shapes of refusals, names of files, what may be cached."""

import io

import pytest

from drelo.formats.names import file_name


@pytest.fixture
def piece(client, ring_png) -> dict:
    return client.post("/api/pieces/from-picture", data={"picture": (io.BytesIO(ring_png), "ring.png")}).json["piece"]


@pytest.mark.parametrize("address", ["/", "/api/pieces", "/api/openapi.json", "/api/nothing"])
def test_every_answer_carries_the_security_headers(client, address):
    headers = client.get(address).headers
    policy = dict(
        part.strip().split(" ", 1) for part in headers["Content-Security-Policy"].split(";") if " " in part.strip()
    )
    assert policy["default-src"].startswith("'self'") or policy["default-src"] == "'none'"
    assert "http" not in headers["Content-Security-Policy"]
    assert "unsafe-eval" not in headers["Content-Security-Policy"]
    assert headers["X-Content-Type-Options"] == "nosniff"
    assert headers["Referrer-Policy"] == "no-referrer"
    assert headers["Cross-Origin-Opener-Policy"] == "same-origin"


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "192.168.1.7"])
def test_other_hosts_are_turned_away(client, host):
    answer = client.get("/api/pieces", headers={"Host": host})
    assert answer.status_code == 400


@pytest.mark.parametrize("host", ["127.0.0.1:8137", "localhost:9000"])
def test_this_machine_is_let_in_on_any_port(client, host):
    assert client.get("/api/pieces", headers={"Host": host}).status_code == 200


def test_changes_from_other_pages_are_turned_away(client, piece):
    answer = client.delete(f"/api/pieces/{piece['id']}", headers={"Origin": "http://evil.example"})
    assert answer.status_code == 403
    assert client.get(f"/api/pieces/{piece['id']}").status_code == 200


@pytest.mark.parametrize(
    ("method", "address", "status"),
    [
        ("get", "/api/pieces/none", 404),
        ("post", "/api/pieces/none/edits", 422),
        ("post", "/api/pieces/from-picture", 422),
        ("put", "/api/pieces", 405),
        ("get", "/api/files/" + "0" * 64, 404),
    ],
)
def test_all_refusals_have_one_shape(client, method, address, status):
    answer = getattr(client, method)(address)
    assert answer.status_code == status
    assert answer.content_type == "application/problem+json"
    assert {"type", "title", "status", "detail"} <= set(answer.json)
    assert answer.json["status"] == status
    assert "Traceback" not in answer.text


@pytest.mark.parametrize(
    "body",
    [
        {},
        {"revision": 1},
        {"revision": "one", "edit": {"do": "set-units", "units": "mm"}},
        {"revision": 1, "edit": {"do": "set-units", "units": "furlong"}},
        {"revision": 1, "edit": {"do": "set-units", "units": "mm", "more": 1}},
        {"revision": 1, "edit": {"do": "nothing"}},
    ],
)
def test_requests_that_do_not_fit_their_description_change_nothing(client, piece, body):
    answer = client.post(f"/api/pieces/{piece['id']}/edits", json=body)
    assert answer.status_code == 422
    assert answer.json["detail"]
    assert client.get(f"/api/pieces/{piece['id']}").json["piece"]["revision"] == piece["revision"]


def test_a_body_that_is_no_json_is_refused(client, piece):
    answer = client.post(f"/api/pieces/{piece['id']}/edits", data="{", content_type="application/json")
    assert answer.status_code in (400, 422)
    assert answer.content_type == "application/problem+json"


@pytest.mark.parametrize(
    ("title", "name"),
    [
        ("Pear coaster", "pear-coaster"),
        ("Schnecke für den Markt", "schnecke-fur-den-markt"),
        ("../../etc/passwd", "etc-passwd"),
        ("CON", "con-piece"),
        ("lpt1", "lpt1-piece"),
        ("梨", "piece"),
        ("", "piece"),
        ("a" * 300, "a" * 60),
    ],
)
def test_file_names_are_safe_on_every_system(title, name):
    assert file_name(title) == name


def test_what_never_changes_may_be_kept_and_what_changes_may_not(client, piece):
    source = piece["document"]["pictures"][0]["asset"]
    assert "immutable" in client.get(f"/api/assets/{source}").headers["Cache-Control"]
    solid = client.get(f"/api/pieces/{piece['id']}/solid/{piece['revision']}")
    assert "max-age" in solid.headers["Cache-Control"]
    assert client.get("/api/pieces").headers["Cache-Control"] == "no-store"


def test_solids_of_revisions_that_never_were_are_not_found(client, piece):
    answer = client.get(f"/api/pieces/{piece['id']}/solid/{piece['revision'] + 40}")
    assert answer.status_code == 404


def test_the_description_names_every_address_once(client):
    paths = client.get("/api/openapi.json").json["paths"]
    names = [operation["operationId"] for path in paths.values() for operation in path.values()]
    assert len(names) == len(set(names))
    assert "/api/pieces/{piece_id}/edits" in paths


@pytest.mark.parametrize(
    ("site", "status"), [("cross-site", 403), ("same-site", 403), ("same-origin", 200), ("none", 200)]
)
def test_changes_are_taken_from_where_a_browser_says_its_own_page_is(client, site, status):
    assert client.post("/api/pieces", json={}, headers={"Sec-Fetch-Site": site}).status_code == status
    # Looking is not changing: a link may lead here from anywhere.
    assert client.get("/api/pieces", headers={"Sec-Fetch-Site": site}).status_code == 200


def test_every_answer_has_a_number_of_its_own_and_errors_say_it(client, bench, monkeypatch, caplog):
    one, other = (client.get("/api/pieces").headers["X-Request-Id"] for _ in range(2))
    assert one != other

    def broken() -> None:
        raise ZeroDivisionError("by a fault of ours")

    monkeypatch.setattr(type(bench.pieces), "all", lambda _: broken())
    answer = client.get("/api/pieces")
    number = answer.headers["X-Request-Id"]
    assert answer.status_code == 500
    assert number in answer.json["detail"]
    assert "ZeroDivision" not in answer.json["detail"]
    assert any(number in record.message for record in caplog.records)
