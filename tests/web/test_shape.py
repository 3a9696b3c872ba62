"""Shape over the wire: operations as edits, leaks, growth that joins, drawings, fonts, motifs."""

from __future__ import annotations

import io

import pytest
from PIL import Image

from drelo.core.outline.primitives import rectangle, ring
from drelo.formats.drawing_in import read_drawing
from drelo.formats.dxf import Layer, write_dxf
from drelo.formats.dxf_in import read_dxf
from drelo.formats.fonts import shipped_font

RECT = {"kind": "shape", "id": "rect", "form": "rectangle", "at": [0, 0], "width": 40, "height": 20}
WORDS = {"kind": "lettering", "id": "w", "text": "x", "at": [0, 0], "height": 5}
DISC = {"kind": "shape", "id": "disc", "form": "circle", "at": [40, 0], "width": 20, "height": 20}


@pytest.fixture
def piece(client) -> dict:
    made = client.post("/api/pieces", json={"name": "Drawn"}).json
    return client.get(f"/api/pieces/{made['piece']['id'] if 'piece' in made else made['id']}").json


def edited(client, bench: dict, **edit) -> dict:
    piece = bench["piece"]
    answer = client.post(f"/api/pieces/{piece['id']}/edits", json={"revision": piece["revision"], "edit": edit})
    assert answer.status_code == 200, answer.text
    return answer.json


def put(client, bench: dict, *things: dict) -> dict:
    return edited(client, bench, do="put-drawn", things=list(things))


def asked(client, bench: dict, what: str, **body):
    piece = bench["piece"]
    return client.post(f"/api/pieces/{piece['id']}/{what}", json={"revision": piece["revision"], **body})


def sent(client, bench: dict, what: str, name: str, data: bytes, field: str = "drawing", **more):
    form = {field: (io.BytesIO(data), name), **more}
    return client.post(f"/api/pieces/{bench['piece']['id']}/{what}", data=form)


def test_an_operation_is_one_step_that_undo_takes_back(client, piece):
    drawn = put(client, piece, RECT, DISC)
    assert len(drawn["flat"]["regions"]) == 2
    tied = edited(client, drawn, do="tie", seed="t", picked=["rect", "disc"], width=3)
    assert [t["id"] for t in tied["piece"]["document"]["drawn"]] == ["t"]
    assert len(tied["flat"]["regions"]) == 1
    back = asked(client, tied, "undo").json
    assert [t["id"] for t in back["piece"]["document"]["drawn"]] == ["rect", "disc"]
    again = asked(client, back, "redo").json
    assert again["flat"] == tied["flat"]


def test_an_operation_on_an_old_revision_is_brought_together_with_what_was_made_meanwhile(client, piece):
    first = put(client, piece, RECT)
    put(client, first, DISC)
    answer = asked(client, first, "edits", edit={"do": "remove", "picked": ["rect"]})
    assert answer.status_code == 200
    assert [t["id"] for t in answer.json["piece"]["document"]["drawn"]] == ["disc"]


def test_an_operation_on_what_was_changed_meanwhile_changes_nothing(client, piece):
    first = put(client, piece, RECT)
    put(client, first, {**RECT, "width": RECT["width"] + 5})
    answer = asked(client, first, "edits", edit={"do": "remove", "picked": ["rect"]})
    assert answer.status_code == 409
    assert len(answer.json["bench"]["piece"]["document"]["drawn"]) == 1
    assert answer.json["collision"][0]["path"] == "drawn.width"


def test_an_operation_is_previewed_and_not_stored(client, piece):
    drawn = put(client, piece, RECT)
    edit = {"do": "offset", "seed": "b", "picked": ["rect"], "by": 3}
    shown = asked(client, drawn, "preview", edit=edit).json
    assert len(shown["regions"]) == 2
    assert shown["width"] == pytest.approx(46, abs=0.01)
    stands = client.get(f"/api/pieces/{drawn['piece']['id']}").json
    assert stands["piece"]["revision"] == drawn["piece"]["revision"]


@pytest.mark.parametrize(
    ("edit", "field"),
    [
        ({"do": "combine", "seed": "u", "how": "melt", "picked": ["rect"]}, "how"),
        ({"do": "offset", "seed": "u", "picked": ["rect"], "by": 1e9}, "by"),
        ({"do": "combine", "seed": "u", "how": "carve", "picked": ["rect"]}, "picked"),
        ({"do": "remove", "picked": ["nobody"]}, "picked"),
        ({"do": "put-drawn", "things": [{"kind": "path", "id": "x", "path": "M0 0 H9"}]}, "path"),
        ({"do": "put-drawn", "things": [{**RECT, "width": -1}]}, "width"),
        (
            {
                "do": "put-drawn",
                "things": [
                    {"kind": "lettering", "id": "w", "text": "x", "at": [0, 0], "height": 5, "font": "font:none"}
                ],
            },
            "font",
        ),
    ],
    ids=lambda v: str(v)[:34],
)
def test_what_cannot_be_is_refused_with_its_field(client, piece, edit, field):
    drawn = put(client, piece, RECT)
    answer = asked(client, drawn, "edits", edit=edit)
    assert answer.status_code == 422
    assert field in answer.json["field"] or field in answer.json["detail"]
    assert client.get(f"/api/pieces/{drawn['piece']['id']}").json["piece"]["revision"] == drawn["piece"]["revision"]


