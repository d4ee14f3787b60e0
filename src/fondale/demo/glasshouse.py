# SPDX-License-Identifier: MIT
"""*Glasshouse, 5 a.m.*: 1:24, a dome, a single warm filament, no figures."""

from datetime import date, timedelta

from fondale.core.edits import new_project
from fondale.core.model import (
    LAMPS,
    METERS,
    MOMENTS,
    PIECES,
    PROJECT,
    SEATS,
    STEPS,
    STRINGS,
    SUPPLIES,
    SURFACES,
    Brief,
    Case,
    Lamp,
    Meter,
    Moment,
    Piece,
    Place,
    Project,
    Seat,
    Step,
    String,
    Supply,
    Surface,
)
from fondale.core.model.shapes import Box, Cylinder, Opening, Wall
from fondale.demo.building import Builder

IRON, EARTH = (0.55, 0.60, 0.57), (0.13, 0.10, 0.08)


def glasshouse(today: date) -> Project:
    """The second sample."""
    build = Builder(new_project("Glasshouse, 5 a.m.", today))
    build.set(PROJECT.then(lambda p: p.brief), Brief(
            occasion="A present", start=today, deadline=today + timedelta(days=21), evenings=(60, 60, 60, 60, 0, 120, 0),
            cap=60.0, house_n=24.0, shelf_height_mm=850.0, bench_c=19.0, bench_rh=45.0, show_hours=4.0,
        ))  # fmt: skip
    build.set(PROJECT.then(lambda p: p.case), Case(kind="dome", width=200, depth=200, height=260, floor_paint=EARTH))
    build.clear(SEATS)
    build.add(SEATS, Seat(id="desk", name="the desk chair", sitting=True, distance=450, range=250))
    panes = tuple(Opening(x=8 + 26 * i, z=8, width=22, height=64) for i in range(4))
    place = Place
    build.add(
        PIECES,
        Piece(id="base", name="Brick base", shape=Box(width=116, depth=80, height=14), role="scenery", place=place(x=100, y=100, z=0), paint=(0.30, 0.16, 0.12), cost=3.0),
        Piece(id="front", name="Front frame", shape=Wall(length=116, height=80, thickness=2, openings=panes), role="scenery", place=place(x=100, y=62, z=14), paint=IRON, cost=6.0),
        Piece(id="back", name="Back frame", shape=Wall(length=116, height=80, thickness=2, openings=panes), role="scenery", place=place(x=100, y=138, z=14), paint=IRON, cost=6.0),
        Piece(id="barrel", name="Rain barrel", shape=Cylinder(diameter=24, length=36), place=place(x=172, y=76), origin="kitbash", paint=(0.20, 0.14, 0.09)),
        Piece(id="pot", name="Clay pot", shape=Cylinder(diameter=15, length=17), place=place(x=76, y=104), origin="scratch", paint=(0.45, 0.22, 0.14)),
    )  # fmt: skip
    build.add(SUPPLIES, Supply(id="cells", name="Two AA cells", kind="cells", row="aa", count=2))
    build.add(LAMPS, Lamp(id="filament", name="Filament", led="filament", x=100, y=100, z=76, angle_deg=360, meant_to_be_seen=True))
    build.add(STRINGS, String(id="filament", name="Filament", supply="cells", lamps=("filament",), resistor_ohm=2.2, wire_mm=200))
    build.add(METERS, Meter(id="pot", name="Beside the pot", x=88, y=100, z=14.5, wanted_lx=120))
    build.clear(MOMENTS)
    build.add(MOMENTS, Moment(id="five", name="5 a.m.", levels={"filament": 1.0}))
    build.set(PROJECT.then(lambda p: p.moment), "five")
    build.add(
        SURFACES,
        Surface(id="frame", name="Iron frame", piece="front", area_cm2=90),
        Surface(id="base", name="Brick base", piece="base", area_cm2=140),
    )
    build.add(
        STEPS,
        Step(id="solder", name="Bend and join the frame", work="build", tool="hand", surfaces=("frame",), minutes=(90, 130, 200), splittable=True),
        Step(id="prime", name="Prime frame and base", coat="primer_spray", surfaces=("frame", "base"), colour=(0.4, 0.4, 0.4), minutes=(10, 15, 20), tool="spray can"),
        Step(id="white", name="White on the frame", coat="enamel", surfaces=("frame",), colour=IRON, minutes=(20, 30, 45), tool="airbrush"),
        Step(id="rust", name="Rust runs on the frame", coat="enamel_wash", surfaces=("frame",), colour=(0.3, 0.14, 0.08), work="weather", minutes=(15, 20, 35)),
        Step(id="brick", name="Brick colours", coat="acrylic", surfaces=("base",), colour=(0.30, 0.16, 0.12), minutes=(20, 30, 45)),
        Step(id="hang", name="Hang the filament", work="wire", tool="iron", minutes=(15, 25, 40)),
        Step(id="test", name="Test the light", work="test", tool="hand", tests=("filament",), minutes=(5, 10, 15), after=("hang",)),
        Step(id="dome", name="Clean and set the dome", work="build", tool="hand", closes=("frame", "base"), minutes=(5, 10, 20), after=("test",)),
    )  # fmt: skip
    return build.project
