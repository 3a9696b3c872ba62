"""Edits of trace, care and provenance over the API; previews store nothing."""

import io
import re
import zipfile

import cv2
import numpy as np
import pytest
from PIL import Image


def packed(rgb: np.ndarray) -> bytes:
    return cv2.imencode(".png", rgb[..., ::-1])[1].tobytes()


def bands() -> bytes:
    rgb = np.full((100, 160, 3), 255, np.uint8)
    for k, colour in enumerate([(200, 40, 40), (40, 160, 60), (40, 60, 200)]):
        rgb[20:80, 20 + 40 * k : 60 + 40 * k] = colour
    return packed(rgb)


@pytest.fixture
def piece(client) -> dict:
    form = {"picture": (io.BytesIO(bands()), "bands.png")}
    return client.post("/api/pieces/from-picture", data=form).json


def edited(client, bench: dict, **edit) -> dict:
    piece = bench["piece"]
    answer = client.post(f"/api/pieces/{piece['id']}/edits", json={"revision": piece["revision"], "edit": edit})
    assert answer.status_code == 200, answer.text
    return answer.json


def refused(client, bench: dict, **edit) -> dict:
    piece = bench["piece"]
    answer = client.post(f"/api/pieces/{piece['id']}/edits", json={"revision": piece["revision"], "edit": edit})
    assert answer.status_code == 422
    assert answer.content_type == "application/problem+json"
    return answer.json


def test_a_picture_is_traced_as_what_it_is(piece):
    assert piece["piece"]["document"]["pictures"][0]["trace"]["mode"] == "colours"


def test_the_three_ways_are_seen_without_being_chosen(client, piece):
    here, picture = piece["piece"], piece["piece"]["document"]["pictures"][0]["id"]
    path = f"/api/pieces/{here['id']}/ways/{here['revision']}/{picture}"
    ink, colours = (client.get(f"{path}/{mode}").json for mode in ("ink", "colours"))
    assert len(colours["regions"]) == len(piece["flat"]["regions"]) > len(ink["regions"])
    assert client.get(f"{path}/pastel").status_code == 422
    assert client.get(f"/api/pieces/{here['id']}").json["flat"] == piece["flat"]


def test_ink_shows_tones_and_level(client, piece):
    piece = edited(client, piece, do="set-trace", mode="ink")
    (trace,) = piece["flat"]["traces"]
    assert trace["area"] is None
    assert len(trace["tones"]) == 64
    assert max(trace["tones"]) == 1
    assert 0 < trace["level"] < 1
    assert trace["swatches"] == []
    assert trace["stroke_width"] is None


def test_colours_give_swatches_and_regions_of_their_colour(client, piece):
    flat = edited(client, piece, do="set-trace", mode="colours")["flat"]
    (trace,) = flat["traces"]
    assert [s["colour"] for s in trace["swatches"] if s["background"]] == ["#ffffff"]
    assert sorted(r["colour"] for r in flat["regions"]) == ["#283cc8", "#28a03c", "#c82828"]
    assert trace["level"] is None


def test_regions_take_the_nearest_filament_until_one_is_decided(client, piece):
    bench = edited(client, piece, do="set-filament", id="red", name="Red", colour="#c82828")
    bench = edited(client, bench, do="set-trace", mode="colours")
    red = next(r for r in bench["flat"]["regions"] if r["colour"] == "#c82828")
    assert (red["filament"], red["decided_filament"]) == ("red", False)
    picked = [{"id": red["id"], "mark": red["mark"]}]
    bench = edited(client, bench, do="set-regions", picked=picked, filament="night")
    red = next(r for r in bench["flat"]["regions"] if r["colour"] == "#c82828")
    assert (red["filament"], red["decided_filament"]) == ("night", True)


