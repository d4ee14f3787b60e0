# SPDX-License-Identifier: MIT
"""*Heron Stairs, last boat*: a rainy tidal landing at night, 1:35, with honest mistakes planted in it."""

from datetime import date, timedelta
from typing import Any

from fondale.core.edits import new_project
from fondale.core.model import (
    LAMPS,
    LAYOUTS,
    METERS,
    MOMENTS,
    PAGES,
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
    HouseRules,
    Lamp,
    Layout,
    Measure,
    Meter,
    Moment,
    Page,
    Piece,
    Place,
    Project,
    Seat,
    Step,
    Stood,
    String,
    Supply,
    Surface,
)
from fondale.core.model.shapes import Animal, Box, Cylinder, Figure, Hull, Opening, Room, Shape, Stairs, Wall, Wheel
from fondale.demo import heron_bench
from fondale.demo.building import Builder

STONE, WET, DARK = (0.30, 0.29, 0.27), (0.09, 0.11, 0.12), (0.08, 0.08, 0.09)
GREEN, NAVY, BRICK, TIMBER = (0.13, 0.34, 0.29), (0.10, 0.13, 0.24), (0.24, 0.15, 0.12), (0.26, 0.18, 0.11)


def heron_stairs(today: date) -> Project:
    """The demo, with dates that follow ``today``: it opens on the Saturday after three and a half weeks."""
    build = Builder(new_project("Heron Stairs, last boat", today))
    _brief(build, today)
    _scenery(build)
    _figures(build)
    heron_bench.add_all(build)
    _first_idea(build)
    _lamps(build)
    _surfaces(build)
    _build_steps(build)
    _paint_steps(build)
    _finish_steps(build)
    _diary(build, today)
    return build.project


def _brief(build: Builder, today: date) -> None:
    deadline = today + timedelta(days=24)
    deadline += timedelta(days=(5 - deadline.weekday()) % 7)
    build.set(
        PROJECT.then(lambda p: p.brief),
        Brief(
            occasion="Open day of the quay workshops",
            place="On the long shelf by the door, 1.1 m high; people pass in front and children look up",
            start=today - timedelta(days=6),
            deadline=deadline,
            evenings=(120, 0, 90, 90, 0, 180, 60),
            evening_from=19 * 60,
            days_off=(today + timedelta(days=8),),
            cap=150.0,
            house_n=35.0,
            shelf_height_mm=1100.0,
            bench_c=14.0,
            bench_rh=60.0,
            show_hours=8.0,
            rules=HouseRules(),
        ),
    )
    build.set(
        PROJECT.then(lambda p: p.case),
        Case(
            width=420,
            depth=260,
            height=250,
            boards=Boards(fingers=18.0),
            floor_paint=WET,
            wall_paint=(0.16, 0.18, 0.23),
            ceiling_paint=DARK,
        ),
    )
    build.clear(SEATS)
    build.add(
        SEATS,
        Seat(id="visitor", name="the visitor’s seat", stature_mm=1700, distance=650, range=400),
        Seat(id="child", name="the child’s seat", stature_mm=1250, distance=450, range=300),
        Seat(id="bench-left", name="the bench on the left", stature_mm=1700, sitting=True, distance=1100, offset=-450, range=200),
    )


def _piece(ident: str, name: str, shape: Shape, x: float, y: float, **more: Any) -> Piece:
    turn, z = more.pop("turn", 0.0), more.pop("z", None)
    return Piece(id=ident, name=name, shape=shape, place=Place(x=x, y=y, z=z, turn_deg=turn), **more)


def _scenery(build: Builder) -> None:
    window = (Opening(x=12, z=32, width=46, height=34),)
    passage = (Opening(x=226, z=40, width=62, height=96, form="arch"),)
    build.add(
        PIECES,
        _piece("water", "Water", Box(width=420, depth=112, height=4), 210, 56, role="scenery", paint=WET, cost=14.0),
        _piece("quay", "Quay", Box(width=420, depth=80, height=40), 210, 152, role="scenery", paint=STONE, cost=6.0),
        _piece("stairs", "Stone stairs", Stairs(width=104, depth=60, height=36, steps=7), 112, 82, z=4.0, role="scenery", paint=STONE),
        _piece("rear-wall", "Rear wall", Wall(length=420, height=176, thickness=8, openings=passage), 210, 196, z=0.0, role="scenery", paint=BRICK, cost=5.0),
        _piece("kiosk", "Ticket kiosk", Room(width=70, depth=46, height=82, openings=window), 352, 156, role="scenery", paint=GREEN, cost=7.5),
        _piece("lamp-post", "Lamp post", Cylinder(diameter=3.2, length=92), 214, 126, role="scenery", paint=DARK, cost=3.0, weight_g=12),
    )  # fmt: skip


