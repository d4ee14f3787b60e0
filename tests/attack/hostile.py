# SPDX-License-Identifier: MIT
"""Hostile and odd files of many kinds, made by a generator: each is to be met with one clear line, within 1 GB and 10 s of the processor."""

import io
import json
import os
import struct
import subprocess
import sys
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Self

import numpy as np
from PIL import Image

from fondale.core.model import Project
from fondale.storage.files import to_json
from fondale.storage.limits import STL_STEADY_BYTES
from fondale.storage.scenes import write_scene

MOST_BYTES, MOST_S = 1_000_000_000, 10.0
ESCAPE = "\x1b[31m\x07\x9b\u202e"  # steers a terminal, and turns a line round
MODEL = "3D/3dmodel.model"
RELS = (
    '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r" '
    'Target="/3D/3dmodel.model" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
)


@dataclass(frozen=True)
class Case:
    """One hostile file: its kind, where it lies, and the command that is to read it. ``good``: it may also be read, as it is only odd."""

    kind: str
    path: Path
    args: tuple[str, ...]
    good: bool = False
    home: str = ""


@dataclass(frozen=True)
class Met:
    """How a file was met: the exit code, what was said, the seconds of the processor and the most bytes in memory."""

    case: Case
    code: int
    said: str
    seconds: float
    bytes: int
    told: str = ""

    @property
    def fine(self) -> bool:
        """One clear line and exit 2, or read where that is right, within the bounds."""
        lines = self.said.strip().splitlines()
        clear = self.code == 2 and len(lines) == 1 and lines[0].startswith("fondale: ") and "Traceback" not in self.said
        quiet = not any(c in self.told + self.said for c in ESCAPE if c != "[" and not c.isalnum())
        size = self.case.path.stat().st_size if self.case.path.name == "most.stl" else 0
        within = self.seconds <= MOST_S * max(1.0, size / STL_STEADY_BYTES) and self.bytes <= MOST_BYTES
        return (clear or (self.case.good and self.code in (0, 1))) and quiet and within


# A process that has loaded what reads, and is split for each file: a child of its own meets it as the command does, or as the window's workers do
# where there is no command. It tells the exit code, the seconds of the processor and the most bytes in memory.
SERVER = """
import json, os, resource, sys, traceback
from datetime import date
from pathlib import Path
import ezdxf.recover, lxml.etree, svgelements, trimesh
from PIL import Image
import fondale.core.derived, fondale.core.light.desk, fondale.core.order.plan, fondale.storage.files, fondale.storage.meshes, fondale.storage.bits_csv
from fondale.cli import run
from fondale.core.troubles import Trouble
from fondale.storage.floor_plans import read_plan
from fondale.storage.patience import bound_memory, work_in_a_child
from fondale.storage.photos import read_picture
Image.init()

def at_work():
    work_in_a_child("fondale")
    bound_memory()

def meet(args):
    if args[0] not in ("picture", "plan"):
        return run(args, None, date(2026, 11, 24), at_work)
    at_work()
    try:
        {"picture": read_picture, "plan": read_plan}[args[0]](Path(args[1]))
    except Trouble as error:
        print(f"fondale: {error}", file=sys.stderr)
        return 2
    return 0

for line in sys.stdin:
    args, home, out, err, most = json.loads(line)
    child = os.fork()
    if child == 0:
        code = 1
        try:
            for number, name in ((0, os.devnull), (1, out), (2, err)):
                os.dup2(os.open(name, os.O_RDWR), number)
            if home:
                os.environ["FONDALE_HOME"] = home
            resource.setrlimit(resource.RLIMIT_CPU, (most, most + 1))
            code = meet(args)
        except BaseException:
            traceback.print_exc()
        finally:
            sys.stdout.flush()
            sys.stderr.flush()
            os._exit(code)
    _child, status, used = os.wait4(child, 0)
    print(json.dumps([os.waitstatus_to_exitcode(status), used.ru_utime + used.ru_stime, used.ru_maxrss * 1024]), flush=True)
"""