def test_groups_and_background_are_kept_until_found_again(client, piece):
    bench = edited(client, piece, do="set-trace", mode="colours")
    palette = [["#ffffff"], ["#c82828", "#28a03c"], ["#283cc8"]]
    bench = edited(client, bench, do="set-trace", palette=palette)
    assert len(bench["flat"]["regions"]) == 2
    bench = edited(client, bench, do="set-trace", background="#283cc8")
    assert "#283cc8" not in {r["colour"] for r in bench["flat"]["regions"]}
    bench = edited(client, bench, do="set-trace", palette=None, background=None)
    assert len(bench["flat"]["regions"]) == 3


@pytest.mark.parametrize(
    "change",
    [
        {"colours": 1},
        {"palette": [["#ffffff"]]},
        {"palette": [["white"], ["#000000"]]},
        {"background": "blue"},
        {"mode": "pixels"},
        {"keen": 1.5},
        {"width": -1},
        {"level": 2},
    ],
)
def test_settings_out_of_range_are_refused_with_their_field(client, piece, change):
    problem = refused(client, piece, do="set-trace", **change)
    (name,) = change
    assert name in str(problem)
    again = client.get(f"/api/pieces/{piece['piece']['id']}").json["piece"]
    assert again["revision"] == piece["piece"]["revision"]


def test_a_preview_stores_nothing(client, piece):
    here = piece["piece"]
    body = {"revision": here["revision"], "edit": {"do": "set-trace", "mode": "colours"}}
    flat = client.post(f"/api/pieces/{here['id']}/preview", json=body).json
    assert len(flat["regions"]) == 3
    assert client.get(f"/api/pieces/{here['id']}").json["piece"]["revision"] == here["revision"]


def test_a_level_that_leaves_nothing_is_refused(client):
    rgb = np.full((80, 80, 3), 200, np.uint8)
    cv2.circle(rgb, (40, 40), 20, (60, 60, 60), -1, cv2.LINE_AA)
    form = {"picture": (io.BytesIO(packed(rgb)), "dot.png")}
    bench = client.post("/api/pieces/from-picture", data=form).json
    problem = refused(client, bench, do="set-trace", level=0.95)
    assert problem["field"] == "level"
    assert "Nothing in the picture counts as ink" in problem["detail"]


def test_what_is_dropped_is_drawn(client):
    rgb = np.full((120, 120, 3), 255, np.uint8)
    cv2.circle(rgb, (60, 60), 40, (0, 0, 0), -1, cv2.LINE_AA)
    rgb[5:10, 5:10] = 0
    form = {"picture": (io.BytesIO(packed(rgb)), "dot.png")}
    bench = client.post("/api/pieces/from-picture", data=form).json
    flat = edited(client, bench, do="set-trace", speck=50)["flat"]
    (trace,) = flat["traces"]
    assert (trace["dropped"], trace["filled"]) == (1, 0)
    assert trace["lost_path"].startswith("M")
    assert trace["lost_path"].count("M") == 1


# Picture care


def test_care_changes_the_look_and_undo_brings_the_old_one_back(client, piece):
    piece = edited(client, piece, do="set-trace", mode="ink")
    first = piece["flat"]["underlays"][0]["look"]
    step = {"do": "crop", "box": [10, 10, 60, 80]}
    cropped = edited(client, piece, do="set-care", care=[step])
    look = cropped["flat"]["underlays"][0]["look"]
    assert look != first
    assert len(cropped["flat"]["regions"]) == 1
    here = cropped["piece"]
    image = client.get(f"/api/pieces/{here['id']}/underlay/{look}")
    assert Image.open(io.BytesIO(image.data)).size == (60, 80)
    back = client.post(f"/api/pieces/{here['id']}/undo", json={"revision": here["revision"]}).json
    assert back["flat"]["underlays"][0]["look"] == first


def test_a_look_that_is_gone_is_said(client, piece):
    answer = client.get(f"/api/pieces/{piece['piece']['id']}/underlay/{'0' * 64}")
    assert answer.status_code == 404
    assert "has changed since" in answer.json["detail"]