def _figures(build: Builder) -> None:
    build.add(
        PIECES,
        _piece("ferryman", "Ferryman", Figure(extras=("coat", "cap", "lantern")), 250, 62, turn=-35, origin="bought", claim="54 mm", measure=Measure(mm=51.6), paint=NAVY, cost=16.0, stands="alone"),
        _piece("woman", "Woman, umbrella", Figure(person="woman", pose="contrapposto", extras=("coat", "skirt", "umbrella")), 130, 92, turn=10, origin="bought", claim="1:32", measure=Measure(mm=46.9), paint=(0.33, 0.12, 0.13), cost=9.0),
        _piece("boy", "Boy with creel", Figure(person="boy_12", pose="kneeling_one", extras=("cap",)), 178, 134, turn=55, origin="printed file", claim="landing set, no scale given", measure=Measure(mm=39.4), paint=(0.36, 0.30, 0.20), cost=2.0),
        _piece("watchman", "Night watchman", Figure(extras=("coat", "cap"), heroic=True), 300, 128, turn=-10, origin="gaming", claim="28 mm", measure=Measure(mm=30.6), paint=(0.16, 0.16, 0.20), cost=4.0),
        _piece("porter", "Porter on a crate", Figure(pose="sitting_seat", extras=("cap",)), 46, 140, turn=-40, origin="bought", claim="1:35", measure=Measure(mm=38.9), paint=(0.25, 0.24, 0.22), cost=8.0, stands="alone"),
        _piece("heron", "Heron", Animal(species="heron"), 40, 70, turn=70, origin="printed file", claim="1:35", measure=Measure(mm=26.8), paint=(0.42, 0.44, 0.46), cost=1.5),
        _piece("cat-1", "Cat on the quay", Animal(species="cat"), 252, 124, turn=-60, origin="bought", claim="1:35", measure=Measure(mm=7.2), paint=(0.10, 0.09, 0.08), cost=1.0),
        _piece("cat-2", "Cat by the kiosk", Animal(species="cat"), 306, 152, turn=100, origin="bought", claim="1:35", measure=Measure(mm=7.6), paint=(0.45, 0.25, 0.10), cost=1.0),
        _piece("boat", "The last boat", Hull(length=128, beam=40, depth=20), 256, 58, z=3.0, turn=172, role="scenery", origin="scratch", paint=TIMBER, cost=4.0, weight_g=30),
        _piece("wheel", "Handcart wheel", Wheel(diameter=41.7, width=3.5, spokes=12), 70, 172, turn=82, origin="kitbash", claim="1:24", thing="cart_wheel", measure=Measure(mm=41.7), paint=TIMBER),
        _piece("winch", "Boat winch", Cylinder(diameter=9.0, length=8.7, axis="x"), 200, 168, origin="kitbash", thing="winch_drum", measure=Measure(mm=8.7), paint=DARK, weight_g=9, cost=0.0),
        _piece("stove", "Stove", Cylinder(diameter=10.0, length=22.4), 378, 160, origin="kitbash", claim="1:48", thing="stove", measure=Measure(mm=22.4), paint=DARK),
    )  # fmt: skip


def _first_idea(build: Builder) -> None:
    """How it stood before: the boat far left, the ferryman on the stairs, the woman by the kiosk."""
    then = {
        "boat": Place(x=86, y=34, z=3.0, turn_deg=180),
        "ferryman": Place(x=120, y=84, turn_deg=20),
        "woman": Place(x=300, y=138, turn_deg=-20),
    }
    stands = tuple(Stood(piece=p.id, place=then.get(p.id, p.place)) for p in build.project.pieces if p.place is not None)
    build.add(LAYOUTS, Layout(id="first-idea", name="First idea", stands=stands))