def test_leaks_and_the_growth_that_joins(client, piece):
    fence = {
        "kind": "line",
        "id": "l",
        "start": [0, 0],
        "stretches": [{"kind": "straight", "to": p} for p in ([30, 0], [30, 20], [0, 20], [0, 0.5])],
    }
    drawn = put(client, piece, fence, {**RECT, "at": [100, 0]}, {**DISC, "at": [140, 0]})
    leak = asked(client, drawn, "leak", at=[10, 10]).json
    assert leak["found"]
    assert leak["width"] == pytest.approx(0.5, rel=1e-3)
    assert not asked(client, drawn, "leak", at=[300, 10]).json["found"]
    joining = asked(client, drawn, "joining", picked=["rect", "disc"]).json
    assert joining == {"growth": pytest.approx(5, abs=0.01), "parts": 2}


def plate() -> bytes:
    return write_dxf([Layer("plate", "#c8553d", [rectangle(40, 30, 3), *ring(12, 6)])])


def test_a_drawing_is_looked_at_and_placed(client, piece):
    seen = sent(client, piece, "drawing/look", "plate.dxf", plate()).json
    assert (seen["width"], seen["height"]) == pytest.approx((40, 30), abs=0.01)
    assert (seen["outlines"], seen["open"]) == (2, 0)
    inches = sent(client, piece, "drawing/look", "plate.dxf", plate(), unit="inch").json
    assert inches["width"] == pytest.approx(1016, abs=0.3)
    placed = sent(
        client, piece, "drawing", "plate.dxf", plate(), revision=piece["piece"]["revision"], width="80", seed="in"
    ).json
    assert placed["flat"]["width"] == pytest.approx(80, abs=0.01)
    assert len(placed["flat"]["regions"]) == 2


@pytest.mark.parametrize("data", [b"", b"no drawing", b"<svg xmlns='http://www.w3.org/2000/svg'/>"])
def test_what_is_no_drawing_is_refused(client, piece, data):
    answer = sent(client, piece, "drawing/look", "x.svg", data)
    assert answer.status_code == 422
    assert answer.json["detail"]


@pytest.mark.parametrize("kind", ["svg", "dxf", "png"])
def test_outlines_go_out(client, piece, kind):
    drawn = put(client, piece, RECT, DISC)
    answer = asked(client, drawn, "outlines", kind=kind, dpi=254, picked=["rect"] if kind == "dxf" else [])
    assert answer.status_code == 200
    data = client.get(answer.json["url"]).data
    assert len(data) == answer.json["bytes"]
    if kind == "svg":
        drawing = read_drawing(data, "x.svg")
        assert (drawing.width, drawing.height) == pytest.approx((70, 20), abs=0.01)
    elif kind == "dxf":
        assert read_dxf(data).size == pytest.approx((40, 20), abs=0.01)
    else:
        assert Image.open(io.BytesIO(data)).size == (700, 200)


def test_nothing_to_take_is_said(client, piece):
    answer = asked(client, piece, "outlines", kind="svg")
    assert answer.status_code == 422
    assert "no outline" in answer.json["detail"]


def test_fonts_are_listed_and_own_ones_kept(client, piece):
    listed = client.get("/api/fonts").json["fonts"]
    assert {f["id"] for f in listed} >= {"font:script", "font:stencil"}
    assert all(f["sample"].startswith("M") for f in listed)
    own = sent(client, piece, "font", "mine.woff2", shipped_font("round"), "font").json
    words = {"kind": "lettering", "id": "w", "text": "Bo", "at": [0, 0], "height": 10, "font": own["id"]}
    assert len(put(client, piece, words)["flat"]["regions"]) == 2
    wrong = sent(client, piece, "font", "mine.ttf", b"no font at all", "font")
    assert wrong.status_code == 422
    assert "font" in wrong.json["detail"]


def test_motifs_are_kept_placed_and_forgotten(client, piece):
    drawn = put(client, piece, RECT)
    body = {"piece": drawn["piece"]["id"], "revision": drawn["piece"]["revision"], "picked": ["rect"], "name": "Plank"}
    kept = client.post("/api/motifs", json=body).json
    assert (kept["width"], kept["height"]) == pytest.approx((40, 20))
    svg = client.get(f"/api/motifs/{kept['id']}.svg")
    assert read_drawing(svg.data, "x.svg").width == pytest.approx(40, abs=1e-3)
    brought = client.post("/api/motifs/file", data={"drawing": (io.BytesIO(svg.data), "plank two.svg")}).json
    assert brought["name"] == "plank two"
    placed = asked(client, drawn, "motif", motif=kept["id"], seed="m").json
    assert len(placed["flat"]["regions"]) == 2
    names = {m["id"] for m in client.delete(f"/api/motifs/{kept['id']}").json["motifs"]}
    assert kept["id"] not in names
    assert asked(client, placed, "motif", motif=kept["id"], seed="n").status_code == 422
    client.delete(f"/api/motifs/{brought['id']}")