def test_decided_heights_go_with_the_crop(client, piece):
    bench = edited(client, piece, do="set-trace", mode="colours")
    blue = next(r for r in bench["flat"]["regions"] if r["colour"] == "#283cc8")
    picked = [{"id": blue["id"], "mark": blue["mark"]}]
    bench = edited(client, bench, do="set-regions", picked=picked, height=3.7, name="Blue")
    bench = edited(client, bench, do="set-care", care=[{"do": "crop", "box": [70, 5, 85, 90]}])
    named = next(r for r in bench["flat"]["regions"] if r["name"] == "Blue")
    assert named["height"] == 3.7
    assert named["colour"] == "#283cc8"


@pytest.mark.parametrize(
    "step",
    [
        {"do": "crop", "box": [900, 900, 10, 10]},
        {"do": "level", "start": [5, 5], "end": [5, 5]},
        {"do": "flatten", "corners": [[0, 0], [10, 10], [0, 10], [10, 0]]},
        {"do": "rub", "points": [], "radius": 4},
        {"do": "polish"},
    ],
)
def test_steps_that_cannot_be_are_refused(client, piece, step):
    refused(client, piece, do="set-care", care=[step])


def test_a_new_picture_begins_without_care(client, piece):
    bench = edited(client, piece, do="set-care", care=[{"do": "even"}])
    here = bench["piece"]
    form = {"picture": (io.BytesIO(bands()), "again.png"), "revision": str(here["revision"])}
    after = client.post(f"/api/pieces/{here['id']}/picture", data=form).json
    assert after["piece"]["document"]["pictures"][1]["care"] == []


@pytest.mark.parametrize("permission", ["mine", "free", "asked", "unknown"])
def test_permissions_are_kept(client, piece, permission):
    bench = edited(client, piece, do="set-source", permission=permission)
    assert bench["piece"]["document"]["pictures"][0]["permission"] == permission


def test_solids_of_every_mode_come_as_binary_gltf(client, piece):
    bench = piece
    for mode in ("ink", "colours", "strokes"):
        bench = edited(client, bench, do="set-trace", mode=mode)
        here = bench["piece"]
        answer = client.get(f"/api/pieces/{here['id']}/solid/{here['revision']}")
        assert answer.content_type == "model/gltf-binary"
        assert answer.data[:4] == b"glTF"


# Areas, attempts, the pen, the look over


def test_an_attempt_is_seen_without_being_chosen(client, piece):
    picture = piece["piece"]["document"]["pictures"][0]["id"]
    bench = edited(client, piece, do="set-trace", mode="ink")
    bench = edited(client, bench, do="keep-attempt", id="t1")
    bench = edited(client, bench, do="set-trace", mode="colours")
    path = f"/api/pieces/{bench['piece']['id']}/attempts/{bench['piece']['revision']}"
    seen = client.get(f"{path}/{picture}/t1").json
    assert len(seen["regions"]) < len(bench["flat"]["regions"])
    assert client.get(f"{path}/{picture}/t2").status_code == 422
    assert client.get(f"/api/pieces/{bench['piece']['id']}").json["flat"] == bench["flat"]


def test_a_coarse_preview_has_the_same_regions(client, piece):
    body = {"revision": piece["piece"]["revision"], "edit": {"do": "set-trace", "level": 0.4}, "coarse": True}
    flat = client.post(f"/api/pieces/{piece['piece']['id']}/preview", json=body).json
    assert len(flat["regions"]) == len(piece["flat"]["regions"])
    assert flat["regions"][0]["area"] == pytest.approx(piece["flat"]["regions"][0]["area"], rel=0.02)


def test_a_line_clings_from_point_to_point(client, piece):
    (underlay,) = piece["flat"]["underlays"]
    scale, (x0, y0) = underlay["mm_per_px"], underlay["at"]
    start, end = ([x0 + x * scale, y0 + y * scale] for x, y in ((30, 22), (110, 17)))
    body = {"revision": piece["piece"]["revision"], "picture": underlay["id"], "start": start, "end": end}
    clung = client.post(f"/api/pieces/{piece['piece']['id']}/cling", json=body).json
    edge = y0 + 20 * scale
    assert clung["to"][1] == pytest.approx(edge, abs=scale)
    assert all(abs(y - edge) < 1.2 * scale for _, y in clung["points"][3:-3])
    outside = client.post(f"/api/pieces/{piece['piece']['id']}/cling", json={**body, "end": [900, -40]})
    assert outside.status_code == 200