def _lamps(build: Builder) -> None:
    build.add(
        SUPPLIES,
        Supply(id="plug", name="Plug 5 V, 1 A", kind="plug", row="usb_5v_1a"),
        Supply(id="cells", name="Two AA cells", kind="cells", row="aa", count=2),
    )
    build.add(
        LAMPS,
        Lamp(id="post", name="Lamp post", led="warm_white", x=214, y=126, z=135, angle_deg=360, meant_to_be_seen=True),
        Lamp(id="kiosk", name="Kiosk", led="warm_white", x=352, y=158, z=116),
        Lamp(id="passage", name="Passage", led="amber", x=257, y=238, z=128, ay=0.35),
        Lamp(id="moon", name="Moon", led="cool_white", x=120, y=20, z=247, ay=0.55, ax=0.1),
        Lamp(id="moon-2", name="Moon, right", led="cool_white", x=330, y=20, z=247, ay=0.5, ax=-0.1),
        Lamp(
            id="lantern",
            name="Ferry lantern",
            led="yellow",
            x=262,
            y=44,
            z=30,
            angle_deg=360,
            motion="candle",
            seed=4,
            meant_to_be_seen=True,
        ),
        Lamp(id="signal-red", name="Red signal", led="red", x=396, y=110, z=96, ay=-1, az=-0.4, meant_to_be_seen=True),
        Lamp(id="signal-green", name="Green signal", led="green", x=396, y=110, z=84, ay=-1, az=-0.4, meant_to_be_seen=True),
        Lamp(
            id="sign",
            name="Broken sign",
            led="red",
            x=352,
            y=126,
            z=127,
            ay=-1,
            az=-0.2,
            angle_deg=160,
            motion="failing tube",
            seed=2,
            meant_to_be_seen=True,
        ),
    )
    build.add(
        STRINGS,
        String(id="landing", name="Post and kiosk", supply="plug", lamps=("post",), resistor_ohm=120, wire_mm=450),
        String(id="kiosk", name="Kiosk", supply="plug", lamps=("kiosk",), resistor_ohm=180, wire_mm=300),
        String(id="passage", name="Passage", supply="plug", lamps=("passage",), resistor_ohm=220, wire_mm=350),
        String(id="moon", name="Moon pair", supply="plug", lamps=("moon", "moon-2"), wiring="group", resistor_ohm=47, wire_mm=600),
        String(id="lantern", name="Lantern", supply="plug", lamps=("lantern",), resistor_ohm=150, wire_mm=400),
        String(id="sign", name="Sign", supply="plug", lamps=("sign",), resistor_ohm=150, wire_mm=350),
        String(id="signals", name="Signals, one group", supply="cells", lamps=("signal-red", "signal-green"), wiring="group", wire_mm=300),
    )  # fmt: skip
    build.set(STRINGS.at("landing").then(lambda s: s.name), "Lamp post")
    build.clear(MOMENTS)
    build.add(
        MOMENTS,
        Moment(id="dusk", name="Dusk", levels={"moon": 1.0, "moon-2": 1.0, "post": 0.0, "kiosk": 0.7, "passage": 0.2, "lantern": 0.0, "sign": 0.6, "signal-red": 0.0, "signal-green": 0.25}),
        Moment(id="last-boat", name="Last boat", levels={"moon": 0.5, "moon-2": 0.5, "post": 0.35, "kiosk": 1.0, "passage": 1.0, "lantern": 0.9, "sign": 0.6, "signal-red": 0.05, "signal-green": 0.25}),
        Moment(id="closed", name="Closed", levels={"moon": 0.5, "moon-2": 0.3, "post": 0.0, "kiosk": 0.0, "passage": 0.35, "lantern": 0.0, "sign": 0.1, "signal-red": 0.05, "signal-green": 0.0}),
    )  # fmt: skip
    build.set(PROJECT.then(lambda p: p.moment), "last-boat")
    build.add(
        METERS,
        Meter(id="foot", name="Foot of the stairs", x=112, y=46, z=4.5, wanted_lx=40),
        Meter(id="face", name="Ferryman’s face", x=247, y=55, z=52, nx=-0.5, ny=-0.85, nz=0.1, wanted_lx=50),
        Meter(id="counter", name="Kiosk counter", x=347, y=158, z=66, wanted_lx=200),
    )


