# SPDX-License-Identifier: MIT
"""The scene for other programs, and floor plans from them: read back with other readers than ours, or written by hand."""

import io
import json
import math
import struct
import subprocess
import sys
from functools import reduce
from xml.etree import ElementTree as Xml

import ezdxf
import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from fondale.core.colours import shown
from fondale.core.edits import EditError, apply, new_project
from fondale.core.edits.floor_plans import walls_from
from fondale.core.lengths import LengthError
from fondale.core.model import Lamp, Piece, Place
from fondale.core.model.shapes import Box, Mesh, Opening, Stairs, Wall
from fondale.core.prints.body import Body
from fondale.core.shapes import FURNITURE, KINDS, kind_of
from fondale.core.shapes.sewn import sewn
from fondale.core.stage.scene import placed_solid, rest_places
from fondale.core.stage.sections import Plane, parse_plane, section, sliced
from fondale.core.stage.weights import volume_of
from fondale.papers.drawings import drawing_dxf, drawing_svg
from fondale.storage.floor_plans import PlanTrouble, parse_plan, read_plan
from fondale.storage.meshes import read_mesh, write_mesh
from fondale.storage.scenes import write_scene
from tests.conftest import TODAY


def block(empty):
    piece = Piece(id="a", name="Block <1> & co", shape=Box(width=40, depth=20, height=10), place=Place(x=100, y=60, turn_deg=90))
    return empty.but(pieces=(piece,))


def test_a_glb_has_its_names_and_true_sizes(empty):
    """Read by trimesh: metres and y up, as the standard of the format has it."""
    read = trimesh.load(io.BytesIO(write_scene(block(empty), ".glb")[".glb"]), file_type="glb")
    assert set(read.graph.nodes_geometry) == {"Case", "Block <1> & co"}
    matrix, name = read.graph["Block <1> & co"]
    low, high = trimesh.transform_points(read.geometry[name].bounds, matrix)
    assert np.sort(np.abs(high - low)) == pytest.approx([0.010, 0.020, 0.040], abs=2e-4)
    assert abs((high - low)[1]) == pytest.approx(0.010, abs=1e-5)  # it is 10 mm high
    # What is stored is in millimetres: the root node shrinks it.
    assert np.ptp(read.geometry[name].vertices, axis=0).max() == pytest.approx(40, abs=0.2)


def test_an_obj_is_in_millimetres_with_its_names_and_its_materials(empty, tmp_path):
    """Read by trimesh, from the disk, with the file of its materials beside it."""
    painted = empty.but(pieces=(block(empty).pieces[0].but(paint=(0.8, 0.2, 0.1)),))
    files = write_scene(painted, ".obj", "quay")
    assert set(files) == {".obj", ".mtl"}
    for ending, data in files.items():
        (tmp_path / f"quay{ending}").write_bytes(data)
    text = files[".obj"].decode()
    assert "o Block <1> & co" in text
    assert "mtllib quay.mtl" in text
    points = np.array([[float(x) for x in row.split()[1:4]] for row in text.splitlines() if row.startswith("v ")])
    assert points.max(0) == pytest.approx([300, 200, 200], abs=0.1)
    read = trimesh.load(tmp_path / "quay.obj", split_object=True, group_material=False)
    meshes = list(read.geometry.values()) if isinstance(read, trimesh.Scene) else [read]
    assert len(meshes) == 2
    shades = [m.visual.material.diffuse[:3].tolist() for m in meshes]
    assert [round(255 * c) for c in shown((0.8, 0.2, 0.1))] in [[round(c) for c in s] for s in shades]
    with pytest.raises(KeyError):
        write_scene(block(empty), ".xyz")