def test_the_look_over_tells_necks_and_gaps(client):
    rgb = np.full((120, 200, 3), 255, np.uint8)
    rgb[20:100, 20:90] = rgb[20:100, 100:180] = 0
    form = {"picture": (io.BytesIO(packed(rgb)), "two.png")}
    bench = client.post("/api/pieces/from-picture", data=form).json
    found = client.get(f"/api/pieces/{bench['piece']['id']}/look-over/{bench['piece']['revision']}").json
    assert found["gap"]["width"] == pytest.approx(10 * bench["flat"]["underlays"][0]["mm_per_px"], rel=0.02)
    assert found["spots"] == []


def test_areas_come_with_their_own_traces(client, piece):
    corners = [[10, 10], [70, 10], [70, 90], [10, 90]]
    bench = edited(client, piece, do="add-area", id="a1", corners=corners)
    assert [t["area"] for t in bench["flat"]["traces"]] == ["a1"]
    assert {r["traced_in"] for r in bench["flat"]["regions"]} == {"a1"}
    problem = refused(client, bench, do="add-area", id="a2", corners=corners[:2])
    assert problem["field"].endswith("corners")


# The cabinet


def test_a_motif_of_the_cabinet_becomes_the_picture_and_tells_where_it_is_from(client):
    listed = client.get("/api/cabinet").json
    assert listed["total"] > 5000
    assert client.get(f"/api/cabinet?start={listed['total'] - 1}").json["motifs"]
    for kind in ("silhouette", "line drawing"):
        found = client.get("/api/cabinet", query_string={"words": "bird", "kind": kind}).json
        assert found["total"]
        assert {m["kind"] for m in found["motifs"]} == {kind}
    assert len(client.get("/api/cabinet/hen?small=true").data) < len(client.get("/api/cabinet/hen").data)
    assert client.get("/api/cabinet/no-such-thing").status_code == 404
    new = client.post("/api/pieces", json={"name": "From the cabinet"}).json
    path = f"/api/pieces/{new['id']}/cabinet"
    bench = client.post(path, json={"motif": "hen", "revision": new["revision"]}).json
    source = bench["piece"]["document"]["pictures"][0]
    assert (source["permission"], source["origin"]) == ("free", "Drelo's own cabinet")
    assert bench["flat"]["regions"]
    assert client.post(path, json={"motif": "hen", "revision": new["revision"]}).status_code == 409
    assert client.post(path, json={"motif": "nothing", "revision": 2}).status_code == 422


@pytest.mark.parametrize("how", ["picture", "outlines"])
def test_a_drawing_of_a_collection_brings_its_credit_into_the_files(client, how):
    found = client.get("/api/cabinet", query_string={"words": "dragon head"}).json["motifs"][0]
    assert found["drawn"]
    piece = client.post("/api/pieces", json={}).json
    body = {"motif": found["id"], "revision": piece["revision"], "how": how}
    bench = client.post(f"/api/pieces/{piece['id']}/cabinet", json=body).json
    assert bench["piece"]["name"] == "Dragon head"
    width, height = bench["flat"]["width"], bench["flat"]["height"]
    assert max(width, height) == pytest.approx(60, abs=1.5)
    revision = bench["piece"]["revision"]
    asked = {"revision": revision, "kind": "3mf", "within": 0.05}
    taken = client.post(f"/api/pieces/{piece['id']}/take-away", json=asked).json
    with zipfile.ZipFile(io.BytesIO(client.get(taken["url"]).data)) as archive:
        assert found["source"] in archive.read("3D/3dmodel.model").decode()
    if how == "outlines":
        for kind in ("svg", "dxf"):
            file = client.post(f"/api/pieces/{piece['id']}/outlines", json={"revision": revision, "kind": kind}).json
            assert found["source"] in client.get(file["url"]).data.decode()
        # Changed, it is still theirs.
        name = bench["piece"]["document"]["drawn"][0]["id"]
        smaller = edited(client, bench, do="offset", seed="o", picked=[name], by=-0.2, keep=False)
        assert smaller["piece"]["document"]["drawn"][0]["origin"] == found["source"]