def _surfaces(build: Builder) -> None:
    rows = (
        ("stone", "Stone stairs and quay", "stairs", 420.0, False),
        ("wall", "Rear wall", "rear-wall", 900.0, False),
        ("kiosk-front", "Kiosk front", "kiosk", 110.0, False),
        ("kiosk-inside", "Kiosk inside", "kiosk", 150.0, True),
        ("kiosk-glass", "Kiosk glass, inside", "kiosk", 16.0, True),
        ("boat", "The boat", "boat", 120.0, False),
        ("ferryman", "Ferryman", "ferryman", 28.0, False),
        ("woman", "Woman and umbrella", "woman", 32.0, False),
        ("small", "Heron, cats, small parts", "heron", 20.0, False),
        ("water", "Water", "water", 470.0, False),
        ("sky", "Far bank, painted", "", 700.0, False),
    )
    build.add(SURFACES, *(Surface(id=i, name=n, piece=p, area_cm2=a, inside=k) for i, n, p, a, k in rows))


def _step(ident: str, name: str, minutes: tuple[float, float, float], surfaces: str = "", **more: Any) -> Step:
    return Step(id=ident, name=name, minutes=minutes, surfaces=tuple(surfaces.split()), **more)


def _build_steps(build: Builder) -> None:
    build.add(
        STEPS,
        _step("carve", "Carve stairs and quay", (60, 90, 150), "stone", work="build", tool="knife", splittable=True, done=True),
        _step("wall-build", "Build the rear wall and arch", (50, 75, 120), "wall", work="build", tool="knife", splittable=True, done=True),
        _step("kiosk-build", "Build the kiosk, roof loose", (60, 85, 140), "kiosk-front kiosk-inside", work="build", tool="knife", splittable=True),
        _step("boat-build", "Plank the boat", (40, 60, 100), "boat", work="build", tool="knife", splittable=True),
        _step("joints", "Fill and sand the joints", (15, 25, 45), "stone wall kiosk-front", work="build", coat="putty", tool="hand", colour=(0.75, 0.72, 0.66)),
        _step("wires", "Wire post, kiosk and passage", (40, 60, 100), work="wire", tool="iron", splittable=True),
        _step("signals", "Solder the signals", (20, 30, 50), work="wire", tool="iron"),
        _step("test-1", "Test the light on the bench", (5, 10, 20), work="test", tool="hand", tests=("post", "passage", "moon", "moon-2", "lantern", "sign"), after=("wires", "signals")),
    )  # fmt: skip


def _paint_steps(build: Builder) -> None:
    grey, rust, cream = (0.42, 0.42, 0.42), (0.30, 0.14, 0.08), (0.86, 0.82, 0.70)
    build.add(
        STEPS,
        _step("prime-all", "Prime stone, wall and boat", (15, 25, 40), "stone wall boat", coat="primer_spray", colour=grey, tool="spray can"),
        _step("prime-kiosk", "Prime the kiosk in and out", (10, 15, 25), "kiosk-front kiosk-inside", coat="primer_spray", colour=grey, tool="spray can"),
        _step("prime-figures", "Prime the figures", (10, 15, 25), "ferryman woman small", coat="primer_spray", colour=(0.12, 0.12, 0.12), tool="spray can"),
        _step("zenithal", "Light from above on the figures", (10, 15, 20), "ferryman woman small", coat="ink", colour=(0.92, 0.92, 0.90), tool="airbrush"),
        _step("inside", "Cream inside the kiosk", (10, 15, 25), "kiosk-inside", coat="acrylic", colour=cream, tool="airbrush"),
        _step("stone-base", "Base greys on the stone", (20, 35, 55), "stone", coat="acrylic", colour=STONE, tool="airbrush"),
        _step("brick-base", "Brick reds on the wall", (20, 30, 50), "wall", coat="acrylic", colour=BRICK, tool="airbrush"),
        _step("rust", "Rust brown on the kiosk", (8, 12, 20), "kiosk-front", coat="acrylic", colour=rust, tool="airbrush"),
        _step("liftoff", "Chipping layer on the kiosk", (5, 8, 12), "kiosk-front", coat="liftoff", colour=(0.95, 0.93, 0.88), tool="airbrush"),
        _step("sea-green", "Sea green on the kiosk, lift the chips", (25, 40, 60), "kiosk-front", coat="acrylic", colour=GREEN, tool="airbrush"),
        _step("lettering", "Ticket lettering on the kiosk", (15, 20, 35), "kiosk-front", coat="decal", colour=cream, tool="hand"),
        _step("coats", "Skin and coats of the figures", (90, 140, 220), "ferryman woman", coat="acrylic", colour=NAVY, tool="brush", splittable=True),
        _step("small-paint", "Heron, cats and small parts", (30, 45, 70), "small", coat="acrylic", colour=(0.42, 0.44, 0.46), tool="brush"),
        _step("timber", "Timber tones on the boat", (20, 30, 45), "boat", coat="acrylic", colour=TIMBER, tool="brush"),
        _step("far-bank", "Paint the far bank", (40, 60, 100), "sky", coat="acrylic", colour=(0.12, 0.15, 0.22), tool="brush", splittable=True),
    )  # fmt: skip