def glb_of(project):
    """Own reading of a GLB: its tree and its numbers, every accessor inside its bounds and its buffer."""
    data = write_scene(project, ".glb")[".glb"]
    magic, version, total = struct.unpack("<4sII", data[:12])
    assert (magic, version, total) == (b"glTF", 2, len(data))
    length, kind = struct.unpack("<I4s", data[12:20])
    assert kind == b"JSON"
    assert length % 4 == 0
    tree = json.loads(data[20 : 20 + length])
    size, kind = struct.unpack("<I4s", data[20 + length : 28 + length])
    assert kind == b"BIN\0"
    assert 28 + length + size == len(data)
    binary = data[28 + length :]
    wide, one = {"SCALAR": 1, "VEC3": 3}, {5126: ("<f4", 4), 5125: ("<u4", 4), 5123: ("<u2", 2)}
    arrays = []
    for accessor in tree["accessors"]:
        view = tree["bufferViews"][accessor["bufferView"]]
        dtype, each = one[accessor["componentType"]]
        n = accessor["count"] * wide[accessor["type"]]
        at = view.get("byteOffset", 0) + accessor.get("byteOffset", 0)
        assert at % each == 0
        assert n * each <= view["byteLength"]
        found = np.frombuffer(binary, dtype, n, at).reshape(-1, wide[accessor["type"]])
        if "min" in accessor:
            assert found.min(0) == pytest.approx(accessor["min"])
            assert found.max(0) == pytest.approx(accessor["max"])
        arrays.append(found)
    return tree, arrays


def test_a_glb_has_linear_colours_and_its_lamps_where_they_hang(empty):
    lamps = (
        Lamp(id="moon", name="Moon", x=100, y=60, z=150, ax=0, ay=1, az=0, angle_deg=60, led="cool_white"), Lamp(id="post", name="Post", x=10, y=20, z=30, angle_deg=360),
    )  # fmt: skip
    project = empty.but(pieces=(block(empty).pieces[0].but(paint=(0.8, 0.2, 0.1)),), lamps=lamps, moments=())
    tree, _arrays = glb_of(project.but(moment=""))
    material = next(m for m in tree["materials"] if m["name"].startswith("Block"))
    assert material["pbrMetallicRoughness"]["baseColorFactor"] == pytest.approx([0.8, 0.2, 0.1, 1.0])
    lights = tree["extensions"]["KHR_lights_punctual"]["lights"]
    assert [x["type"] for x in lights] == ["spot", "point"]
    assert "KHR_lights_punctual" in tree["extensionsUsed"]
    assert lights[0]["spot"]["outerConeAngle"] == pytest.approx(math.radians(30))
    node = next(n for n in tree["nodes"] if n.get("name") == "Moon")
    assert node["translation"] == pytest.approx([0.1, 0.15, -0.06])  # y up, in metres
    x, y, z, w = node["rotation"]
    ahead = np.array([-2 * (x * z + w * y), -2 * (y * z - w * x), -(1 - 2 * (x * x + y * y))])  # where its minus z points
    assert ahead == pytest.approx([0, 0, -1], abs=1e-9)  # away from the viewer, which is minus z there
    down = next(n for n in tree["nodes"] if n.get("name") == "Post")["rotation"]
    x, y, z, w = down
    assert np.array([-2 * (x * z + w * y), -2 * (y * z - w * x), -(1 - 2 * (x * x + y * y))]) == pytest.approx([0, -1, 0], abs=1e-9)


def test_a_glb_names_every_number_that_it_holds(heron):
    tree, arrays = glb_of(heron)
    assert len(arrays) == len(tree["accessors"])
    assert {p.name for p in heron.pieces if p.place is not None} <= {n.get("name") for n in tree["nodes"]}


def test_what_leaves_is_as_thick_as_it_is(empty):
    pane = Piece(id="a", name="Pane", shape=Box(width=40, depth=0.5, height=30), place=Place(x=100, y=60))
    text = write_scene(empty.but(pieces=(pane,)), ".obj")[".obj"].decode().split("o Pane")[1]
    points = np.array([[float(x) for x in row.split()[1:4]] for row in text.splitlines() if row.startswith("v ")])
    assert np.ptp(points, axis=0) == pytest.approx([40, 0.5, 30], abs=1e-4)


CLOSED = [k for k in (*KINDS, *FURNITURE) if k.words and k.model is not Mesh]
HOLES = (Opening(x=20, width=15, height=30), Opening(x=60, z=20, width=20, height=15, form="arch"))


