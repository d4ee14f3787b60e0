# SPDX-License-Identifier: MIT
"""The demo's photograph, bits box, needs, fits, joints and print shop, with honest mistakes planted among them."""

import json
from functools import lru_cache
from pathlib import Path
from typing import Any

from fondale.core.edits import remove
from fondale.core.edits.bringing import Skin, add_print
from fondale.core.model import (
    BITS,
    FITS,
    JOINS,
    NEEDS,
    PHOTOS,
    PIECES,
    PRINTS,
    PROJECT,
    Bit,
    Fit,
    Frame,
    Horizon,
    Join,
    Machine,
    Measure,
    Need,
    Photo,
    Piece,
    Place,
    Thread,
)
from fondale.core.model.bench import Outline
from fondale.core.model.shapes import Mesh
from fondale.core.prints.body import Facts
from fondale.demo.building import Builder
from fondale.demo.landing_photo import WIDTH_PX, horizon_px, on_wall, pixel

FOLDER = Path(__file__).parent / "assets"
PHOTO = "assets/photos/landing.jpg"
PHOTO_SIZE = (WIDTH_PX, 585)


def assets() -> dict[str, bytes]:
    """The files that the demo keeps: its photograph and its bodies."""
    out = {PHOTO: (FOLDER / "landing.jpg").read_bytes()}
    return out | {f"assets/prints/{f.name}": f.read_bytes() for f in sorted(FOLDER.glob("*.stl"))}


@lru_cache(maxsize=8)
def _read(name: str) -> tuple[Facts, Skin]:
    """What was measured of a body when its file was made: measuring it anew would hold up the start."""
    row = json.loads((FOLDER / "bodies.json").read_text("utf-8"))[name]
    facts = Facts(**{k: _tuples(v) for k, v in row["facts"].items()})
    return facts, (_tuples(row["skin"][0]), _tuples(row["skin"][1]))


def _tuples(value: Any) -> Any:
    return tuple(_tuples(v) for v in value) if isinstance(value, list) else value


def add_all(build: Builder) -> None:
    """Everything of Brief and Bench beyond the pieces."""
    _photo(build)
    _bits(build)
    _needs(build)
    _fits(build)
    _prints(build)


def _at(*point: float) -> tuple[float, float]:
    x, y = pixel((point[0], point[1], point[2]))
    return round(2 * x) / 2, round(2 * y) / 2


def _photo(build: Builder) -> None:
    door = [on_wall(120, 203), on_wall(215, 203), on_wall(215, 0), on_wall(120, 0)]
    y = round(2 * horizon_px()) / 2
    threads = (
        Thread(id="man", name="Man on the quay", a=_at(150, 170, 0), b=_at(150, 170, 175.3), on="ground", known_mm=1753, known_give_mm=70),
        Thread(id="bollard", name="Bollard", a=_at(60, 47, 0), b=_at(60, 47, 55), on="ground"),
        Thread(id="post", name="Lamp post", a=_at(20, 255.5, 0), b=_at(20, 255.5, 290), on="ground"),
        Thread(id="window-wide", name="Window, wide", a=_at(*on_wall(300, 104)), b=_at(*on_wall(428, 104)), on="wall"),
        Thread(id="window-high", name="Window, high", a=_at(*on_wall(428, 104)), b=_at(*on_wall(428, 196)), on="wall"),
        Thread(id="block", name="Winch block", a=_at(270, 88, 62), b=_at(330, 88, 62), known_mm=600, known_give_mm=10),
        Thread(id="drum", name="Winch drum", a=_at(279, 95, 62), b=_at(321, 95, 62)),
    )
    photo = Photo(
        id="landing", name="The landing at low water", asset=PHOTO, width=PHOTO_SIZE[0], height=PHOTO_SIZE[1],
        frame=Frame(corners=tuple(_at(*p) for p in door), width_mm=950, height_mm=2030), horizon=Horizon(left=y, right=y), threads=threads,  # type: ignore[arg-type]
    )  # fmt: skip
    build.add(PHOTOS, photo)


