"""What workers do, called as a worker would be; and the pool with real processes."""

import io
import json
import struct
import time
import zipfile

import numpy as np
import pytest
from PIL import Image

from drelo.core.errors import Refusal, Superseded
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT
from drelo.core.piece.memo import Memo
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.solid.seal import check_seal
from drelo.formats.stl import read_stl
from drelo.formats.threemf import read_3mf
from drelo.formats.thumbnail import thumbnail
from drelo.work import tasks
from drelo.work.pool import Pool
from drelo.work.tasks import AssetMissing


def go() -> None:
    """A checkpoint that lets everything pass."""


@pytest.fixture
def taken(ring_png):
    return tasks.take_in(go, Document(), {}, ring_png, "ring.png", tasks.Wanted())


def test_taking_in_gives_document_edit_and_flat_view_at_once(taken):
    assert taken.media_type == "image/png"
    (picture,) = taken.document.pictures
    assert picture == taken.edit.source
    assert (picture.width, picture.height) == (420, 300)
    assert len(taken.flat.regions) == 2
    assert taken.flat.underlays[0].look == picture.look
    # The first art is as wide as is usual, its box in the sheet's corner.
    assert (taken.flat.left, taken.flat.top, taken.flat.width) == pytest.approx((0, 0, 60), abs=1e-9)


def test_bytes_that_the_worker_does_not_hold_are_asked_for():
    source = PlacedPicture(id="s", asset="f" * 64, name="x.png", width=10, height=10)
    document = apply(Document(), EDIT.validate_python({"do": "put-picture", "source": source.model_dump()}))
    with pytest.raises(AssetMissing) as missing:
        tasks.flat(go, document, {})
    assert missing.value.sha256 == "f" * 64


def test_work_that_nobody_waits_for_ends_at_a_checkpoint(taken):
    def stop() -> None:
        raise Superseded

    document = apply(taken.document, EDIT.validate_python({"do": "set-trace", "level": 0.31}))
    with pytest.raises(Superseded):
        tasks.flat(stop, document, {})


@pytest.mark.parametrize("within", [0.05, 0.008, 0.002])
def test_finer_files_have_more_triangles(taken, within):
    file = tasks.take_away(go, taken.document, {}, "stl", within, "Ring")
    assert all(body.sealed for body in file.bodies)
    mesh = read_stl(file.data)
    assert check_seal(mesh).sealed
    assert file.triangles == len(mesh.faces)
    coarse = tasks.take_away(go, taken.document, {}, "stl", 0.05, "Ring")
    assert file.triangles >= coarse.triangles
    assert file.volume == pytest.approx(coarse.volume, rel=5e-3)


def test_a_3mf_holds_a_body_a_filament_and_the_title(taken):
    file = tasks.take_away(go, taken.document, {}, "3mf", 0.008, "Ring & square")
    bodies = read_3mf(file.data)
    assert [b.name for b in bodies] == ["base", "Region 1, Region 2"]
    assert file.volume == pytest.approx(sum(check_seal(b.mesh).volume for b in bodies), rel=1e-6)
    with zipfile.ZipFile(io.BytesIO(file.data)) as archive:
        assert "Ring &amp; square" in archive.read("3D/3dmodel.model").decode()


def test_heights_that_leave_nothing_are_refused_before_a_file_is_written(taken):
    document = apply(taken.document, EDIT.validate_python({"do": "set-base", "shape": "none"}))
    document = apply(document, EDIT.validate_python({"do": "set-defaults", "height": -1.0}))
    with pytest.raises(Refusal):
        tasks.take_away(go, document, {}, "stl", 0.008, "Ring")


def test_the_solid_is_binary_gltf_with_a_layer_a_region(taken):
    data = tasks.solid(go, taken.document, {})
    magic, version, length = struct.unpack_from("<4sII", data)
    assert (magic, version, length) == (b"glTF", 2, len(data))
    size, kind = struct.unpack_from("<I4s", data, 12)
    assert kind == b"JSON"
    gltf = json.loads(data[20 : 20 + size])
    assert gltf["asset"]["version"] == "2.0"
    primitives = [p for mesh in gltf["meshes"] for p in mesh["primitives"]]
    assert primitives
    for primitive in primitives:
        accessor = gltf["accessors"][primitive["attributes"]["POSITION"]]
        assert accessor["count"] % 3 == 0 or "indices" in primitive
        assert len(accessor["min"]) == len(accessor["max"]) == 3


def test_the_look_of_a_picture_follows_its_care(taken):
    crop = EDIT.validate_python({"do": "set-care", "care": [{"do": "crop", "box": [0, 0, 200, 120]}]})
    data, media_type = tasks.look(go, apply(taken.document, crop), {}, taken.document.pictures[0].id)
    assert Image.open(io.BytesIO(data)).size == (200, 120)
    assert media_type == "image/jpeg"


def test_a_thumbnail_shows_base_and_regions_in_their_filaments(taken):
    document, flat = taken.document, taken.flat
    drawing = thumbnail(document, flat).decode()
    assert drawing.count("<path") == 3
    assert document.filament("night").colour in drawing
    assert document.filament("cream").colour in drawing


def test_a_thumbnail_without_base_shows_regions_only(taken):
    document = apply(taken.document, EDIT.validate_python({"do": "set-base", "shape": "none"}))
    assert thumbnail(document, tasks.flat(go, document, {})).decode().count("<path") == 2


# Memory


def test_the_memory_keeps_what_was_used_last():
    memo, calls = Memo(), []

    def compute(value: int) -> int:
        calls.append(value)
        return value * 2

    assert [memo.get(("k", 1), lambda: compute(1)) for _ in range(3)] == [2, 2, 2]
    assert calls == [1]
    assert memo.get(("k", 2), lambda: compute(2)) == 4
    assert calls == [1, 2]


def test_what_failed_is_not_remembered():
    memo = Memo()
    with pytest.raises(ValueError, match="no"):
        memo.get("key", lambda: (_ for _ in ()).throw(ValueError("no")))
    assert memo.get("key", lambda: 5) == 5


# The pool


def waiting(checkpoint, seconds: float, answer: str) -> str:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        checkpoint()
        time.sleep(0.01)
    return answer


def refusing(checkpoint) -> None:
    raise Refusal("colour.not-one", "field", colour="reddish")


@pytest.fixture(scope="module")
def pool():
    pool = Pool(2)
    yield pool
    pool.close()


def test_results_and_refusals_come_back_from_other_processes(pool):
    assert pool.run("a", waiting, 0.01, "done") == "done"
    with pytest.raises(Refusal) as refusal:
        pool.run("a", refusing)
    assert refusal.value == Refusal("colour.not-one", "field", colour="reddish")


def test_arrays_travel_both_ways(pool):
    values = np.arange(1000.0)
    assert np.array_equal(pool.run("b", doubled, values), values * 2)


def doubled(checkpoint, values: np.ndarray) -> np.ndarray:
    return values * 2
