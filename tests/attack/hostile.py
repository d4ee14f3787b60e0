"""Hostile and odd files of ten kinds, made by a generator: each is to be met with one clear line, within 1 GB and 20 s."""

import io
import json
import os
import struct
import subprocess
import sys
import tempfile
import time
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from fondale.core.model import Project
from fondale.storage.files import to_json

MOST_BYTES, MOST_S = 1_000_000_000, 20.0
MODEL = "3D/3dmodel.model"


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
    """How a file was met: the exit code, what was said, the seconds and the most bytes in memory."""

    case: Case
    code: int
    said: str
    seconds: float
    bytes: int

    @property
    def fine(self) -> bool:
        """One clear line and exit 2, or read where that is right, within the bounds."""
        lines = self.said.strip().splitlines()
        clear = self.code == 2 and len(lines) == 1 and lines[0].startswith("fondale: ") and "Traceback" not in self.said
        return (clear or (self.case.good and self.code in (0, 1))) and self.seconds <= MOST_S and self.bytes <= MOST_BYTES


PICTURE = """
import sys
from pathlib import Path
from fondale.storage.patience import bound_memory
from fondale.storage.photos import PhotoTrouble, read_picture
bound_memory()
try:
    read_picture(Path(sys.argv[1]))
except PhotoTrouble as error:
    print(f"fondale: {error}", file=sys.stderr)
    sys.exit(2)
"""


# A small process in between: the system counts the size of whoever starts a process as the process's own.
LAUNCH = """
import resource, subprocess, sys
try:
    code = subprocess.run(sys.argv[3:], timeout=float(sys.argv[2])).returncode
except subprocess.TimeoutExpired:
    code = 124
with open(sys.argv[1], "w") as file:
    file.write(str(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss * 1024))
sys.exit(code if code >= 0 else 128 - code)
"""


def meet(case: Case) -> Met:
    """Let the command read the file, in a process of its own."""
    env = {**os.environ, **({"FONDALE_HOME": case.home} if case.home else {})}
    command = ["-c", PICTURE, *case.args[1:]] if case.args[0] == "picture" else ["-m", "fondale", *case.args]
    since = time.monotonic()
    with tempfile.NamedTemporaryFile() as said, tempfile.NamedTemporaryFile() as peak:
        args = [sys.executable, "-S", "-E", "-c", LAUNCH, peak.name, str(3 * MOST_S), sys.executable, *command]
        quiet = subprocess.DEVNULL
        code = subprocess.run(args, stdin=quiet, stdout=quiet, stderr=said, env=env, check=False).returncode
        words = Path(said.name).read_bytes()[-600:].decode("utf-8", "replace")
        most = int(Path(peak.name).read_text() or 0)
    return Met(case, code, words, time.monotonic() - since, most)


def cases(folder: Path, project: Project, seed: int, small: bool) -> Iterator[Case]:
    """Files of all kinds; ``small`` ones are made and met in a moment."""
    rng = np.random.default_rng(seed)
    for make in (_projects, _wrong_values, _threemf, _glb, _stl, _obj_and_ply, _pictures, _tables, _no_files, _damaged):
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
    for path, good in ((bomb, False), (asset, small), (crowd, False), (twice, True)):
        yield Case("zip bomb", path, ("check" if not good else "circuit", str(path)), good)


def _wrong_values(folder: Path, project: Project, rng: np.random.Generator, small: bool) -> Iterator[Case]:
    """A million wrong elements, one id for all, nests, numbers beyond range."""
    raw = json.loads(to_json(project))
    count = 20_000 if small else 1_000_000
    wrong = {**raw, "pieces": [{"id": 3, "x": []}] * count}
    bit = {"id": "b", "name": "b", "sizes": [1, 2, 3]}
    doubles = {**raw, "bits": [bit] * (5_000 if small else 49_000)}
    deep: object = 1
    for _ in range(900):
        deep = [deep]
    texts = {
        "wrong": json.dumps(wrong), "doubles": json.dumps(doubles), "deep": json.dumps({**raw, "weather": deep}),
        "digits": json.dumps({**raw, "cap": 1}).replace('"cap": 1', '"cap": ' + "9" * 5000), "list": "[" + "0," * count + "0]",
        "names": json.dumps({**raw, "name": "x" * 3_000_000}),
    }  # fmt: skip
    for name, text in texts.items():
        path = _zip(folder / f"{name}.fondale", {"project.json": text})
        yield Case("wrong values", path, ("circuit", str(path)), name in ("doubles", "digits"))


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
        "laugh": (laugh + _model("millimeter", _tetra(1), item.format(1)), True),
    }  # fmt: skip
    rels = (
        '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r" '
        'Target="/3D/3dmodel.model" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
    )
    for name, (text, good) in texts.items():
        path = _zip(folder / f"{name}.3mf", {"_rels/.rels": rels, MODEL: text})
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
    nan = np.frombuffer(body, np.uint8).copy()
    nan[0:4] = np.frombuffer(np.array([np.nan], np.float32).tobytes(), np.uint8)
    for name, head, data, good in (
        ("crowd", crowd, body, small), ("nested", nested, body, False), ("circle", circle, body, False), ("huge", huge, body, False),
        ("lost", lost, body, False), ("one", one, body, True), ("nan", one, nan.tobytes(), False),
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
    ):
        path = folder / name
        path.write_bytes(data)
        yield Case("photograph", path, ("picture", str(path)), name == "large.png" and small)


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
    """Good files with some bytes turned, or cut."""
    good = {"p.fondale": _zip(folder / "good.fondale", {"project.json": to_json(project)}).read_bytes()}
    square = io.BytesIO()
    Image.new("RGB", (40, 30), (9, 99, 199)).save(square, "JPEG")
    good["p.jpg"] = square.getvalue()
    good["p.obj"] = b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n" * 20
    commands = {".fondale": ("circuit",), ".jpg": ("picture",), ".obj": ("mesh",)}
    for k in range(6 if small else 240):
        name = list(good)[k % len(good)]
        raw = bytearray(good[name])
        for _ in range(int(rng.integers(1, 8))):
            raw[int(rng.integers(len(raw)))] = int(rng.integers(256))
        path = folder / f"damaged-{k}-{name}"
        path.write_bytes(bytes(raw[: int(rng.integers(1, len(raw) + 1))]) if rng.random() < 0.5 else bytes(raw))
        more = ("--unit", "mm") if path.suffix == ".obj" else ()
        yield Case("damaged", path, (*commands[path.suffix], str(path), *more), True)
