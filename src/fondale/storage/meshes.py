# SPDX-License-Identifier: MIT
"""Bodies from and to open files: STL, OBJ, PLY, 3MF, GLB. Units are never guessed: a format either states one or the maker is asked.

Binary STL is read here, in little more memory than the body takes; the other formats through trimesh.
"""

import contextlib
import errno
import io
import re
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from fondale.core.lengths import FILE_UNITS
from fondale.core.prints.body import Body, BodyError, Facts, measure
from fondale.core.troubles import Trouble
from fondale.storage.disk import ordinary
from fondale.storage.limits import MESH_BYTES, READING_S, STL_BYTES, STL_STEADY_BYTES
from fondale.storage.patience import patience
from fondale.storage.unfolded import Endless, bare_glb, look_at_3mf

ENDINGS = (".stl", ".obj", ".ply", ".3mf", ".glb")
REPAIR_BELOW = 300_000
_SLAB = 3 << 16
_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


class MeshTrouble(Trouble):
    """A file that no body can be read from; the text says what is wrong and what to do."""


@dataclass(frozen=True)
class Loaded:
    """A body as it stands in the file. ``unit`` is what the format states, or empty: then the maker is asked."""

    body: Body
    unit: str
    names: tuple[str, ...]


@dataclass(frozen=True)
class Mended:
    """A body after safe repairs, its facts, and what was done in words."""

    body: Body
    facts: Facts
    repairs: tuple[str, ...]


@contextlib.contextmanager
def reading(path: Path) -> Iterator[None]:
    """All work on a file that comes from outside, its measuring too, within the time that it may take. Raises MeshTrouble beyond it."""
    size = path.stat().st_size if path.suffix.lower() == ".stl" and path.is_file() else 0
    try:
        with patience(READING_S * max(1.0, size / STL_STEADY_BYTES)):
            yield
    except Endless as error:
        raise MeshTrouble(f"“{path.name}” cannot be read: {error}.") from error


def ending_of(data: bytes) -> str:
    """The ending that bytes of a file would have, by how they begin; STL for those that say nothing."""
    for begins, ending in ((b"glTF", ".glb"), (b"PK", ".3mf"), (b"ply", ".ply")):
        if data.startswith(begins):
            return ending
    return ".obj" if re.match(rb"\s*(#|mtllib |o |g |v )", data) else ".stl"


def read_mesh(path: Path) -> Loaded:
    """Read a file. Raises MeshTrouble in words for anything that is wrong with it."""
    name, ending = f"“{path.name}”", path.suffix.lower()
    if ending not in ENDINGS:
        raise MeshTrouble(f"{name} is no mesh that Fondale reads. It reads {', '.join(e[1:].upper() for e in ENDINGS)}.")
    try:
        size = ordinary(path, STL_BYTES)
        if size == 0:
            raise MeshTrouble(f"{name} is empty. Export it again.")
        if ending == ".stl" and _is_binary_stl(path, size):
            return Loaded(_binary_stl(path, name), "", ())
        if size > MESH_BYTES:
            raise OSError(errno.EFBIG, f"it is larger than {MESH_BYTES // 1_000_000} MB; thin it out, or export it as binary STL")
        data = path.read_bytes()
    except OSError as error:
        raise MeshTrouble(f"{name} cannot be read: {error.strerror or error}.") from error
    return parse_mesh(data, ending, name)


def parse_mesh(data: bytes, ending: str, name: str = "The file") -> Loaded:
    """A body from the bytes of a file. Raises MeshTrouble."""
    with patience():
        return _parsed(data, ending, name)


