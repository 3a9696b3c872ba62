import io
import re
import zipfile

import lib3mf
import numpy as np
import pytest
import shapely

from drelo.core.errors import Refusal
from drelo.core.form.base import Base
from drelo.core.form.relief import Part, relief
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.seal import check_seal
from drelo.formats.stl import read_stl, write_stl
from drelo.formats.threemf import Body, read_3mf, write_3mf


@pytest.fixture(scope="module")
def bodies() -> list[Body]:
    parts = [
        Part(shapely.Point(0, 0).buffer(7.3, quad_segs=20), 1.2, "#c8553d", "petals & <stalk>"),
        Part(shapely.box(10, 0, 20, 7), 0, "#1d3557", "bed"),
    ]
    design = relief(parts, Base(), 0.008)
    arrangement = arrange_design(design)
    return [Body(f.name, f.colour, raise_body(design, arrangement, i)) for i, f in enumerate(design.filaments)]


def as_set(mesh) -> set[bytes]:
    """Triangles as bytes, each from its smallest corner on, so that their order does not matter."""
    result = set()
    for triangle in mesh.vertices[mesh.faces]:
        corners = [c.tobytes() for c in triangle]
        first = corners.index(min(corners))
        result.add(b"".join(corners[first:] + corners[:first]))
    return result


def test_stl_comes_back_to_the_bit(bodies):
    data = write_stl(bodies[0].mesh)
    assert len(data) == 84 + 50 * len(bodies[0].mesh.faces)
    assert as_set(read_stl(data)) == as_set(bodies[0].mesh)


def test_stl_normals_point_outward(bodies):
    data = write_stl(bodies[0].mesh)
    first = np.frombuffer(data, "<f4", 12, 84)
    normal, corners = first[:3], first[3:].reshape(3, 3)
    assert np.cross(corners[1] - corners[0], corners[2] - corners[0]) @ normal > 0
    assert np.linalg.norm(normal) == pytest.approx(1, rel=1e-6)


def test_ascii_stl_is_read():
    text = "solid t\n"
    for corners in (((0, 0, 0), (0, 1, 0), (1, 0, 0)), ((0, 0, 0), (1, 0, 0), (0, 0, 1)),
                    ((0, 0, 0), (0, 0, 1), (0, 1, 0)), ((1, 0, 0), (0, 1, 0), (0, 0, 1))):  # fmt: skip
        rows = "".join(f"vertex {x} {y} {z}\n" for x, y, z in corners)
        text += f"facet normal 0 0 0\nouter loop\n{rows}endloop\nendfacet\n"
    seal = check_seal(read_stl((text + "endsolid t\n").encode()))
    assert seal.sealed
    assert seal.volume == pytest.approx(1 / 6)


@pytest.mark.parametrize("cut", [0, 40, 84, 500, -7])
def test_stl_cut_off_is_refused(bodies, cut):
    data = write_stl(bodies[0].mesh)
    with pytest.raises(Refusal):
        read_stl(data[:cut] if cut else b"")


def test_3mf_comes_back_with_names_colours_and_every_bit(bodies):
    read = read_3mf(write_3mf(bodies, {"Title": "Beds & borders"}))
    assert [(b.name, b.colour) for b in read] == [(b.name, b.colour) for b in bodies]
    for one, other in zip(read, bodies, strict=True):
        assert as_set(one.mesh) == as_set(other.mesh)
        assert check_seal(one.mesh).sealed


def test_3mf_opens_in_one_piece_in_millimetres(bodies):
    data = write_3mf(bodies, {"Title": "Beds"})
    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(data)
    assert reader.GetWarningCount() == 0
    assert model.GetBuildItems().Count() == 1
    assert model.GetUnit().name == "MilliMeter"
    assert model.GetMetaDataGroup().GetMetaDataByKey("", "Title").GetValue() == "Beds"
    meshes = model.GetMeshObjects()
    while meshes.MoveNext():
        assert meshes.GetCurrentMeshObject().IsManifoldAndOriented()


def test_3mf_of_the_same_piece_has_the_same_bytes(bodies):
    assert write_3mf(bodies) == write_3mf(bodies)


def test_3mf_in_inches_and_placed_is_read_in_mm(bodies):
    def rewritten(old: bytes, new: bytes) -> bytes:
        source, packed = zipfile.ZipFile(io.BytesIO(write_3mf(bodies))), io.BytesIO()
        with zipfile.ZipFile(packed, "w") as archive:
            for entry in source.infolist():
                archive.writestr(entry.filename, re.sub(old, new, source.read(entry)))
        return packed.getvalue()

    inches = read_3mf(rewritten(b'unit="millimeter"', b'unit="inch"'))
    assert inches[0].mesh.volume == pytest.approx(bodies[0].mesh.volume * 25.4**3, rel=1e-4)
    placed = read_3mf(rewritten(rb'(<item objectid="\d+")/>', rb'\1 transform="1 0 0 0 1 0 0 0 1 5 6 7"/>'))
    assert placed[0].mesh.vertices.min(axis=0) == pytest.approx(
        bodies[0].mesh.vertices.min(axis=0) + np.array([5, 6, 7])
    )


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04 nothing", b"solid", bytes(900)])
def test_what_is_no_3mf_is_refused(data):
    with pytest.raises(Refusal):
        read_3mf(data)
