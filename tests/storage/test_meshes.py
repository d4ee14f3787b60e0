# SPDX-License-Identifier: MIT
"""Bodies from and to open files, and files that are none."""

import contextlib
import io
import struct

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from fondale.core.prints.body import Body, BodyError, measure
from fondale.storage.meshes import ENDINGS, MeshTrouble, in_mm, mend, parse_mesh, read_mesh, write_mesh, write_stl
from tests.conftest import tries

BALL = trimesh.creation.icosphere(subdivisions=3, radius=12)


def body(mesh=BALL):
    return Body(np.asarray(mesh.vertices, float), np.asarray(mesh.faces, np.int64))


@pytest.mark.parametrize("ending", ENDINGS)
def test_every_format_comes_back_as_it_went(tmp_path, ending):
    path = tmp_path / f"ball{ending}"
    path.write_bytes(write_mesh(body(), ending))
    loaded = read_mesh(path)
    facts = measure(in_mm(loaded.body, loaded.unit or "mm"))
    assert facts.watertight
    assert facts.triangles == len(BALL.faces)
    assert facts.volume == pytest.approx(BALL.volume, rel=1e-4)
    assert loaded.unit == {".glb": "m", ".3mf": "mm"}.get(ending, "")


def test_another_library_reads_our_stl():
    mesh = trimesh.load(io.BytesIO(write_stl(body())), file_type="stl")
    assert mesh.is_watertight
    assert mesh.volume == pytest.approx(BALL.volume, rel=1e-5)


def test_our_reader_of_stl_agrees_with_another(tmp_path):
    for k, mesh in enumerate((BALL, trimesh.creation.annulus(3, 5, 7), trimesh.creation.box((1, 2, 3)))):
        path = tmp_path / f"{k}.stl"
        path.write_bytes(mesh.export(file_type="stl"))
        ours, theirs = read_mesh(path).body, trimesh.load(path)
        assert len(ours.vertices) == len(theirs.vertices)
        assert measure(ours).volume == pytest.approx(theirs.volume, rel=1e-6)


def test_text_stl_and_many_bodies_in_one_file(tmp_path):
    (tmp_path / "text.stl").write_text(BALL.export(file_type="stl_ascii"))
    assert measure(read_mesh(tmp_path / "text.stl").body).watertight
    scene = trimesh.Scene([BALL, BALL.copy().apply_translation([40, 0, 0])])
    (tmp_path / "two.glb").write_bytes(scene.export(file_type="glb"))
    loaded = read_mesh(tmp_path / "two.glb")
    assert measure(loaded.body).bodies == 2
    assert len(loaded.names) == 2


def test_a_3mf_that_states_inches_is_read_in_inches(tmp_path):
    import zipfile

    data = write_mesh(body(), ".3mf")
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            text = old.read(name)
            new.writestr(name, text.replace(b'unit="millimeter"', b'unit="inch"') if name.endswith(".model") else text)
    (tmp_path / "in.3mf").write_bytes(out.getvalue())
    loaded = read_mesh(tmp_path / "in.3mf")
    size = measure(in_mm(loaded.body, loaded.unit)).size[0]
    assert size == pytest.approx(24 * 25.4 if loaded.unit == "in" else 24, rel=1e-3)
    assert loaded.unit == "in"


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("a.stl", b"", "empty"),
        ("a.stl", b"solid nothing\nendsolid nothing\n", "triangles"),
        ("a.stl", b"\0" * 80 + struct.pack("<I", 0), "triangles"),
        ("a.stl", b"\0" * 80 + struct.pack("<I", 9) + b"x" * 20, "damaged|triangles"),
        ("a.obj", b"v 1 2 3\n", "triangles|damaged"),
        ("a.obj", b"\xff\xfe\x00nonsense", "triangles|damaged"),
        ("a.ply", b"ply\nformat ascii 1.0\nend_header\n", "damaged|triangles"),
        ("a.3mf", b"PK\x03\x04 no zip", "damaged"),
        ("a.glb", b"glTF\2\0\0\0", "damaged"),
        ("a.step", b"ISO-10303-21;", "no mesh"),
    ],
)
def test_files_that_are_none_are_told_in_words(tmp_path, name, data, says):
    (tmp_path / name).write_bytes(data)
    with pytest.raises(MeshTrouble, match=says) as trouble:
        read_mesh(tmp_path / name)
    assert name in str(trouble.value)


def test_points_that_are_not_numbers_and_files_that_are_not_there(tmp_path):
    bad = body()
    bad.vertices[3, 1] = np.nan
    (tmp_path / "nan.stl").write_bytes(write_stl(bad))
    with pytest.raises(MeshTrouble, match="not numbers"):
        read_mesh(tmp_path / "nan.stl")
    with pytest.raises(MeshTrouble, match="cannot be read"):
        read_mesh(tmp_path / "no.stl")
    with pytest.raises(KeyError):
        write_mesh(body(), ".step")


@tries(150)
@given(st.binary(max_size=400), st.sampled_from(ENDINGS))
def test_no_bytes_break_the_reader(data, ending):
    sizes: tuple[float, ...] = (1.0,)
    with contextlib.suppress(MeshTrouble, BodyError):
        sizes = mend(parse_mesh(data, ending).body).facts.size
    assert min(sizes) > 0


@tries(60)
@given(hnp.arrays(np.float32, (12, 3, 3), elements=st.floats(-1e3, 1e3, width=32)))
def test_any_triangles_are_measured_or_refused(corners):
    soup = Body(corners.reshape(-1, 3).astype(float), np.arange(36).reshape(12, 3))
    try:
        mended = mend(parse_mesh(write_stl(soup), ".stl").body)
    except (MeshTrouble, BodyError):
        return
    assert mended.facts.watertight or mended.repairs


def test_safe_repairs_and_what_is_left():
    box = body(trimesh.creation.box((10, 20, 30)))
    assert mend(box).repairs == ()
    inside_out = mend(Body(box.vertices, np.ascontiguousarray(box.faces[:, ::-1])))
    assert inside_out.facts.volume == pytest.approx(6000)
    assert "inside out" in inside_out.repairs[0]
    hole = mend(Body(box.vertices, box.faces[1:]))
    assert hole.facts.volume == pytest.approx(6000)
    assert any("closed" in r for r in hole.repairs)
    one = box.faces.copy()
    one[2] = one[2][::-1]
    assert mend(Body(box.vertices, one)).facts.volume == pytest.approx(6000)
    double = mend(Body(box.vertices, np.concatenate([box.faces, box.faces[:2]])))
    assert double.facts.volume == pytest.approx(6000)
    sheet = trimesh.creation.icosphere(subdivisions=2, radius=5).slice_plane([0, 0, 0], [0, 0, 1])
    left = mend(body(sheet))
    assert not left.facts.watertight
    assert "left" in left.repairs[-1]