def _parsed(data: bytes, ending: str, name: str) -> Loaded:
    import trimesh

    if ending == ".stl" and len(data) >= 84 and len(data) == 84 + 50 * struct.unpack("<I", data[80:84])[0]:
        return Loaded(_merged(np.frombuffer(data, _RECORD, offset=84)["corners"], name), "", ())
    try:
        stated, times = _looked_at(data, ending, name)
        if ending == ".glb":
            data = bare_glb(data)
        scene: Any = trimesh.load(io.BytesIO(data), file_type=ending[1:], process=False)  # points that are no numbers stay, to be told
        if isinstance(scene, trimesh.Scene):
            meshes = [g for g in scene.dump() if isinstance(g, trimesh.Trimesh) and len(g.faces)]
            if not meshes:
                raise MeshTrouble(f"{name} holds no triangles. Export a body, not lines or points.")
            names = tuple(str(n) for n in scene.geometry)
            mesh = trimesh.util.concatenate(meshes) if len(meshes) > 1 else meshes[0]
        else:
            mesh, names = scene, ()
            if not isinstance(mesh, trimesh.Trimesh):
                raise MeshTrouble(f"{name} holds no triangles. Export a body, not lines or points.")
        if not np.isfinite(mesh.vertices).all():
            raise MeshTrouble(f"{name} has points that are not numbers. Export it again.")
        mesh.merge_vertices(merge_tex=True, merge_norm=True)
        points = np.array(mesh.vertices, float) * times
        if ending == ".glb":  # y is up in it, and z here
            points = points[:, [0, 2, 1]] * [1.0, -1.0, 1.0]
        body = Body(points, np.array(mesh.faces, np.int64))
    except MeshTrouble:
        raise
    except Endless as error:
        raise MeshTrouble(f"{name} cannot be read: {error}.") from error
    except Exception as error:  # parsers meet any kind of damage; the maker hears it in words
        raise MeshTrouble(f"{name} is damaged, or no {ending[1:].upper()} inside: {_short(error)}. Export it again.") from error
    if len(body.faces) == 0:
        raise MeshTrouble(f"{name} holds no triangles. Export a body, not lines or points.")
    return Loaded(body, stated, names)


def _short(error: Exception) -> str:
    text = str(error).strip().splitlines()
    return (text[0] if text else type(error).__name__)[:120]


# What 3MF may state, as the unit of the body that is handed on, and by how much it is multiplied for that.
_3MF_UNITS = {
    "micron": ("mm", 0.001), "millimeter": ("mm", 1.0), "centimeter": ("cm", 1.0), "inch": ("in", 1.0), "foot": ("in", 12.0), "meter": ("m", 1.0),
}  # fmt: skip


def _looked_at(data: bytes, ending: str, name: str) -> tuple[str, float]:
    """What the format states, and by how much points are multiplied: 3MF names its unit, GLB is in metres by its standard.

    Raises MeshTrouble and Endless for what is not worth reading: cut off, endless, in a unit that nobody knows.
    """
    if ending == ".3mf":
        unit = look_at_3mf(data)
        if unit not in _3MF_UNITS:
            raise MeshTrouble(f"{name} states a unit that 3MF does not know, “{unit[:20]}”. Export it again, in millimetres.")
        return _3MF_UNITS[unit]
    if ending == ".glb":
        return "m", 1.0
    if ending == ".stl" and len(data) >= 84 and data.lstrip()[:5].lower() != b"solid":
        told, there = int(struct.unpack("<I", data[80:84])[0]), (len(data) - 84) // 50
        if there < told:
            raise MeshTrouble(f"{name} ends in the middle: it tells of {told} triangles, and {there} are there. Export or fetch it again.")
    if ending == ".ply":
        _counts_fit(data, name)
    return "", 1.0


def _counts_fit(data: bytes, name: str) -> None:
    """Raises MeshTrouble for a PLY that tells of more than its bytes can hold."""
    head = data[: data.find(b"end_header")].decode("ascii", "replace")
    told = sum(int(n) for n in re.findall(r"^element +\w+ +(\d{1,18})", head, re.MULTILINE))
    if told > len(data):
        raise MeshTrouble(f"{name} ends in the middle: it tells of {told} things, and has {len(data)} bytes. Export or fetch it again.")


def _is_binary_stl(path: Path, size: int) -> bool:
    if size < 84:
        return False
    with path.open("rb") as file:
        head = file.read(84)
    return size == 84 + 50 * int(struct.unpack("<I", head[80:84])[0])


def _binary_stl(path: Path, name: str) -> Body:
    records = np.memmap(path, _RECORD, mode="r", offset=84)
    return _merged(records["corners"], name)


