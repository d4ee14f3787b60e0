# SPDX-License-Identifier: MIT
"""*Signal hut in the pass*: 1:72, an open base in winter, many figures in a batch."""

from datetime import date, timedelta

from fondale.core.edits import new_project
from fondale.core.model import (
    LAMPS,
    METERS,
    PIECES,
    PROJECT,
    SEATS,
    STEPS,
    STRINGS,
    SUPPLIES,
    SURFACES,
    Boards,
    Brief,
    Case,
    Lamp,
    Measure,
    Meter,
    Piece,
    Place,
    Project,
    Seat,
    Step,
    String,
    Supply,
    Surface,
)
from fondale.core.model.shapes import Box, Figure, Opening, Room
from fondale.demo.building import Builder

SNOW, WOOD = (0.80, 0.82, 0.85), (0.22, 0.15, 0.10)


def signal_hut(today: date) -> Project:
    """The third sample."""
    build = Builder(new_project("Signal hut in the pass", today))
    build.set(PROJECT.then(lambda p: p.brief), Brief(
            occasion="Club table", start=today, deadline=today + timedelta(days=40), evenings=(90, 0, 90, 0, 0, 150, 0),
            cap=80.0, house_n=72.0, shelf_height_mm=950.0, bench_c=18.0, bench_rh=50.0,
        ))  # fmt: skip
    build.set(
        PROJECT.then(lambda p: p.case),
        Case(kind="open base", width=320, depth=220, height=160, boards=Boards(fingers=18.0), floor_paint=SNOW),
    )
    build.clear(SEATS)
    build.add(SEATS, Seat(id="table", name="the table’s edge", distance=500, range=500))
    build.add(
        PIECES,
        Piece(id="rock", name="Rock ledge", shape=Box(width=130, depth=90, height=18), role="scenery", place=Place(x=220, y=150, z=0), paint=(0.45, 0.46, 0.50)),
        Piece(id="hut", name="Signal hut", shape=Room(width=56, depth=40, height=44, openings=(Opening(x=8, z=16, width=16, height=14), Opening(x=34, z=0, width=13, height=29))), role="scenery", place=Place(x=228, y=156), paint=WOOD, cost=6.0),
    )  # fmt: skip
    poses = ("standing", "walking", "crouching", "kneeling_one", "leaning", "standing", "walking", "sitting_ground")
    heights = (24.3, 23.6, 15.0, 18.4, 22.7, 24.6, 23.9, 13.0)
    for k, (pose, mm) in enumerate(zip(poses, heights, strict=True)):
        person = Figure(pose=pose, extras=("coat",) if pose in ("standing", "walking") else ())
        build.add(
            PIECES,
            Piece(id=f"figure-{k + 1}", name=f"Figure {k + 1}", shape=person, origin="bought", claim="1:72", measure=Measure(mm=mm), place=Place(x=32 + 26 * (k % 5), y=46 + 46 * (k // 5), turn_deg=-30 + 17 * k), paint=(0.30, 0.33, 0.30), cost=0.8),
        )  # fmt: skip
    build.add(SUPPLIES, Supply(id="coin", name="Coin cell", kind="cells", row="coin_20"))
    build.add(LAMPS, Lamp(id="stove", name="Stove light", led="amber", x=226, y=158, z=52))
    build.add(STRINGS, String(id="stove", name="Stove light", supply="coin", lamps=("stove",), resistor_ohm=470, wire_mm=150))
    build.add(METERS, Meter(id="door", name="Snow before the door", x=241, y=122, z=18.5, wanted_lx=3))
    build.add(
        SURFACES,
        Surface(id="figures", name="Figures, batch of 8", piece="figure-1", area_cm2=60),
        Surface(id="hut", name="Hut", piece="hut", area_cm2=95),
        Surface(id="snow", name="Snow", piece="rock", area_cm2=600),
    )
    build.add(
        STEPS,
        Step(id="prime", name="Prime figures and hut", coat="primer_spray", surfaces=("figures", "hut"), colour=(0.4, 0.4, 0.4), minutes=(10, 15, 25), tool="spray can"),
        Step(id="figures", name="Paint the batch", coat="acrylic", surfaces=("figures",), colour=(0.30, 0.33, 0.30), minutes=(120, 170, 260), splittable=True),
        Step(id="hut", name="Paint the hut", coat="acrylic", surfaces=("hut",), colour=WOOD, minutes=(30, 40, 60)),
        Step(id="wire", name="Wire the stove light", work="wire", tool="iron", minutes=(15, 20, 35)),
        Step(id="test", name="Test the light", work="test", tool="hand", tests=("stove",), minutes=(5, 8, 12), after=("wire",)),
        Step(id="snow", name="Lay the snow", coat="paste", surfaces=("snow",), colour=SNOW, work="build", tool="hand", minutes=(30, 45, 70), after=("test",)),
        Step(id="set", name="Set the figures", coat="pva", surfaces=("figures", "snow"), colour=SNOW, work="build", tool="hand", minutes=(25, 35, 50), dryness="handle"),
    )  # fmt: skip
    return build.project