def test_a_motif_that_is_a_picture_is_not_taken_as_outlines(client):
    piece = client.post("/api/pieces", json={}).json
    body = {"motif": "hen", "revision": piece["revision"], "how": "outlines"}
    assert client.post(f"/api/pieces/{piece['id']}/cabinet", json=body).status_code == 422


def test_every_motif_of_the_cabinet_traces(client):
    from drelo.core.picture.decode import decode
    from drelo.core.trace.ink import InkSettings, trace_ink
    from drelo.store import cabinet

    for motif in cabinet.motifs():
        trace = trace_ink(decode(cabinet.picture(motif)), InkSettings())
        assert trace.outlines, motif.name
        assert trace.nodes < 700, motif.name


def test_a_step_of_care_is_switched_off_and_on_and_forgotten(client, piece):
    bench = edited(client, piece, do="set-care", care=[{"do": "crop", "box": [0, 0, 80, 100]}])
    looks = [piece["flat"]["underlays"][0]["look"], bench["flat"]["underlays"][0]["look"]]
    bench = edited(client, bench, do="switch-care", at=0, state="off")
    assert bench["flat"]["underlays"][0]["look"] == looks[0]
    bench = edited(client, bench, do="switch-care", at=0, state="on")
    assert bench["flat"]["underlays"][0]["look"] == looks[1]
    assert bench["flat"]["underlays"][0]["pixels"] == [80, 100]
    bench = edited(client, bench, do="switch-care", at=0, state="gone")
    assert bench["piece"]["document"]["pictures"][0]["care"] == []
    assert refused(client, bench, do="switch-care", at=0, state="off")["field"] == "at"


def test_a_region_that_is_left_out_is_not_taken_away(client, piece):
    bench = edited(client, piece, do="set-trace", mode="colours")
    first = bench["flat"]["regions"][0]
    picked = [{"id": first["id"], "mark": first["mark"]}]
    whole = client.post(
        f"/api/pieces/{bench['piece']['id']}/take-away", json={"revision": bench["piece"]["revision"], "kind": "stl"}
    ).json
    bench = edited(client, bench, do="set-regions", picked=picked, left_out=True)
    less = client.post(
        f"/api/pieces/{bench['piece']['id']}/take-away", json={"revision": bench["piece"]["revision"], "kind": "stl"}
    ).json
    assert less["sealed"]
    assert less["volume_mm3"] != pytest.approx(whole["volume_mm3"], rel=0.01)


def test_middle_lines_leave_as_svg_with_widths_and_as_dxf_lines(client, piece):
    here = edited(client, piece, do="set-trace", mode="strokes")["piece"]
    path = f"/api/pieces/{here['id']}/outlines"

    def file(kind: str) -> bytes:
        answer = client.post(path, json={"revision": here["revision"], "kind": kind, "middles": True, "width": 50})
        assert answer.status_code == 200
        return client.get(answer.json["url"]).data

    svg = file("svg").decode()
    assert 'width="50mm"' in svg
    assert re.findall(r'fill="none" stroke="#000000" stroke-width="[0-9.]+"', svg)
    assert svg.count("<path") == svg.count("stroke-width=")
    assert b"LWPOLYLINE" in file("dxf")
    refused = client.post(path, json={"revision": here["revision"], "kind": "png", "middles": True})
    assert refused.status_code == 422
    plain = client.post(
        f"/api/pieces/{piece['piece']['id']}/outlines",
        json={"revision": piece["piece"]["revision"], "kind": "svg", "middles": True},
    )
    assert plain.status_code == 422