def _flat(corners: Any, at: int, count: int) -> Any:
    """Corner points ``at`` and following as (count, 3) float32; minus zero becomes zero, so that equal points are equal bit for bit."""
    first = at // 3
    slab: Any = np.ascontiguousarray(corners[first : first + count // 3], np.float32).reshape(-1, 3)
    return slab + np.float32(0.0)


def _words(corners: Any, name: str) -> Any:
    """One number for each corner point, mixed out of its three coordinates; equal numbers are proven equal later."""
    word = np.empty(3 * len(corners), np.uint64)
    for at in range(0, len(word), _SLAB):
        flat = _flat(corners, at, _SLAB)
        if not np.isfinite(flat).all():
            raise MeshTrouble(f"{name} has points that are not numbers. Export it again.")
        bits, nothing = flat.view(np.uint32), np.uint64(0)
        mix = bits[:, 0].astype(np.uint64)
        for times, shift, more in (
            (0x9E3779B97F4A7C15, 29, bits[:, 1]),
            (0xBF58476D1CE4E5B9, 32, bits[:, 2]),
            (0x94D049BB133111EB, 31, nothing),
        ):
            mix *= np.uint64(times)
            mix ^= mix >> np.uint64(shift)
            mix += more
        word[at : at + len(mix)] = mix
    return word


def _merged(corners: Any, name: str) -> Body:
    """Corners (m, 3, 3) float32 as shared points: equal ones, bit for bit, become one; triangles that fall flat go."""
    if len(corners) == 0:
        raise MeshTrouble(f"{name} holds no triangles. Export a body, not lines or points.")
    word = _words(corners, name)
    order = word.argsort().astype(np.int32)
    fresh = np.ones(len(word), bool)
    for at in range(1, len(word), _SLAB):
        here = word[order[at - 1 : at + _SLAB]]
        np.not_equal(here[1:], here[:-1], out=fresh[at : at + _SLAB])
    del word
    firsts = order[fresh]
    rank = fresh.cumsum(dtype=np.int32)
    rank -= 1
    index = np.empty(len(order), np.int32)
    index[order] = rank
    del order, rank, fresh
    vertices = np.ascontiguousarray(corners[firsts // 3, firsts % 3], np.float32) + np.float32(0.0)
    for at in range(0, len(index), _SLAB):
        if not np.array_equal(vertices[index[at : at + _SLAB]], _flat(corners, at, _SLAB)):
            # Two different points share a number: once in some million million files.
            vertices, again = np.unique(_flat(corners, 0, len(index)), axis=0, return_inverse=True)
            index = again.reshape(-1).astype(np.int32)
            break
    faces = index.reshape(-1, 3)
    flat_ones = (faces[:, 0] == faces[:, 1]) | (faces[:, 1] == faces[:, 2]) | (faces[:, 0] == faces[:, 2])
    if flat_ones.any():
        faces = faces[~flat_ones]
    return Body(vertices, faces)


WELD = 1e-5  # of the size of a body: points of open edges nearer than this were meant as one (by eye, no source)


def in_mm(body: Body, unit: str) -> Body:
    """The body in millimetres. Raises KeyError for a unit that is not known."""
    times = FILE_UNITS[unit]
    return body if times == 1.0 else Body(body.vertices * times, body.faces)


def mend(body: Body) -> Mended:
    """Measure, and repair what can be repaired safely: faces turned outwards, double faces dropped, small holes filled.

    What is left open is reported, never hidden. Raises BodyError for a body that cannot be used.
    """
    facts = measure(body)
    if facts.watertight:
        return Mended(body, facts, ())
    if facts.open_edges == 0 and facts.turned == 0 and facts.volume < 0:
        body = Body(body.vertices, np.ascontiguousarray(body.faces[:, ::-1]))
        return Mended(body, measure(body), ("it was inside out: its faces were turned",))
    if len(body.faces) > REPAIR_BELOW:
        return Mended(body, facts, (_left(facts),))
    with np.errstate(divide="ignore", invalid="ignore"):  # faces without an area have no direction
        return _repaired(body, facts)


def _repaired(body: Body, facts: Facts) -> Mended:
    import trimesh

    repairs: list[str] = []
    body, welded, within = _welded(body)
    if welded:
        repairs.append(f"{welded} points less than {within:.2g} mm apart were made one")
        facts = measure(body)
        if facts.watertight and facts.volume > 0:
            return Mended(body, facts, tuple(repairs))
    mesh = trimesh.Trimesh(body.vertices, body.faces, process=False)
    before = len(mesh.faces)
    mesh.update_faces(mesh.nondegenerate_faces())
    mesh.update_faces(mesh.unique_faces())
    if len(mesh.faces) < before:
        repairs.append(f"{before - len(mesh.faces)} double or flat faces were dropped")
    if not len(mesh.faces):
        raise BodyError("There is no triangle in it that has an area.")
    if facts.turned or not mesh.is_winding_consistent:
        trimesh.repair.fix_normals(mesh, multibody=True)
        repairs.append("faces that looked inwards were turned")
    faces = len(mesh.faces)
    if not mesh.is_watertight:
        trimesh.repair.fill_holes(mesh)
        if len(mesh.faces) > faces:
            repairs.append(f"small holes were closed with {len(mesh.faces) - faces} faces")
        trimesh.repair.fix_normals(mesh, multibody=True)
    mended = Body(np.array(mesh.vertices, float), np.array(mesh.faces, np.int64))
    facts = measure(mended)
    if not facts.watertight:
        repairs.append(_left(facts))
    return Mended(mended, facts, tuple(repairs))


def _welded(body: Body) -> tuple[Body, int, float]:
    """The body with points of open edges that are nearer to each other than a hundred-thousandth of its size made one; how many are gone, and
    how near that is in mm.
    """
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    edges = np.sort(np.concatenate([body.faces[:, [0, 1]], body.faces[:, [1, 2]], body.faces[:, [2, 0]]]), axis=1)
    unique, count = np.unique(edges, axis=0, return_counts=True)
    rim = np.unique(unique[count == 1])
    within = WELD * float(np.ptp(body.vertices, axis=0).max())
    if not len(rim) or within <= 0:
        return body, 0, within
    near = cKDTree(body.vertices[rim]).query_pairs(within, output_type="ndarray")
    if not len(near):
        return body, 0, within
    size = len(body.vertices)
    _count, names = connected_components(coo_array((np.ones(len(near)), (rim[near[:, 0]], rim[near[:, 1]])), (size, size)), directed=False)
    first = np.full(names.max() + 1, -1)
    first[names[::-1]] = np.arange(size)[::-1]
    to = first[names]
    faces = to[body.faces]
    faces = faces[(faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])]
    kept, faces = np.unique(faces, return_inverse=True)
    return Body(body.vertices[kept], faces.reshape(-1, 3)), int((to != np.arange(size)).sum()), within


def _left(facts: Facts) -> str:
    what = f"{facts.open_edges} open edges" if facts.open_edges else f"{facts.turned} edges between faces that disagree"
    return f"{what} are left: its volume is a guess, and it cannot be cut"


def write_stl(body: Body) -> bytes:
    """Binary STL in millimetres."""
    corners = np.asarray(body.vertices, np.float32)[body.faces]
    records = np.zeros(len(corners), _RECORD)
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]).astype(np.float64)
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    records["normal"] = normal / np.maximum(length, 1e-30)
    records["corners"] = corners
    header = b"Fondale, millimetres".ljust(80, b"\0")
    return header + struct.pack("<I", len(corners)) + records.tobytes()


def write_mesh(body: Body, ending: str) -> bytes:
    """The body in millimetres as STL, OBJ, PLY, 3MF (which states its unit) or GLB (in metres with y up, as its standard asks). Raises
    KeyError.
    """
    if ending == ".stl":
        return write_stl(body)
    import trimesh

    if ending not in ENDINGS:
        raise KeyError(ending)
    times = 0.001 if ending == ".glb" else 1.0
    points = np.asarray(body.vertices, float) * times
    if ending == ".glb":
        points = points[:, [0, 2, 1]] * [1.0, 1.0, -1.0]
    mesh = trimesh.Trimesh(points, body.faces, process=False)
    mesh.units = "m" if ending == ".glb" else "mm"
    data = mesh.export(file_type=ending[1:])
    return data.encode() if isinstance(data, str) else bytes(data)