# name, outline, sizes in mm, native scale, material, source, drawer, count
BOX: tuple[tuple[str, Outline, tuple[float, ...], float, str, str, str, int], ...] = (
    ("Lorry wheel, spoked", "cylinder", (41.7, 5.5), 24, "styrene", "quarry lorry kit", "A1", 3),
    ("Lorry fuel tank", "cylinder", (13.4, 31.0), 24, "styrene", "quarry lorry kit", "A1", 1),
    ("Lorry exhaust", "rod", (3.1, 58.0), 24, "styrene", "quarry lorry kit", "A1", 2),
    ("Leaf spring", "plate", (48.0, 3.4, 2.2), 24, "styrene", "quarry lorry kit", "A1", 4),
    ("Watch barrel", "cylinder", (9.0, 8.7), 0, "metal", "wrist watch", "A2", 1),
    ("Watch wheel, fine teeth", "cylinder", (11.2, 0.6), 0, "metal", "wrist watch", "A2", 6),
    ("Watch crown", "cylinder", (3.8, 2.6), 0, "metal", "wrist watch", "A2", 2),
    ("Pen barrel", "rod", (8.4, 92.0), 0, "styrene", "ball pen", "A2", 1),
    ("Pen spring", "cylinder", (4.3, 22.0), 0, "metal", "ball pen", "A2", 2),
    ("Pen cap clip", "plate", (38.0, 4.0, 1.0), 0, "metal", "ball pen", "A2", 1),
    ("Engine cylinder, finned", "cylinder", (10.0, 22.4), 48, "styrene", "mail plane kit", "B1", 5),
    ("Propeller hub", "dome", (9.6, 8.0), 48, "styrene", "mail plane kit", "B1", 1),
    ("Wing strut", "rod", (1.6, 44.0), 48, "styrene", "mail plane kit", "B1", 8),
    ("Cockpit floor", "plate", (26.0, 14.0, 0.8), 48, "styrene", "mail plane kit", "B1", 1),
    ("Drop tank half", "dome", (12.5, 16.0), 48, "styrene", "mail plane kit", "B1", 2),
    ("Crate, slatted", "box", (17.1, 12.0, 11.4), 35, "resin", "harbour set", "B2", 4),
    ("Barrel", "cylinder", (18.4, 25.6), 35, "resin", "harbour set", "B2", 3),
    ("Bucket", "cylinder", (8.2, 8.6), 35, "resin", "harbour set", "B2", 2),
    ("Sack", "box", (20.0, 12.5, 6.5), 35, "resin", "harbour set", "B2", 6),
    ("Rope coil", "cylinder", (12.0, 4.0), 35, "cloth", "harbour set", "B2", 2),
    ("Waggon wheel", "cylinder", (12.8, 1.9), 72, "metal", "narrow-gauge waggon", "B3", 4),
    ("Buffer beam", "box", (32.0, 4.2, 3.0), 72, "styrene", "narrow-gauge waggon", "B3", 2),
    ("Brake pipe", "rod", (0.8, 36.0), 72, "metal", "narrow-gauge waggon", "B3", 2),
    ("Roof ventilator", "dome", (4.6, 3.4), 72, "styrene", "narrow-gauge waggon", "B3", 3),
    ("Tube, 6 mm", "rod", (6.0, 250.0), 0, "styrene", "profile rack", "C1", 2),
    ("Rod, 2 mm", "rod", (2.0, 250.0), 0, "styrene", "profile rack", "C1", 4),
    ("Rod, 1 mm", "rod", (1.0, 250.0), 0, "metal", "profile rack", "C1", 6),
    ("Sheet, 1 mm", "plate", (150.0, 90.0, 1.0), 0, "styrene", "profile rack", "C1", 2),
    ("Sheet, 0.5 mm", "plate", (150.0, 90.0, 0.5), 0, "styrene", "profile rack", "C1", 2),
    ("Stirrer, wood", "plate", (110.0, 5.0, 1.2), 0, "wood", "tea bar", "C2", 30),
    ("Bottle cap", "cylinder", (28.0, 14.0), 0, "styrene", "kitchen", "C2", 7),
    ("Bead, pierced", "cylinder", (3.0, 2.6), 0, "glass", "craft box", "C2", 40),
    ("Chain, fine", "rod", (1.4, 300.0), 0, "metal", "craft box", "C2", 1),
    ("Blister, clear", "box", (40.0, 28.0, 12.0), 0, "clear plastic", "pill pack", "C3", 2),
    ("Lens, torch", "dome", (15.0, 6.0), 0, "clear plastic", "broken torch", "C3", 1),
    ("Magnet, 3 x 1", "cylinder", (3.0, 1.0), 0, "metal", "magnet strip", "C3", 12),
)


def _bits(build: Builder) -> None:
    from fondale.core.edits import new_id

    ids: list[str] = []
    for name, outline, sizes, n, material, source, drawer, count in BOX:
        ids.append(new_id(name, ids))
        build.add(
            BITS,
            Bit(
                id=ids[-1],
                name=name,
                outline=outline,
                sizes=sizes,
                native_n=n,
                material=material,
                source=source,
                drawer=drawer,
                count=count,
            ),
        )
    build.set(BITS.at("watch-barrel").then(lambda b: b.count), 0)
    build.set(BITS.at("watch-barrel").then(lambda b: b.state), "used")
    build.set(BITS.at("pen-cap-clip").then(lambda b: b.state), "lost")