@pytest.mark.parametrize("kind", CLOSED, ids=lambda k: k.words)
def test_bodies_that_can_be_closed_leave_closed(kind):
    """Every edge is gone along as often one way as the other; and by trimesh, what has no faces that lie on each other is watertight."""
    shape = kind.at(35.0)
    solid = kind_of(shape).solid(shape, 50.0)
    points, faces = sewn(solid)
    sides = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    key = np.where((sides[:, :1] < sides[:, 1:]), sides, sides[:, ::-1])
    _each, which = np.unique(key, axis=0, return_inverse=True)
    way = np.where(sides[:, 0] < sides[:, 1], 1, -1)
    assert not np.bincount(which.reshape(-1), way).any(), kind.words
    body = trimesh.Trimesh(points, faces, process=False)
    assert body.volume == pytest.approx(volume_of(solid)[0], rel=1e-6)
    assert body.is_watertight or kind.words in ("Room with a window", "Handcart")


@pytest.mark.parametrize(
    "shape", [Wall(length=100, height=80, thickness=6, openings=HOLES), Stairs(width=40, depth=40, height=30, steps=5)]
)
def test_what_stands_on_the_ground_has_a_foot_when_it_leaves(shape):
    points, faces = sewn(kind_of(shape).solid(shape, 50.0))
    assert trimesh.Trimesh(points, faces, process=False).is_watertight


def test_a_glb_from_elsewhere_is_turned_upright(tmp_path):
    """60 mm high along y, as the standard has it: 60 mm high along z here; and what is written stands there as it stood here."""
    box = trimesh.creation.box((0.02, 0.06, 0.01))
    (tmp_path / "a.glb").write_bytes(box.export(file_type="glb"))
    body = read_mesh(tmp_path / "a.glb").body
    assert np.ptp(body.vertices, axis=0) == pytest.approx([0.02, 0.01, 0.06])
    back = trimesh.load(io.BytesIO(write_mesh(Body(body.vertices * 1000, body.faces), ".glb")), file_type="glb", force="mesh")
    assert np.ptp(back.vertices, axis=0) == pytest.approx([0.02, 0.06, 0.01])
    wedge = trimesh.creation.cone(radius=5, height=20)  # its tip is up
    (tmp_path / "b.glb").write_bytes(write_mesh(Body(np.asarray(wedge.vertices), np.asarray(wedge.faces)), ".glb"))
    again = read_mesh(tmp_path / "b.glb").body
    assert again.vertices[:, 2].max() == pytest.approx(0.020)
    assert trimesh.Trimesh(again.vertices, again.faces).volume > 0


def test_a_plan_as_svg_is_at_true_size(empty):
    root = Xml.fromstring(drawing_svg(block(empty), "plan"))
    space = "{http://www.w3.org/2000/svg}"
    assert root.get("width") == "320.000mm"  # 300 and two margins of 10
    groups = {g.get("id"): g for g in root.findall(f"{space}g")}
    assert set(groups) == {"case", "scenery", "pieces", "lamps"}
    (outline,) = groups["pieces"].findall(f"{space}polygon")
    points = np.array([[float(v) for v in p.split(",")] for p in outline.get("points").split()])
    assert np.ptp(points, axis=0) == pytest.approx([20, 40])
    assert points.mean(0) == pytest.approx([100, -60])
    assert outline.find(f"{space}title").text == "Block <1> & co"


@pytest.mark.parametrize(("view", "size"), [("plan", (20, 40)), ("silhouette", (40, 10))])
def test_a_drawing_as_dxf_lies_on_layers_in_millimetres(empty, view, size, tmp_path):
    path = tmp_path / "a.dxf"
    path.write_bytes(drawing_dxf(block(empty), view))
    read = ezdxf.readfile(path)
    assert read.header["$INSUNITS"] == 4
    (line,) = [e for e in read.modelspace() if e.dxftype() == "LWPOLYLINE" and e.dxf.layer == "pieces"]
    points = np.array([(x, y) for x, y in line.get_points("xy")])
    assert np.ptp(points, axis=0) == pytest.approx(size)
    assert any(e.dxftype() == "TEXT" and "Block" in e.dxf.text for e in read.modelspace())