@pytest.mark.parametrize("form", ["stamp", "cutter", "nameplate"])
def test_a_form_is_chosen_and_taken_away_sealed(client, piece, form):
    drawn = put(client, piece, RECT, {**DISC, "at": [15, 0]})
    chosen = edited(client, drawn, do="set-form", form=form)
    assert chosen["piece"]["document"]["form"] == form
    assert bool(chosen["flat"]["product_path"]) == (form != "nameplate")
    file = asked(client, chosen, "take-away", kind="3mf", within=0.05).json
    assert file["sealed"]
    assert file["parts"] == 1


def test_an_edit_answers_with_what_changed_when_that_is_asked_for(client, piece):
    many = [{**DISC, "id": f"disc{i}", "at": [30 * i, 0]} for i in range(12)]
    drawn = put(client, piece, *many)
    move = {"do": "transform", "seed": "m", "picked": ["disc3"], "matrix": [1, 0, 0, 1, 2, 5], "copies": 0}
    answer = asked(client, drawn, "edits", edit=move, changes_only=True).json
    assert [row["id"] for row in answer["flat"]["rows"]["things"]["changed"]] == ["disc3"]
    assert [row["id"] for row in answer["document"]["rows"]["drawn"]["changed"]] == ["disc3"]
    assert answer["flat"]["rows"]["regions"]["order"] is None
    assert "document" not in answer["piece"]
    whole = client.get(f"/api/pieces/{piece['piece']['id']}").json
    rows = {row["id"]: row for row in drawn["flat"]["regions"]}
    rows |= {row["id"]: row for row in answer["flat"]["rows"]["regions"]["changed"]}
    assert list(rows.values()) == whole["flat"]["regions"]
    rest = {k: v for k, v in (drawn["flat"] | answer["flat"]["fields"]).items() if k not in ("regions", "things")}
    assert rest == {k: v for k, v in whole["flat"].items() if k not in ("regions", "things")}
    back = asked(client, {"piece": answer["piece"]}, "undo", changes_only=True).json
    assert [row["id"] for row in back["flat"]["rows"]["things"]["changed"]] == ["disc3"]


def test_a_preview_of_what_would_change(client, piece):
    drawn = put(client, piece, *({**DISC, "id": f"disc{i}", "at": [30 * i, 0]} for i in range(5)))
    edit = {
        "do": "set-regions",
        "picked": [{"id": "disc1-0", "mark": drawn["flat"]["regions"][1]["mark"]}],
        "height": 3,
    }
    part = asked(client, drawn, "preview", edit=edit, changes_only=True).json
    assert [row["height"] for row in part["rows"]["regions"]["changed"]] == [3]
    assert part["fields"].keys() <= {"total_height", "remarks"}


@pytest.mark.parametrize(("form", "query"), [("stamp", "spread=0.3"), ("cutter", "rise=0.1")])
def test_what_a_form_makes_is_shown_and_taken_as_a_picture(client, form, query):
    piece = client.post("/api/pieces", json={"name": "Trial"}).json
    thing = {"kind": "shape", "id": "a", "form": "rectangle", "at": [0, 0], "width": 40, "height": 30}
    for edit in ({"do": "put-drawn", "things": [thing]}, {"do": "set-form", "form": form}):
        body = {"revision": piece["revision"], "edit": edit}
        piece = client.post(f"/api/pieces/{piece['id']}/edits", json=body).json["piece"]
    address = f"/api/pieces/{piece['id']}/outcome/{piece['revision']}"
    found = client.get(f"{address}?{query}").json["outcome"]
    grown = 40.6 if form == "stamp" else 44
    assert found["box"][2] == pytest.approx(grown)
    taken = client.get(f"{address}/png?{query}&dpi=100")
    assert taken.content_type == "image/png"
    assert taken.data.startswith(b"\x89PNG")
    assert client.get(f"{address}?spread=-1").status_code == 422
    assert client.get(f"{address}/png?dpi=99999").status_code == 422
    plain = {"revision": piece["revision"], "edit": {"do": "set-form", "form": "relief"}}
    relief = client.post(f"/api/pieces/{piece['id']}/edits", json=plain).json["piece"]
    refused = client.get(f"/api/pieces/{piece['id']}/outcome/{relief['revision']}")
    assert (refused.status_code, refused.json["field"]) == (422, "form")