def _needs(build: Builder) -> None:
    build.add(
        NEEDS,
        Need(id="winch-drum", name="Winch drum", outline="cylinder", real=(300, 420), photo="landing", bit="watch-barrel", made=True),
        Need(id="bollard", name="Bollard", outline="cylinder", real=(260, 550), photo="landing"),
        Need(id="stove-pipe", name="Stove pipe", outline="rod", real=(110, 1900)),
        Need(id="ticket-shelf", name="Ticket shelf", outline="plate", real=(1200, 300, 30)),
    )


def _fits(build: Builder) -> None:
    paint = ("primer_spray", "acrylic", "acrylic", "acrylic")
    build.add(
        FITS,
        Fit(id="winch-peg", name="Winch peg in the block", hole=5.2, peg=4.9, hole_coats=paint, peg_coats=paint, brushed=True),
        Fit(id="signal-arm", name="Signal arm pin", kind="hinge", hole=1.3, peg=1.0, process="metal", hole_coats=("primer_spray",)),
        Fit(id="kiosk-roof", name="Kiosk roof in its rebate", kind="insert", hole=70.8, peg=70.0, process="hand-cut sheet", hole_coats=paint[:2], peg_coats=paint[:2]),
        Fit(id="porter-crate", name="Porter on his crate", kind="seat", hole=12.4, peg=11.0, hole_coats=paint[:3], peg_coats=paint[:3]),
        Fit(id="roof-magnet", name="Magnet in the kiosk roof", kind="magnet", hole=3.2, peg=3.0, process="bought part"),
    )  # fmt: skip
    build.add(
        JOINS,
        Join(id="kiosk-pane", name="Kiosk pane", a="clear plastic", b="styrene", need="see through"),
        Join(id="lamp-post", name="Lamp post in the quay", a="metal", b="foam", need="adjust"),
        Join(id="boy-creel", name="Boy on the landing", a="resin", b="resin"),
        Join(id="roof", name="Kiosk roof", a="styrene", b="styrene", need="take apart"),
    )


def _prints(build: Builder) -> None:
    machines = (
        Machine(id="left", name="Left resin printer", row="resin_small"),
        Machine(id="right", name="Right resin printer", row="resin_small", pace=1.1),
        Machine(id="frame", name="Filament printer", row="filament_small"),
        Machine(id="airbrush", name="Airbrush", row="airbrush"),
    )
    build.set(PROJECT.then(lambda p: p.brief.machines), machines)
    for name, file, unit in (
        ("Boy with creel", "boy-with-creel.stl", "mm"),
        ("Landing crate", "landing-crate.stl", "mm"),
        ("Quay crane", "quay-crane.stl", "mm"),
    ):
        facts, shell = _read(file)
        edits, ident = add_print(build.project, name, f"assets/prints/{file}", unit, facts, shell, ())
        build.do(*edits)
        build.set(PRINTS.at(ident).then(lambda f: f.difficulty), "hard" if ident == "quay-crane" else "fair")
    for ident in ("boy-with-creel", "landing-crate"):
        build.set(PRINTS.at(ident).then(lambda f: f.family), "Landing set")
    build.set(PRINTS.at("landing-crate").then(lambda f: f.count), 2)
    build.set(PRINTS.at("quay-crane").then(lambda f: f.hollow_mm), 2.0)
    # The print of the boy is the one that kneels on the quay.
    printed = build.project.get(PIECES, "boy-with-creel")
    _replace_boy(build, printed)


def _replace_boy(build: Builder, printed: Piece) -> None:
    boy = build.project.get(PIECES, "boy")
    assert isinstance(printed.shape, Mesh)
    build.do(remove(PIECES, printed))
    build.set(PIECES.at("boy").then(lambda p: p.shape), printed.shape.but(person="boy_12", pose="kneeling_one"))
    build.set(PIECES.at("landing-crate").then(lambda p: p.measure), Measure(mm=15.8, error_mm=0.05))
    build.set(PIECES.at("landing-crate").then(lambda p: p.place), Place(x=160, y=160, turn_deg=20))
    build.set(PIECES.at("landing-crate").then(lambda p: p.claim), boy.claim)
    build.set(PIECES.at("landing-crate").then(lambda p: p.paint), (0.33, 0.24, 0.14))