def _finish_steps(build: Builder) -> None:
    soot, slime = (0.14, 0.12, 0.10), (0.18, 0.26, 0.14)
    build.add(
        STEPS,
        _step("roof", "Fit the kiosk roof", (10, 15, 25), work="build", coat="epoxy", tool="hand", closes=("kiosk-inside", "kiosk-glass"), after=("wires",)),
        _step("fog", "Fog the kiosk glass from inside", (8, 12, 20), "kiosk-glass", coat="fog", colour=(0.86, 0.88, 0.90), tool="airbrush", work="weather"),
        _step("streaks", "Streaks down the kiosk front", (10, 15, 25), "kiosk-front", coat="streaks", colour=soot, work="weather"),
        _step("pin-wash", "Pin wash on the kiosk", (10, 15, 25), "kiosk-front", coat="enamel_wash", colour=soot, work="weather"),
        _step("stone-wash", "Green wash at the tide line", (10, 18, 30), "stone", coat="enamel_wash", colour=slime, work="weather"),
        _step("wall-soot", "Soot over the arch", (8, 12, 20), "wall", coat="oil", colour=soot, work="weather"),
        _step("boots", "Same mud on boots and stone", (10, 15, 25), "ferryman woman stone", coat="pigment", colour=(0.22, 0.17, 0.12), work="weather"),
        _step("pour", "Pour the water", (20, 30, 45), "water", coat="water_resin", colour=WET, work="build", tool="hand", dryness="handle", after=("stone-wash",)),
        _step("wet", "Gloss on the wet stones", (8, 12, 20), "stone", coat="gloss", colour=(0.9, 0.9, 0.9)),
        _step("set", "Set figures, boat and post", (20, 30, 50), "ferryman woman small boat", work="build", coat="epoxy", colour=(0.8, 0.8, 0.7), tool="hand", dryness="handle", after=("pour",)),
        _step("test-2", "Test the light in the case", (5, 10, 20), work="test", tool="hand", tests=("post", "kiosk", "passage", "moon", "lantern", "signal-red", "signal-green"), after=("set", "roof", "test-1")),
        _step("glass", "Clean and fit the front glass", (10, 15, 25), work="build", tool="hand", closes=("stone", "water", "boat"), after=("test-2",)),
    )  # fmt: skip


def _diary(build: Builder, today: date) -> None:
    build.add(
        PAGES,
        Page(id="page-1", day=today - timedelta(days=5), minutes=105, done=("carve",), spent=12.5, words="Carved the stairs from two sheets. The risers came out a hair high; it does not show.", lesson="Cut the foam with a fresh blade from the start."),
        Page(id="page-2", day=today - timedelta(days=3), minutes=85, done=("wall-build",), spent=4.0, words="Rear wall and the arch. Bricks pressed in with a strip of brass."),
    )  # fmt: skip
