# SPDX-License-Identifier: MIT
"""A piece of 120 steps: twelve printed parts on two printers, each painted with up to six coats."""

from datetime import date

import numpy as np

from fondale.core.edits import apply, new_project
from fondale.core.edits.printing import HandOver
from fondale.core.model import Machine, Piece, PrintFile, Project, Setup, Step, Surface
from fondale.core.model.shapes import Mesh

STEPS, FILES = 120, 12
COATS = (
    ("primer_spray", "spray can"), ("acrylic", "airbrush"), ("acrylic", "airbrush"), ("gloss", "airbrush"), ("oil", "brush"),
    ("enamel_wash", "brush"), ("pigment", "brush"),
)  # fmt: skip
SKIN = {"points": ((0, 0, 0), (0.5, 0, 0), (0, 0.5, 1)), "faces": ((0, 1, 2),)}


def large_order(today: date, seed: int = 1, setups: bool = True) -> Project:
    """Uneven evenings, half the parts of resin, half of filament; ``setups``: airbrush and spray can take their minutes."""
    rng = np.random.default_rng(seed)
    project = new_project("Large", today)
    files, pieces, surfaces = [], [], []
    for k in range(FILES):
        high, volume = float(rng.integers(20, 100)), float(rng.integers(4000, 30000))
        files.append(
            PrintFile(
                id=f"f{k}", name=f"File {k}", asset="assets/f.stl", size=(30, 30, high), volume=volume, area=6000, centre=(5, 5, 5), triangles=12,
                machine=f"m{k % 2}",
            )
        )  # fmt: skip
        pieces.append(Piece(id=f"p{k}", name=f"Piece {k}", shape=Mesh(file=f"f{k}", width=30, depth=30, height=high, **SKIN)))
        surfaces.append(Surface(id=f"s{k}", name=f"Surface {k}", piece=f"p{k}"))
    machines = (Machine(id="m0", name="Resin", row="resin_small"), Machine(id="m1", name="Filament", row="filament_small"))
    brief = project.brief.but(machines=machines, evenings=(90, 60, 90, 120, 0, 180, 90), deadline=date(today.year + 1, 3, 1))
    if not setups:
        brief = brief.but(airbrush=Setup(), spray_can=Setup())
    project = project.but(brief=brief, prints=tuple(files), pieces=tuple(pieces), surfaces=tuple(surfaces))
    project = apply(project, *(HandOver("Hand over", f.id) for f in files))
    steps = list(project.steps)
    for coat, tool in COATS:
        for k in range(FILES):
            if len(steps) < STEPS:
                m = float(rng.integers(8, 40))
                steps.append(
                    Step(
                        id=f"{coat}-{len(steps)}", name=f"{coat} {k}", coat=coat, surfaces=(f"s{k}",), minutes=(m * 0.7, m, m * 1.8), tool=tool  # type: ignore[arg-type]
                    )
                )  # fmt: skip
    return project.but(steps=tuple(steps))
