# SPDX-License-Identifier: MIT
"""The whole scene as a mesh with the names kept: GLB with its lamps, and OBJ with its materials."""

import json
import math
import struct
from typing import Any

import numpy as np

from fondale.core.arrays import Floats, Ints
from fondale.core.colours import Rgb, shown
from fondale.core.light.desk import levels_of
from fondale.core.light.strength import bands_at_rated, lux
from fondale.core.model import Lamp, Project
from fondale.core.shapes.sewn import sewn
from fondale.core.shapes.solid import NO_GROUPS, Solid
from fondale.core.stage.cases import case_faces
from fondale.core.stage.scene import placed_solid, rest_places

ENDINGS = (".glb", ".obj")
MATERIALS = ".mtl"
_JSON, _WIDE_DEG = 0x4E4F534A, 178.0


def write_scene(project: Project, ending: str, name: str = "scene") -> dict[str, bytes]:
    """Every piece and the case, each a closed body of its name and paint where it can be closed, by the ending of the file that each belongs in.

    OBJ has z up and millimetres; its materials go beside it, as ``name``.mtl. A GLB has metres, y up and linear colours by its standard: its root
    node turns and shrinks what lies below it, and its lamps shine (KHR_lights_punctual). Raises KeyError for another ending.
    """
    if ending not in ENDINGS:
        raise KeyError(ending)
    parts = list(_parts(project))
    return {ending: _glb(project, parts)} if ending == ".glb" else _obj(parts, ending, name)


Part = tuple[str, Floats, Ints, Rgb]


def _parts(project: Project) -> list[Part]:
    """The case and every piece that stands: name, corners (v, 3) in mm, triangles (f, 3), paint."""
    places, taken = rest_places(project), set[str]()
    faces = case_faces(project.case)
    inside = Solid(faces.rects, faces.tris, NO_GROUPS)
    out = [(_unique("Case", taken), *sewn(inside), project.case.wall_paint)]
    for piece in project.pieces:
        if piece.id in places:
            out.append((_unique(piece.name, taken), *sewn(placed_solid(piece, places[piece.id])), piece.paint))
    return [part for part in out if len(part[2])]


def _obj(parts: list[Part], ending: str, name: str) -> dict[str, bytes]:
    """The text of an OBJ and of its materials; colours as screens show them, as most readers take them."""
    lines, stuffs, first = [f"mtllib {name}{MATERIALS}"], list[str](), 1
    for k, (called, points, faces, paint) in enumerate(parts):
        stuff = f"paint_{k}"
        lines += [f"o {' '.join(called.split())}", f"usemtl {stuff}"]
        lines += [f"v {x:.5f} {y:.5f} {z:.5f}" for x, y, z in points.tolist()]
        lines += [f"f {a} {b} {c}" for a, b, c in (faces + first).tolist()]
        first += len(points)
        stuffs += [f"newmtl {stuff}", f"Kd {' '.join(f'{c:.4f}' for c in shown(paint))}", "d 1", ""]
    return {ending: ("\n".join(lines) + "\n").encode(), MATERIALS: ("\n".join(stuffs) + "\n").encode()}


def _glb(project: Project, parts: list[Part]) -> bytes:
    import trimesh

    out = trimesh.Scene()
    for called, points, faces, paint in parts:
        mesh = trimesh.Trimesh(points, faces, process=False)
        mesh.visual = trimesh.visual.TextureVisuals(
            material=trimesh.visual.material.PBRMaterial(
                name=called, baseColorFactor=[round(255 * c) for c in paint] + [255], doubleSided=True
            )
        )
        out.add_geometry(mesh, node_name=called, geom_name=called, transform=_UPRIGHT)
    return _finished(bytes(out.export(file_type="glb")), project, {called: paint for called, _p, _f, paint in parts})


def _finished(data: bytes, project: Project, paints: dict[str, Rgb]) -> bytes:
    """A GLB with its colours as exact as they are known, and its lamps."""
    length = struct.unpack("<I", data[12:16])[0]
    tree: dict[str, Any] = json.loads(data[20 : 20 + length])
    for material in tree.get("materials", []):
        if material.get("name") in paints:
            material["pbrMetallicRoughness"] = {
                "baseColorFactor": [*map(float, paints[material["name"]]), 1.0],
                "metallicFactor": 0.0,
                "roughnessFactor": 0.9,
            }
    if project.lamps:
        level = levels_of(project)
        tree.setdefault("extensionsUsed", []).append("KHR_lights_punctual")
        tree.setdefault("extensions", {})["KHR_lights_punctual"] = {"lights": [_light(m, level[m.id]) for m in project.lamps]}
        nodes, roots = tree["nodes"], tree["scenes"][tree.get("scene", 0)]["nodes"]
        for k, lamp in enumerate(project.lamps):
            nodes.append(_lamp_node(lamp, k))
            roots.append(len(nodes) - 1)
    text = json.dumps(tree, ensure_ascii=False).encode()
    text += b" " * (-len(text) % 4)
    rest = data[20 + length :]
    return struct.pack("<4sII", b"glTF", 2, 20 + len(text) + len(rest)) + struct.pack("<II", len(text), _JSON) + text + rest


def _light(lamp: Lamp, level: float) -> dict[str, Any]:
    """A lamp at its rated current and the level of the moment, in candela."""
    bands = bands_at_rated(lamp)
    most = float(max(bands.max(), 1e-9))
    out: dict[str, Any] = {
        "name": lamp.name,
        "color": [float(b) / most for b in bands],
        "intensity": float(lux(bands)) * level,
        "type": "point",
    }
    if lamp.angle_deg < _WIDE_DEG:
        out |= {"type": "spot", "spot": {"innerConeAngle": 0.0, "outerConeAngle": math.radians(lamp.angle_deg / 2)}}
    return out


def _lamp_node(lamp: Lamp, index: int) -> dict[str, Any]:
    """Where a lamp hangs, in metres and y up; it shines along its own minus z."""
    axis = np.array([lamp.ax, lamp.az, -lamp.ay], float)
    long = float(np.linalg.norm(axis))
    axis = axis / long if long > 1e-9 else np.array([0.0, -1.0, 0.0])
    # The quaternion that turns -z on to the axis; straight back, about x.
    w = 1.0 - axis[2]
    turn = np.array([axis[1], -axis[0], 0.0, w]) if w > 1e-9 else np.array([1.0, 0.0, 0.0, 0.0])
    turn /= np.linalg.norm(turn)
    place = [lamp.x / 1000, lamp.z / 1000, -lamp.y / 1000]
    return {"name": lamp.name, "translation": place, "rotation": turn.tolist(), "extensions": {"KHR_lights_punctual": {"light": index}}}


# z up in mm to y up in m.
_UPRIGHT = np.array([[0.001, 0, 0, 0], [0, 0, 0.001, 0], [0, -0.001, 0, 0], [0, 0, 0, 1.0]])


def _unique(name: str, taken: set[str]) -> str:
    out, k = name, 2
    while out in taken:
        out, k = f"{name} {k}", k + 1
    taken.add(out)
    return out