# Floor plans.


ROOM = """<svg xmlns="http://www.w3.org/2000/svg" width="300mm" height="200mm" viewBox="0 0 300 200">
<g transform="translate(10 0)"><rect x="0" y="0" width="200" height="150"/></g><line x1="110" y1="0" x2="110" y2="150"/>
<circle cx="20" cy="20" r="5"/></svg>"""


def test_a_room_of_an_svg_becomes_walls(empty):
    plan = parse_plan(ROOM.encode(), ".svg")
    project = apply(empty, walls_from(empty, plan.lines))
    walls = {(round(p.shape.length), round(p.place.x), round(p.place.y)) for p in project.pieces}
    assert walls == {(200, 100, 150), (150, 200, 75), (200, 100, 0), (150, 0, 75), (150, 100, 75)}
    assert plan.curves > 0
    assert {p.shape.height for p in project.pieces} == {200.0}
    corners = np.concatenate([placed_solid(p, rest_places(project)[p.id]).corners() for p in project.pieces])
    assert np.ptp(corners, axis=0)[:2] == pytest.approx([206, 156], abs=0.1)  # walls of 6 mm about their lines


def dxf_room(units):
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = units
    space = document.modelspace()
    space.add_lwpolyline([(0, 0), (5, 0), (5, 4), (0, 4)], close=True)
    space.add_line((2, 0), (2, 4))
    space.add_circle((1, 1), 0.3)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_a_dxf_in_metres_comes_to_the_house_scale(empty):
    plan = parse_plan(dxf_room(6), ".dxf")
    assert not plan.asks_unit
    project = apply(empty, walls_from(empty, plan.lines, 1 / 35))
    assert max(p.shape.length for p in project.pieces) == pytest.approx(5000 / 35, abs=0.01)
    assert len(project.pieces) == 5
    assert plan.curves == 1


def test_a_dxf_without_a_unit_asks_and_takes_it():
    assert parse_plan(dxf_room(0), ".dxf").asks_unit
    told = parse_plan(dxf_room(0), ".dxf", "cm")
    assert not told.asks_unit
    assert told.lines.max() == pytest.approx(50)


def test_lines_upon_each_other_are_one_wall_and_crumbs_none(empty):
    lines = np.array([[[0.0, 0], [50, 0]], [[50.0, 0], [0, 0]], [[0.0, 0], [1, 0]], [[0.0, 0], [0, 30]]])
    assert len(walls_from(empty, lines).edits) == 2
    with pytest.raises(EditError, match="no line"):
        walls_from(empty, lines[2:3])
    with pytest.raises(EditError, match="at most"):
        walls_from(empty, np.array([[[0.0, k * 5.0], [50, k * 5.0]] for k in range(400)]))


