# SPDX-License-Identifier: MIT
"""Writes the demo's bodies and its photograph anew: run it after a change of fondale.demo.bodies or fondale.demo.landing_photo."""

import io
import json
from dataclasses import asdict
from pathlib import Path

from PIL import Image

import fondale.demo
from fondale.core.prints.body import measure, skin
from fondale.demo.bodies import BODIES
from fondale.demo.landing_photo import photograph
from fondale.storage.meshes import write_stl

if __name__ == "__main__":
    folder = Path(fondale.demo.__file__).parent / "assets"
    folder.mkdir(parents=True, exist_ok=True)
    measured = {}
    for name, make in BODIES.items():
        body = make()
        (folder / name).write_bytes(write_stl(body))
        measured[name] = {"facts": asdict(measure(body)), "skin": skin(body)}
    (folder / "bodies.json").write_text(json.dumps(measured), "utf-8")
    Image.open(io.BytesIO(photograph()[0])).save(folder / "landing.jpg", quality=88)
