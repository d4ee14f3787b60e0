# SPDX-License-Identifier: MIT
"""What a 3MF or a GLB unfolds to, reckoned before it is unfolded: instances of instances make a small file endless."""

import json
import struct
import zipfile
from collections.abc import Mapping, Sequence
from io import BytesIO
from typing import Any

from fondale.core.troubles import Trouble
from fondale.storage.limits import MESH_HEAD_BYTES, MESH_PARTS, MESH_TEXT_BYTES, MESH_TRIANGLES

_MODEL = "3dmodel.model"


class Endless(Trouble):
    """More than a body can be; the text says what."""


def _total(parts: Mapping[Any, tuple[int, Sequence[Any]]], roots: Sequence[Any]) -> tuple[int, int]:
    """Triangles and instances below ``roots``; ``parts`` gives for each what it holds itself and what it is made of. Raises Endless."""
    done: dict[Any, tuple[int, int]] = {}
    for root in roots:
        stack: list[tuple[Any, bool]] = [(root, False)]
        path: set[Any] = set()
        while stack:
            name, left = stack.pop()
            own, children = parts.get(name, (0, ()))
            if left:
                path.discard(name)
                below = [done.get(c, (0, 0)) for c in children]
                done[name] = own + sum(t for t, _n in below), 1 + sum(n for _t, n in below)
            elif name not in done:
                if name in path:
                    raise Endless("it is made of itself")
                path.add(name)
                stack.append((name, True))
                for child in children:
                    if child in path:
                        raise Endless("it is made of itself")
                    if child not in done:
                        stack.append((child, False))
    found = [done.get(r, (0, 0)) for r in roots]
    return sum(t for t, _n in found), sum(n for _t, n in found)


def _refused(triangles: int, nodes: int) -> None:
    if triangles > MESH_TRIANGLES:
        raise Endless(f"unfolded it has {triangles:.2g} triangles, and {MESH_TRIANGLES // 1_000_000} million are the most")
    if nodes > MESH_PARTS:
        raise Endless(f"unfolded it has {nodes:.2g} parts, and {MESH_PARTS} are the most")


def look_at_3mf(data: bytes) -> str:
    """The unit that a 3MF states. Raises Endless for what unfolds to too much, and whatever reading a zip and XML raises."""
    from lxml import etree  # only where a 3MF is read

    with zipfile.ZipFile(BytesIO(data)) as archive:
        infos = archive.infolist()
        if sum(i.file_size for i in infos) > MESH_TEXT_BYTES:
            raise Endless(f"unpacked it takes more than {MESH_TEXT_BYTES // 1_000_000} MB")
        parts: dict[Any, tuple[int, Sequence[Any]]] = {}
        roots: list[Any] = []
        unit, triangles = "millimeter", 0
        children: list[Any] = []
        for name in (i.filename for i in infos if i.filename.lower().endswith(".model")):
            with archive.open(name) as text:
                for _event, tag in etree.iterparse(text, events=("start", "end"), resolve_entities=False, no_network=True, huge_tree=True):
                    kind = etree.QName(tag).localname if isinstance(tag.tag, str) else ""
                    if _event == "start":
                        if kind == "model" and name.lower().endswith(_MODEL):
                            unit = tag.get("unit", "millimeter")
                        elif kind == "object":
                            triangles, children = 0, []
                        continue
                    if kind == "triangle":
                        triangles += 1
                    elif kind == "component":
                        children.append(tag.get("objectid"))
                    elif kind == "item":
                        roots.append(tag.get("objectid"))
                    elif kind == "object":
                        parts[tag.get("id")] = triangles, children
                        children = []
                    if triangles > MESH_TRIANGLES or len(children) > MESH_PARTS or len(roots) > MESH_PARTS:
                        _refused(triangles, max(len(children), len(roots)))
                    if kind not in ("model", "resources", "build"):
                        tag.clear()
                        while tag.getprevious() is not None:
                            del tag.getparent()[0]
    _refused(*_total(parts, roots))
    return unit


_SIZES = {5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4}
_WIDE = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}


def bare_glb(data: bytes) -> bytes:
    """A GLB without its pictures, which no size is read from and which may be large. Raises Endless for one that unfolds to too much or tells
    of more than it holds, and whatever reading its head raises.
    """
    magic, _version, _length = struct.unpack("<4sII", data[:12])
    size, kind = struct.unpack("<I4s", data[12:20])
    if magic != b"glTF" or kind != b"JSON" or size > len(data):
        raise Endless("its head does not fit it")
    if size > MESH_HEAD_BYTES:
        raise Endless(f"its head takes {size // 1_000_000} MB, and {MESH_HEAD_BYTES // 1_000_000} are the most")
    head = json.loads(data[20 : 20 + size])
    held = len(data) - 20 - size
    counts = []
    for a in head.get("accessors", []):
        count = int(a.get("count", 0))
        if "bufferView" in a and count * _SIZES.get(a.get("componentType"), 1) * _WIDE.get(a.get("type"), 1) > held:
            raise Endless(f"it tells of {count} values and does not hold them")
        if count > 3 * MESH_TRIANGLES:
            raise Endless(f"it tells of {count} values")
        counts.append(count)
    meshes = []
    for m in head.get("meshes", []):
        of = [p.get("indices", p.get("attributes", {}).get("POSITION", 0)) for p in m.get("primitives", [])]
        meshes.append(sum(counts[i] // 3 for i in of))
    nodes = head.get("nodes", [])
    parts: dict[Any, tuple[int, Sequence[Any]]] = {
        k: (meshes[n["mesh"]] if "mesh" in n else 0, n.get("children", [])) for k, n in enumerate(nodes)
    }
    scenes = head.get("scenes", [])
    roots = scenes[head.get("scene", 0)].get("nodes", []) if scenes else list(parts)
    _refused(*_total(parts, roots))
    for name in ("images", "textures", "samplers", "materials"):
        head.pop(name, None)
    for mesh in head.get("meshes", []):
        for primitive in mesh.get("primitives", []):
            primitive.pop("material", None)
    text = json.dumps(head).encode()
    text += b" " * (-len(text) % 4)
    rest = data[20 + size :]
    return struct.pack("<4sIII4s", b"glTF", 2, 20 + len(text) + len(rest), len(text), b"JSON") + text + rest