@pytest.mark.parametrize(
    ("data", "ending", "says"),
    [
        (b"", ".svg", "SVG"), (b"<svg", ".svg", "SVG"), (b"\x00" * 500, ".dxf", "DXF|straight"), (b"not a drawing", ".dxf", "DXF|straight"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"/>', ".svg", "no straight lines"), (b"x", ".png", "SVG or a DXF"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"><line x1="0" y1="0" x2="1e30" y2="5"/></svg>', ".svg", "beyond any room"),
    ],
)  # fmt: skip
def test_what_is_no_floor_plan_is_told(data, ending, says):
    with pytest.raises(PlanTrouble, match=says):
        parse_plan(data, ending)


def test_a_plan_that_is_not_there(tmp_path):
    with pytest.raises(PlanTrouble, match="cannot be read"):
        read_plan(tmp_path / "no.svg")


DRAWINGS = (ROOM.encode(), dxf_room(4))


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_bytes_that_were_shuffled_are_read_or_told(data):
    source = data.draw(st.sampled_from(DRAWINGS))
    ending = ".svg" if source.startswith(b"<svg") else ".dxf"
    broken = bytearray(source)
    for _k in range(data.draw(st.integers(1, 8))):
        at = data.draw(st.integers(0, len(broken) - 1))
        broken[at] = data.draw(st.integers(0, 255))
    said, walls = "", 0
    try:
        walls = len(walls_from(new_project("E", TODAY), parse_plan(bytes(broken), ending, "mm").lines).edits)
    except (PlanTrouble, EditError) as error:
        said = str(error)
    assert walls or said


@pytest.mark.slow
def test_by_the_command_line(tmp_path, heron):
    from fondale.storage import load, save

    file = tmp_path / "a.fondale"
    save(heron, file, {})
    run = lambda *args: subprocess.run([sys.executable, "-m", "fondale", *args], capture_output=True, text=True, check=False, timeout=120)  # noqa: E731
    for name in ("a.glb", "a.obj", "a.svg", "a.dxf"):
        done = run("scene", str(file), "--out", str(tmp_path / name))
        assert done.returncode == 0, done.stderr
        assert (tmp_path / name).stat().st_size > 1000
    bad = run("scene", str(file), "--out", str(tmp_path / "a.xyz"))
    assert bad.returncode == 2
    (tmp_path / "room.svg").write_text(ROOM)
    done = run("floor", str(tmp_path / "room.svg"), str(file), "--in-place")
    assert done.stdout == "5 walls; 4 curves left out\n", done.stderr
    assert len(load(file).pieces) == len(heron.pieces) + 5


def drawn_dxf(units=4, **layers):
    """A drawing with a block twice (once turned), an old polyline, a text, a curve and a layer that is off."""
    document = ezdxf.new("R2000", units=units)
    document.layers.add("hidden").off()
    document.layers.add("cold").freeze()
    block = document.blocks.new("door")
    block.add_line((0, 0), (10, 0))
    inner = document.blocks.new("leaf")
    inner.add_line((0, 0), (0, 5))
    block.add_blockref("leaf", (10, 0))
    space = document.modelspace()
    space.add_blockref("door", (100, 50))
    space.add_blockref("door", (200, 50), dxfattribs={"rotation": 90})
    space.add_polyline2d([(0, 0), (100, 0), (100, 80)], close=True)
    space.add_text("Kitchen")
    space.add_circle((5, 5), 3)
    space.add_line((0, 0), (9, 9), dxfattribs={"layer": "hidden"})
    space.add_line((0, 0), (9, 9), dxfattribs={"layer": "cold"})
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_blocks_and_old_polylines_are_read_and_all_that_is_left_out_is_told():
    found = parse_plan(drawn_dxf(), ".dxf")
    lines = {tuple(np.round(line, 6).reshape(-1).tolist()) for line in found.lines}
    assert (100.0, 50.0, 110.0, 50.0) in lines
    assert (110.0, 50.0, 110.0, 55.0) in lines  # a block in a block
    assert (200.0, 50.0, 200.0, 60.0) in lines  # turned
    assert (100.0, 80.0, 0.0, 0.0) in lines  # closed
    assert len(found.lines) == 7
    assert (found.curves, found.hidden, found.others) == (1, 2, 1)
    assert found.left_out == "1 curve, 2 things on layers that are off, 1 text or hatch left out"
    assert parse_plan(drawn_dxf(units=14), ".dxf").lines.max() == pytest.approx(100 * found.lines.max())  # decimetres


# Sections: judged by trimesh's own slicing, and by hand.


def flat_on(axis):
    """Turns an axis upright, the same for every part."""
    rest = [k for k in range(3) if k != axis]
    out = np.zeros((4, 4))
    out[0, rest[0]] = out[1, rest[1]] = out[2, axis] = out[3, 3] = 1.0
    return out


@pytest.mark.parametrize("kind", CLOSED, ids=lambda k: k.words)
@pytest.mark.parametrize("axis", [0, 1, 2])
def test_a_section_is_what_another_slicer_cuts(kind, axis):
    shape = kind.at(35.0)
    points, faces = sewn(kind_of(shape).solid(shape, 50.0))
    body = trimesh.Trimesh(points, faces, process=False)
    at = float(points[:, axis].min() * 0.377 + points[:, axis].max() * 0.623)
    origin, normal = np.zeros(3), np.zeros(3)
    origin[axis], normal[axis] = at, 1.0
    body.apply_translation(-origin)
    origin[:] = 0
    ours = sliced(points, faces, axis, at, [k for k in range(3) if k != axis])
    each = []
    for part in body.split(only_watertight=False):  # parts may lie in each other
        lines = part.section(plane_origin=origin, plane_normal=normal)
        rings = [p for p in lines.to_2D(to_2D=flat_on(axis))[0].polygons_closed if p is not None] if lines is not None else []
        each.append(reduce(shapely.symmetric_difference, rings, shapely.Polygon()))  # a ring in a ring is a hole
    area = shapely.union_all(each).area
    assert ours.area == pytest.approx(area, rel=0.005, abs=0.01)


def test_a_wall_is_cut_with_its_opening_and_a_tube_with_its_hole(empty):
    wall = Piece(
        id="w",
        name="Wall",
        shape=Wall(length=100, height=80, thickness=6, openings=(Opening(x=40, z=20, width=20, height=30),)),
        place=Place(x=150, y=100),
        role="scenery",
    )
    areas, beyond = section(empty.but(pieces=(wall,)), Plane("x", 150.0))
    mine = [a.shape for a in areas if a.name == "Wall"]
    assert sorted(round(a.area, 3) for a in mine) == [6 * 20, 6 * 30]  # below the sill and over the lintel
    assert beyond == ()
    through = section(empty.but(pieces=(wall,)), Plane("y", 100.0))[0]
    (face,) = [a.shape for a in through if a.name == "Wall"]
    assert face.area == pytest.approx(100 * 80 - 20 * 30)
    assert len(face.interiors) == 1  # the window is a hole
    boards = shapely.union_all([a.shape for a in areas if a.name == "Case"])
    assert boards.area > 0
    assert boards.bounds[2] - boards.bounds[0] > empty.case.depth


def test_what_lies_beyond_is_drawn_and_what_lies_before_is_not(empty):
    near = Piece(id="n", name="Near", shape=Box(width=10, depth=10, height=10), place=Place(x=60, y=40))
    far = Piece(id="f", name="Far", shape=Box(width=10, depth=10, height=10), place=Place(x=90, y=160))
    areas, beyond = section(empty.but(pieces=(near, far)), Plane("y", 100.0))
    assert {a.name for a in areas} == {"Case"}
    assert [line.name for line in beyond] == ["Far"]


def test_a_section_as_svg_and_dxf_is_hatched_with_layers_and_names(empty, tmp_path):
    plane = Plane("x", 100.0)
    root = Xml.fromstring(drawing_svg(block(empty), plane))
    space = "{http://www.w3.org/2000/svg}"
    groups = {g.get("id"): g for g in root.findall(f"{space}g")}
    assert {"beyond", "case", "scenery", "pieces", "lamps"} == set(groups)
    (cut,) = groups["pieces"].findall(f"{space}path")
    assert cut.get("fill") == "url(#cut)"
    assert cut.find(f"{space}title").text == "Block <1> & co"
    assert root.find(f"{space}defs/{space}pattern").get("id") == "cut"
    assert "cut at x 100 mm" in root.find(f"{space}title").text
    path = tmp_path / "a.dxf"
    path.write_bytes(drawing_dxf(block(empty), plane))
    read = ezdxf.readfile(path)
    assert not read.audit().errors
    (hatch,) = [e for e in read.modelspace() if e.dxftype() == "HATCH" and e.dxf.layer == "pieces"]
    assert hatch.dxf.pattern_name == "ANSI31"
    with pytest.raises(ValueError, match="Nothing is cut"):
        drawing_svg(block(empty), Plane("x", 9000.0))


@pytest.mark.parametrize(("text", "axis", "at"), [("x 210", "x", 210), ("Y=130 mm", "y", 130), ("z: 1 in", "z", 25.4), ("x 0", "x", 0)])
def test_planes_are_typed(text, axis, at):
    assert parse_plane(text) == Plane(axis, pytest.approx(at))
    for wrong in ("", "210", "w 3", "x so"):
        with pytest.raises(LengthError):
            parse_plane(wrong)