class Meeting:
    """Lets hostile files be read, each in a process of its own."""

    def __enter__(self) -> Self:
        self._server = subprocess.Popen([sys.executable, "-c", SERVER], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        return self

    def __exit__(self, *_what: object) -> None:
        self._server.communicate()

    def meet(self, case: Case) -> Met:
        """How one is met."""
        assert self._server.stdin is not None
        assert self._server.stdout is not None
        with tempfile.NamedTemporaryFile() as said, tempfile.NamedTemporaryFile() as told:
            self._server.stdin.write(json.dumps([case.args, case.home, told.name, said.name, round(4 * MOST_S)]) + "\n")
            self._server.stdin.flush()
            code, seconds, most = json.loads(self._server.stdout.readline())
            err, out = (Path(f.name).read_bytes()[-600:].decode("utf-8", "replace") for f in (said, told))
        return Met(case, code, err, seconds, most, out)


def cases(folder: Path, project: Project, seed: int, small: bool) -> Iterator[Case]:
    """Files of all kinds; ``small`` ones are made and met in a moment."""
    rng = np.random.default_rng(seed)
    for make in (
        _projects,
        _wrong_values,
        _old_and_odd,
        _threemf,
        _glb,
        _stl,
        _obj_and_ply,
        _pictures,
        _tables,
        _plans,
        _no_files,
        _damaged,
    ):
        yield from make(folder, project, rng, small)


def _zip(path: Path, parts: dict[str, bytes | str], how: int = zipfile.ZIP_DEFLATED) -> Path:
    with zipfile.ZipFile(path, "w", how) as archive:
        for name, data in parts.items():
            archive.writestr(name, data)
    return path


def _projects(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """Zip bombs and packings that are none."""
    size = 80_000_000 if small else 900_000_000
    bomb = _zip(folder / "bomb.fondale", {"project.json": b" " * size})
    asset = folder / "asset.fondale"
    _zip(asset, {"project.json": to_json(project), "assets/photos/zero.png": bytes(size if small else 600_000_000)})
    many = {f"assets/more/{k}": b"" for k in range(6000)}
    crowd = _zip(folder / "crowd.fondale", {"project.json": to_json(project), **many}, zipfile.ZIP_STORED)
    twice = folder / "twice.fondale"
    with zipfile.ZipFile(twice, "w") as archive:
        archive.writestr("project.json", to_json(project))
        archive.writestr("project.json ", "{}")
    zeros = folder / "zeros.fondale"
    _zip(
        zeros,
        {
            "project.json": to_json(project),
            **{f"assets/prints/zero-{k}.stl": bytes(size if small else 470_000_000) for k in range(1 if small else 4)},
        },
    )
    for path, good in ((bomb, False), (asset, False), (zeros, False), (crowd, False), (twice, True)):
        yield Case("zip bomb", path, ("circuit", str(path)), good)


def _wrong_values(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """A million wrong elements, one id for all, nests, numbers beyond range."""
    raw = json.loads(to_json(project))
    count = 20_000 if small else 1_000_000
    wrong = {**raw, "pieces": [{"id": 3, "x": []}] * count}
    bit = {"id": "b", "name": "b", "sizes": [1, 2, 3]}
    doubles = {**raw, "bits": [bit] * (5_000 if small else 49_000)}
    piece = raw["pieces"][0]
    crowd = {**raw, "pieces": [{**piece, "id": f"p-{k}"} for k in range(1_000 if small else 49_999)]}
    lean = {**raw, "bits": [{"id": f"b-{k}", "name": "b", "sizes": [1]} for k in range(1_000 if small else 49_999)]}
    brackets = json.dumps({**raw, "more": []}).replace(
        '"more": []', '"more": [' + ",".join(["[" + "{}," * 999 + "{}]"] * (1_100 if small else 21_000)) + "]"
    )
    deep: object = 1
    for _ in range(900):
        deep = [deep]
    texts = {
        "wrong": json.dumps(wrong), "doubles": json.dumps(doubles), "deep": json.dumps({**raw, "weather": deep}),
        "digits": json.dumps({**raw, "cap": 1}).replace('"cap": 1', '"cap": ' + "9" * 5000), "list": "[" + "0," * count + "0]",
        "names": json.dumps({**raw, "name": "x" * 3_000_000}), "crowd": json.dumps(crowd), "lean": json.dumps(lean), "brackets": brackets,
        "blanks": json.dumps({**raw, "more": 1}).replace('"more": 1', '"more": 1' + " " * (1_000_000 if small else 62_000_000)),
    }  # fmt: skip
    for name, text in texts.items():
        path = _zip(folder / f"{name}.fondale", {"project.json": text})
        yield Case(
            "wrong values", path, ("circuit", str(path)), name in ("doubles", "digits", "lean") or (small and name in ("crowd", "blanks"))
        )


def _old_and_odd(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """Older versions whose parts are of other kinds than they were ever written, and names that steer a terminal."""
    raw = json.loads(to_json(project))
    others: tuple[object, ...] = (None, 7, "x", [1], {"lip": []}, [{"lip": 1}], True)
    for version in (0, 1, 2, 3, 4, 5, 6):
        for part in ("case", "pieces", "steps", "brief", "tonight") if not small else ("case",):
            for k, other in enumerate(others if not small else others[3:4]):
                path = _zip(
                    folder / f"odd-{version}-{part}-{k}.fondale",
                    {"project.json": json.dumps({**raw, "schema_version": version, part: other})},
                )
                yield Case("old and odd", path, ("circuit", str(path)), True)
    for spot in ("name", "supply", "key", "file"):
        odd = json.loads(to_json(project))
        name = f"a{ESCAPE}b"
        if spot == "name":
            odd["name"] = name
        elif spot == "supply":
            for supply in odd["supplies"]:
                supply["name"] = name
        elif spot == "key":
            odd["brief"][name] = {name: 1}
            odd["pieces"][0][name] = odd["pieces"][0]["shape"][name] = name
            odd["case"] = {**odd["case"], "width": name}
        path = _zip(
            folder / (f"steers-{name}.fondale" if spot == "file" else f"steers-{spot}.fondale"),
            {"project.json": json.dumps(odd) if spot != "file" else "{}"},
        )
        yield Case("steering a terminal", path, ("circuit", str(path)), spot in ("name", "supply"))


def _model(unit: str, resources: str, build: str) -> str:
    space = 'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"'
    return f'<?xml version="1.0"?><model unit="{unit}" {space}><resources>{resources}</resources><build>{build}</build></model>'


def _tetra(ident: int) -> str:
    points = "".join(f'<vertex x="{x}" y="{y}" z="{z}"/>' for x, y, z in ((0, 0, 0), (9, 0, 0), (0, 9, 0), (0, 0, 9)))
    faces = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in ((0, 2, 1), (0, 1, 3), (0, 3, 2), (1, 2, 3)))
    return f'<object id="{ident}" type="model"><mesh><vertices>{points}</vertices><triangles>{faces}</triangles></mesh></object>'


def _threemf(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """Bombs, instances of instances, circles, units."""
    item = '<item objectid="{}"/>'
    nested = _tetra(1)
    for k in range(2, 14):
        nested += (
            f'<object id="{k}" type="model"><components>{f"<component objectid={chr(34)}{k - 1}{chr(34)}/>" * 10}</components></object>'
        )
    circle = '<object id="1" type="model"><components><component objectid="1"/></components></object>'
    laugh = "<!DOCTYPE x [<!ENTITY a 'ha'>" + "".join(f"<!ENTITY a{k} '{f'&a{k - 1 if k else str()};' * 10}'>" for k in range(9)) + "]>"
    texts = {
        "nested": (_model("millimeter", nested, item.format(13)), False), "circle": (_model("millimeter", circle, item.format(1)), False),
        "feet": (_model("foot", _tetra(1), item.format(1)), True), "micron": (_model("micron", _tetra(1), item.format(1)), True),
        "cubit": (_model("cubit", _tetra(1), item.format(1)), False), "nan": (_model("millimeter", _tetra(1).replace('x="9"', 'x="NaN"'), item.format(1)), False),
        "blank": (" " * (30_000_000 if small else 900_000_000), False),
        "many": (_model("millimeter", _tetra(1), item.format(1) * (1_000 if small else 2_000_000)), small),
        "empties": (_model("millimeter", "<m/>" * (300_000 if small else 45_000_000) + _tetra(1), item.format(1)), True),
        "holders": (_model("millimeter", f'<object id="9">{"<mesh/>" * (200_000 if small else 20_000_000)}</object>' + _tetra(1), item.format(1)), True),
        "laugh": (laugh + _model("millimeter", _tetra(1), item.format(1)), True),
    }  # fmt: skip
    for name, (text, good) in texts.items():
        path = _zip(folder / f"{name}.3mf", {"_rels/.rels": RELS, MODEL: text})
        yield Case("3MF", path, ("mesh", str(path)), good)


def glb(head: dict[str, object], body: bytes = b"") -> bytes:
    """A GLB of a JSON head and a body."""
    text = json.dumps(head).encode()
    text += b" " * (-len(text) % 4)
    body += b"\0" * (-len(body) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(body), b"BIN\0") + body
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def _glb(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """Counts that are not there, instances of instances, circles."""
    body = (
        np.array([(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1)], np.float32).tobytes()
        + np.array([0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3], np.uint16).tobytes()
    )
    views = [{"buffer": 0, "byteOffset": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": 24}]
    access = [
        {"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3"},
        {"bufferView": 1, "componentType": 5123, "count": 12, "type": "SCALAR"},
    ]
    base = {
        "asset": {"version": "2.0"}, "buffers": [{"byteLength": len(body)}], "bufferViews": views, "accessors": access,
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
    }  # fmt: skip
    count = 1_000 if small else 400_000
    crowd = {**base, "nodes": [{"mesh": 0}] * count, "scenes": [{"nodes": list(range(count))}], "scene": 0}
    tree = [{"mesh": 0}, *({"children": [k - 1] * 10} for k in range(1, 12))]
    nested = {**base, "nodes": tree, "scenes": [{"nodes": [11]}], "scene": 0}
    circle = {**base, "nodes": [{"children": [0], "mesh": 0}], "scenes": [{"nodes": [0]}], "scene": 0}
    huge = {**base, "accessors": [{**access[0], "count": 2_000_000_000}, access[1]], "nodes": [{"mesh": 0}], "scenes": [{"nodes": [0]}]}
    lost = {**base, "meshes": [{"primitives": [{"attributes": {"POSITION": 7}}]}], "nodes": [{"mesh": 0}], "scenes": [{"nodes": [0]}]}
    one = {**base, "nodes": [{"mesh": 0}], "scenes": [{"nodes": [0]}], "scene": 0}
    side = 1_000 if small else 20_000
    pixels = io.BytesIO()
    Image.new("1", (side, side)).save(pixels, "PNG")
    drawn = body + pixels.getvalue()
    views_too = [*views, {"buffer": 0, "byteOffset": 72, "byteLength": len(pixels.getvalue())}]
    textured = {
        **one, "buffers": [{"byteLength": len(drawn)}], "bufferViews": views_too, "images": [{"bufferView": 2, "mimeType": "image/png"}] * 8,
        "textures": [{"source": k} for k in range(8)], "materials": [{"pbrMetallicRoughness": {"baseColorTexture": {"index": k}}} for k in range(8)],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1, "material": k} for k in range(8)]}],
    }  # fmt: skip
    headed = {**one, "extras": [[0] * 1_000] * (1_000 if small else 30_000)}
    nan = np.frombuffer(body, np.uint8).copy()
    nan[0:4] = np.frombuffer(np.array([np.nan], np.float32).tobytes(), np.uint8)
    for name, head, data, good in (
        ("crowd", crowd, body, small), ("nested", nested, body, False), ("circle", circle, body, False), ("huge", huge, body, False),
        ("lost", lost, body, False), ("one", one, body, True), ("nan", one, nan.tobytes(), False), ("textured", textured, drawn, True), ("headed", headed, body, small),
    ):  # fmt: skip
        path = folder / f"{name}.glb"
        path.write_bytes(glb(head, data))
        yield Case("GLB", path, ("mesh", str(path)), good)
    path = folder / "length.glb"
    path.write_bytes(struct.pack("<4sII", b"glTF", 2, 2**31) + struct.pack("<I4s", 2**31, b"JSON") + b"{}")
    yield Case("GLB", path, ("mesh", str(path)))


def _stl(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """Cut off, lying counts, points that are no numbers, endless words."""
    record = np.zeros(200, np.dtype([("n", "<f4", 3), ("c", "<f4", (3, 3)), ("a", "<u2")]))
    record["c"] = rng.normal(size=(200, 3, 3))
    whole = b"x" * 80 + struct.pack("<I", 200) + record.tobytes()
    bad = record.copy()
    bad["c"][7] = np.nan
    facet = "facet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex nan 1 0\nendloop\nendfacet\n"
    for name, data in (
        ("cut", whole[:-777]), ("lies", whole[:80] + struct.pack("<I", 2**31) + whole[84:]), ("nan", whole[:84] + bad.tobytes()),
        ("words", b"solid x\n" + b"vertex " * (100_000 if small else 12_000_000)), ("nothing", b""), ("head", whole[:84]),
        ("asciinan", f"solid x\n{facet}endsolid x\n".encode()),
    ):  # fmt: skip
        path = folder / f"{name}.stl"
        path.write_bytes(data)
        yield Case("STL", path, ("mesh", str(path), "--unit", "mm"))
    if not small:
        for name, count in (("most", 5_000_000), ("more", 10_100_000)):
            path = folder / f"{name}.stl"
            path.write_bytes(_grid_stl(count))
            yield Case("STL", path, ("mesh", str(path), "--unit", "mm"), name == "most")


def _grid_stl(count: int) -> bytes:
    """A hilly sheet of so many triangles as binary STL."""
    side = int((count / 2) ** 0.5)
    x, y = np.meshgrid(np.arange(side + 1, dtype=np.float32), np.arange(side + 1, dtype=np.float32))
    points = np.stack([x, y, np.sin(x / 9) * np.cos(y / 7) * 20], -1).astype(np.float32)
    a, b, c, d = points[:-1, :-1], points[:-1, 1:], points[1:, 1:], points[1:, :-1]
    record = np.zeros(2 * side * side, np.dtype([("n", "<f4", 3), ("c", "<f4", (3, 3)), ("a", "<u2")]))
    record["c"] = np.concatenate([np.stack([a, b, c], 2).reshape(-1, 3, 3), np.stack([a, c, d], 2).reshape(-1, 3, 3)])
    return b"grid".ljust(80) + struct.pack("<I", len(record)) + record.tobytes()


def _scans(side: int, count: int) -> bytes:
    """A progressive JPEG whose last round is drawn again and again."""
    out = io.BytesIO()
    Image.effect_noise((side, side), 60).convert("RGB").save(out, "JPEG", progressive=True, quality=20)
    data = out.getvalue()
    last = data.rfind(b"\xff\xda")
    return data[:last] + data[last:-2][:400] * count + b"\xff\xd9"


def _obj_and_ply(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """Faces of points that are not there, counts that are not there."""
    count = 20_000 if small else 1_500_000
    head = "ply\nformat binary_little_endian 1.0\nelement vertex 2000000000\nproperty float x\nproperty float y\nproperty float z\n"
    faces = "element face 1\nproperty list uchar int vertex_indices\nend_header\n"
    points = "".join(f"v {x} {y} {z}\n" for x, y, z in ((0, 0, 0), (1, 0, 0), (0, 1, 0)))
    for name, data in (
        ("far.obj", f"{points}{'f 1 2 999999999' + chr(10)}".encode()), ("nan.obj", b"v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"),
        ("many.obj", (points + "f 1 2 3\n" * count).encode()), ("words.obj", b"v 1 2\n" * count), ("huge.ply", (head + faces).encode() + b"\0" * 99),
        ("nan.ply", b"ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\n"
         b"property list uchar int vertex_indices\nend_header\nnan 0 0\n1 0 0\n0 1 0\n3 0 1 2\n"),
    ):  # fmt: skip
        path = folder / name
        path.write_bytes(data)
        yield Case("OBJ and PLY", path, ("mesh", str(path), "--unit", "mm"), name == "many.obj")


def _pictures(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """20,000 x 20,000 pixels, and heads without a body."""
    out = io.BytesIO()
    side = 2_000 if small else 20_000
    Image.new("1", (side, side)).save(out, "PNG")
    head = Image.new("RGB", (8, 8))
    small_one = io.BytesIO()
    head.save(small_one, "PNG")
    lies = bytearray(small_one.getvalue())
    lies[16:24] = struct.pack(">II", 60_000, 60_000)
    for name, data in (
        ("large.png", out.getvalue()),
        ("lies.png", bytes(lies)),
        ("cut.jpg", small_one.getvalue()[:40]),
        ("none.tif", b"II*\0" + b"\xff" * 64),
        ("scans.jpg", _scans(200 if small else 4_000, 120 if small else 3_000)),
        ("wide.webp", _saved(Image.new("RGB", (16_000, 50) if small else (16_383, 9_000)), "WEBP")),
        ("wide.png", _saved(Image.new("RGBA", (500, 500) if small else (14_900, 10_000)), "PNG")),
        ("wide.tif", _saved(Image.new("CMYK", (500, 500) if small else (14_900, 10_000)), "TIFF", compression="tiff_lzw")),
        ("deep.png", _saved(Image.new("I;16", (500, 500) if small else (14_900, 10_000)), "PNG")),
        ("rounds.jpg", _saved(Image.new("RGB", (500, 500) if small else (9_900, 10_000)), "JPEG", progressive=True)),
        ("text.png", _png_text(60_000_000 if not small else 3_000_000)),
    ):
        path = folder / name
        path.write_bytes(data)
        yield Case(
            "photograph",
            path,
            ("picture", str(path)),
            name not in ("lies.png", "cut.jpg", "none.tif", "scans.jpg") and (small or name != "large.png"),
        )


def _saved(image: Image.Image, kind: str, **more: object) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


def _png_text(size: int) -> bytes:
    """A small PNG with a text in it that unfolds to so many bytes."""
    whole = _saved(Image.new("RGB", (8, 8)), "PNG")
    body = b"zTXt" + b"a\0\0" + zlib.compress(bytes(size))
    chunk = struct.pack(">I", len(body) - 4) + body + struct.pack(">I", zlib.crc32(body))
    return whole[:33] + chunk + whole[33:]


def _plans(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """Floor plans: blocks of blocks, lines without end, groups in groups, a laugh."""
    space = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="100mm" height="100mm">'
    uses = "".join(f'<g id="g{k}">{f"<use xlink:href={chr(34)}#g{k - 1}{chr(34)}/>" * 10}</g>' for k in range(1, 9 if not small else 4))
    laugh = "<!DOCTYPE x [<!ENTITY a 'ha'>" + "".join(f"<!ENTITY a{k} '{f'&a{k - 1 if k else str()};' * 10}'>" for k in range(9)) + "]>"
    blocks = "".join(
        f"0\nBLOCK\n8\n0\n2\nB{k}\n70\n0\n10\n0\n20\n0\n30\n0\n3\nB{k}\n"
        + (f"0\nINSERT\n8\n0\n2\nB{k - 1}\n10\n1\n20\n1\n30\n0\n" * 10 if k else "0\nLINE\n8\n0\n10\n0\n20\n0\n11\n9\n21\n9\n")
        + "0\nENDBLK\n8\n0\n"
        for k in range(9)
    )
    texts = {
        "uses.svg": f'{space}<defs><g id="g0"><path d="M0 0L9 9"/></g>{uses}</defs><use xlink:href="#g{8 if not small else 3}"/></svg>',
        "laugh.svg": laugh + space + "<text>&a8;</text><path d='M0 0L9 9'/></svg>",
        "long.svg": space + '<path d="M0 0' + "L9 9L1 2" * (5_000 if small else 1_000_000) + '"/></svg>',
        "deep.svg": space + "<g>" * (500 if small else 200_000) + '<path d="M0 0L9 9"/>',
        "blocks.dxf": f"0\nSECTION\n2\nBLOCKS\n{blocks}0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\nINSERT\n8\n0\n2\nB8\n10\n0\n20\n0\n30\n0\n0\nENDSEC\n0\nEOF\n",
        "many.dxf": "0\nSECTION\n2\nENTITIES\n" + "0\nINSERT\n8\n0\n2\nX\n10\n0\n20\n0\n70\n30000\n71\n30000\n" * 3 + "0\nENDSEC\n0\nEOF\n",
        "words.dxf": "0\n" * (10_000 if small else 9_000_000),
    }  # fmt: skip
    for name, text in texts.items():
        path = folder / name
        path.write_text(text)
        yield Case("floor plan", path, ("plan", str(path)), True)


def _tables(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """50,000 rows of one name, one endless cell, and what is no table."""
    rows = 5_000 if small else 50_000
    for name, text, good in (
        ("rows.csv", "name,size 1\n" + "drum,3\n" * rows, True), ("cell.csv", "name,size 1\n" + "x" * (200_000 if small else 60_000_000), False),
        ("quotes.csv", 'name,size 1\n"' + "a\n" * (10_000 if small else 3_000_000), False), ("wrong.csv", "name,size 1\n" + "drum,much\n" * rows, True),
        ("nothing.csv", "", False),
    ):  # fmt: skip
        path = folder / name
        path.write_text(text)
        yield Case("table", path, ("bits", str(path), "drum, 300 mm across, 420 long, at 1:35"), good)


def _no_files(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """Pipes, devices, folders, circles of links, settings that are none."""
    for ending, command in ((".fondale", "check"), (".stl", "mesh"), (".csv", "bits"), (".png", "picture")):
        pipe, loop, inside = folder / f"pipe{ending}", folder / f"loop{ending}", folder / f"folder{ending}"
        zero = folder / f"zero{ending}"
        os.mkfifo(pipe)
        loop.symlink_to(loop)
        inside.mkdir()
        zero.symlink_to("/dev/zero")
        for path in (pipe, loop, inside, zero):
            yield Case("no file", path, (command, str(path), *(("drum",) if command == "bits" else ())))
    for name, text in (("deep", "[" * 200_000), ("large", " " * 5_000_000), ("list", "[1, 2]")):
        home = folder / f"home-{name}"
        home.mkdir()
        (home / "settings.json").write_text(text)
        path = _zip(folder / f"home-{name}.fondale", {"project.json": to_json(project)})
        yield Case("settings", path, ("circuit", str(path)), True, str(home))


def _damaged(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """Good files, those of the samples among them, with some bytes turned, moved, doubled or cut; and projects with some words of theirs changed."""
    text = to_json(project)
    good = {
        "p.fondale": _zip(folder / "good.fondale", {"project.json": text}).read_bytes(), "p.jpg": _saved(Image.new("RGB", (40, 30), (9, 99, 199)), "JPEG"),
        "p.obj": b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n" * 20, "p.stl": _grid_stl(200), "p.glb": write_scene(project, ".glb")[".glb"] if not small else b"",
        "p.csv": b"name,size 1,material\ndrum,3,resin\ntub,4 in,wood\n", "p.png": _saved(Image.effect_noise((60, 40), 80), "PNG"),
        "p.tif": _saved(Image.effect_noise((60, 40), 80), "TIFF", compression="tiff_lzw"), "p.webp": _saved(Image.effect_noise((60, 40), 80), "WEBP"),
        "p.3mf": _zip(folder / "good.3mf", {"_rels/.rels": RELS, MODEL: _model("millimeter", _tetra(1), '<item objectid="1"/>')}).read_bytes(),
    }  # fmt: skip
    good = {name: data for name, data in good.items() if data}
    commands = {".fondale": ("circuit",), ".csv": ("bits",), **dict.fromkeys((".jpg", ".png", ".tif", ".webp"), ("picture",))}
    for k in range(2 * len(good) if small else 330):
        name = list(good)[k % len(good)]
        if name == "p.fondale" and k % 2:
            raw = bytearray(_zip(folder / "words.fondale", {"project.json": _mangled(text, rng)}).read_bytes())
        else:
            raw = _mutated(bytearray(good[name]), rng)
        path = folder / f"damaged-{k}-{name}"
        path.write_bytes(bytes(raw))
        more = {".obj": ("--unit", "mm"), ".stl": ("--unit", "mm"), ".csv": ("drum, 300 mm across, 420 long, at 1:35",)}
        yield Case("damaged", path, (*commands.get(path.suffix, ("mesh",)), str(path), *more.get(path.suffix, ())), True)


def _mutated(raw: bytearray, rng: np.random.Generator) -> bytearray:
    for _ in range(int(rng.integers(1, 8))):
        at = int(rng.integers(len(raw)))
        way = int(rng.integers(4))
        if way == 0:
            raw[at] = int(rng.integers(256))
        elif way == 1:
            raw[at : at + 4] = raw[-at - 4 : -at] or b"\xff\xff\xff\xff"
        elif way == 2:
            raw[at:at] = raw[at : at + 64]
        else:
            raw[at : at + 4] = b"\xff\xff\xff\x7f"
    return raw[: int(rng.integers(1, len(raw) + 1))] if rng.random() < 0.3 else raw


def _mangled(text: str, rng: np.random.Generator) -> str:
    """JSON with some of its values others."""
    raw = json.loads(text)
    others: tuple[object, ...] = (None, -1, 1e300, "", "x" * 300, [], {}, True, [[1]], {"id": "x"})
    for _ in range(int(rng.integers(1, 6))):
        spot: Any = raw
        while True:
            keys = list(spot) if isinstance(spot, dict) else range(len(spot))
            if not keys:
                break
            key = keys[int(rng.integers(len(keys)))]
            if isinstance(spot[key], dict | list) and spot[key] and rng.random() < 0.8:
                spot = spot[key]
                continue
            spot[key] = others[int(rng.integers(len(others)))]
            break
    return json.dumps(raw)
