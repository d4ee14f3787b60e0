# SPDX-License-Identifier: MIT
"""Cautions reach the work: by tool, material and act, judged by rules written apart from the tables.

The rules of the judge are those of labels and workshops (common practice, no source): what it expects is the least that must be said.
"""

import pytest

from fondale.core.cautions import caution_words, cautions_of, cautions_of_case, cautions_of_lamp, cautions_of_row, cautions_of_supply
from fondale.core.edits.handing import joint_step, wiring_step
from fondale.core.edits.printing import HandOver
from fondale.core.model import Fit, Join, Lamp, Machine, Piece, PrintFile, Step, String, Supply, Surface
from fondale.core.model.shapes import Box
from fondale.knowledge import table

CUTTING = {"knife", "saw", "drill", "rotary tool"}
DUSTY = {"saw", "drill", "rotary tool", "file"}
HOT = {"iron": "solder", "glue gun": "hot", "hot wire": "hot_wire", "heat gun": "oven", "oven": "oven"}


def wanted(tool: str, material: str) -> set[str]:
    """What must be said of a tool on a material, by plain rules."""
    out = set()
    if tool in CUTTING:
        out.add({"drill": "drill", "rotary tool": "rotary"}.get(tool, "blade"))
    if tool in DUSTY:
        out.add("sanding")
        out |= {"resin": {"resin_dust"}, "two-part putty": {"resin_dust"}, "fibreboard": {"board"}, "plywood": {"board"}}.get(
            material, set()
        )
    if tool in DUSTY | {"iron"} and material == "metal":
        out.add("lead")
    if tool in HOT:
        out.add(HOT[tool])
    if tool == "laser":
        out.add("laser")
    if tool in ("laser", "heat gun", "hot wire", "oven", "iron") and material == "soft PVC":
        out.add("chlorine")
    if tool == "glass cutter" or (material == "glass" and tool in CUTTING | DUSTY):
        out.add("glass")
    if tool == "spray can":
        out.add("spray")
    if tool == "airbrush":
        out.add("mist")
    if tool == "UV lamp":
        out.add("uv")
    return out


@pytest.mark.parametrize("tool", table("tools")["tool"])
def test_every_tool_on_every_material(empty, tool):
    for material in table("materials")["material"]:
        face = Surface(id="f", name="Face", material=material)
        step = Step(
            id="s", name="Thing", work="build", tool=tool, surfaces=("f",), coat="acrylic" if "spray" in tool or "brush" in tool else ""
        )
        got = set(cautions_of(empty.but(surfaces=(face,), steps=(step,)), step))
        assert wanted(tool, material) <= got, material
        assert got or tool in table("cautions")["harmless"]["tools"], material
        piece = Piece(id="p", name="P", shape=Box(width=10, depth=10, height=10), material=material)
        whole = step.but(surfaces=(), pieces=("p",))
        assert wanted(tool, material) <= set(cautions_of(empty.but(pieces=(piece,), steps=(whole,)), whole))


# What the labels of these kinds say at the least; "" says nothing.
COATS = {
    "primer_spray": "spray", "filler_primer": "spray", "acrylic": "", "acrylic_lacquer": "alcohol", "ink": "", "enamel": "spirit",
    "enamel_wash": "spirit", "streaks": "spirit", "oil": "spirit rags", "gloss": "", "satin": "", "matt": "", "decal": "", "liftoff": "",
    "pigment": "dust", "paste": "", "water_resin": "resin pour", "pva": "", "epoxy": "epoxy", "ca": "ca", "putty": "sanding", "fog": "",
    "sanding": "sanding",
}  # fmt: skip


def test_every_coat_by_brush_and_by_air(empty):
    rows = table("coats")["coat"]
    assert set(COATS) == set(rows)
    for coat, said in COATS.items():
        step = Step(id="s", name="Thing", coat=coat, tool="brush")
        got = set(cautions_of(empty, step))
        assert set(said.split()) <= got, coat
        assert bool(got) == (coat not in table("cautions")["harmless"]["coats"]), coat
        if not rows[coat]["sprayed"]:
            continue
        by_air = set(cautions_of(empty, step.but(tool="airbrush")))
        assert "mist" in by_air, coat
        assert ("spray" in by_air) == (rows[coat]["thinner"] in ("spirit", "lacquer", "alcohol")), coat
        assert "spray" in cautions_of(empty, step.but(tool="spray can")), coat


def test_mist_tells_of_the_particle_filter_and_the_booth():
    for key in ("mist", "spray"):
        text = " ".join(caution_words((key,))).lower()
        assert "particle" in text
        assert "booth" in text


def test_rags_with_drying_oil_are_never_left_crumpled():
    text = " ".join(caution_words(("rags",))).lower()
    assert "flat" in text
    assert "water" in text
    assert "metal" in text
    assert not any("rags outdoors" in c["text"] for c in table("cautions")["caution"].values())
    assert not any("burns and fumes" in c["text"].lower() for c in table("cautions")["caution"].values())
    assert "catches fire" in table("cautions")["caution"]["spirit"]["text"]


GLUES = {
    "cement": "solvent", "abs_cement": "solvent", "acrylic_cement": "solvent", "contact": "contact", "ca_gel": "ca", "ca_soft": "ca", "ca_primed": "ca",
    "epoxy": "epoxy", "clear_epoxy": "epoxy", "acrylic_two": "epoxy", "uv": "uv", "hot": "hot", "screw": "drill", "wire": "drill", "magnets": "magnets",
    "solder": "solder", "pva": "", "pva_porous": "", "pva_clear": "", "foam": "", "pva_loose": "", "spray_glue": "spray", "clip": "", "tack": "", "tape": "",
}  # fmt: skip


def test_every_glue(empty):
    rows = table("joins")["glue"]
    assert set(GLUES) == set(rows)
    for glue, said in GLUES.items():
        got = set(cautions_of_row("glue", glue))
        assert set(said.split()) <= got, glue
        assert bool(got) == (glue not in table("cautions")["harmless"]["glues"]), glue
    assert caution_words(("contact",)) != caution_words(("solvent",))


def test_a_joint_that_is_handed_over_brings_the_caution_of_its_glue(empty):
    join = Join(id="j", name="Post", a="glass", b="glass")
    project = empty.but(joins=(join,))
    assert "uv" in cautions_of(project, joint_step(project, join))
    assert "glass" in cautions_of(project, joint_step(project, join))


@pytest.mark.parametrize(
    ("supply", "said"),
    [
        (Supply(id="s", name="S", kind="cells", row="coin_20"), "coin"),
        (Supply(id="s", name="S", kind="cells", row="aa", count=2), "cells"),
        (Supply(id="s", name="S", row="usb_5v_1a"), "mains"),
        (Supply(id="s", name="S", row="dc_12v_1a"), "mains"),
    ],
)
def test_soldering_that_the_rig_hands_over_tells_of_the_iron_and_of_what_feeds_it(empty, supply, said):
    lamp, string = Lamp(id="l", name="L", led="uv", x=0, y=0, z=0), String(id="t", name="T", supply="s", lamps=("l",))
    project = empty.but(supplies=(supply,), lamps=(lamp,), strings=(string,))
    got = cautions_of(project, wiring_step(project, string))
    assert {"solder", said, "uv"} <= set(got)
    assert said in cautions_of_supply(supply)


def test_every_supply_and_every_lamp():
    electric = table("electric")
    for key, row in electric["cell"].items():
        got = set(cautions_of_supply(Supply(id="s", name="S", kind="cells", row=key)))
        assert "cells" in got or "lithium" in got
        assert ("coin" in got) == ("coin" in row["name"]), key
    for key in electric["plug"]:
        assert "lithium" in cautions_of_supply(Supply(id="s", name="S", row=key)) or "mains" in cautions_of_supply(
            Supply(id="s", name="S", row=key)
        )
    for key in electric["led"]:
        got = set(cautions_of_lamp(Lamp(id="l", name="L", led=key, x=0, y=0, z=0)))
        assert ("uv" in got) == ("uv" in key), key
    for motion in ("beacon", "failing tube"):
        assert "flash" in cautions_of_lamp(Lamp(id="l", name="L", x=0, y=0, z=0, motion=motion))


@pytest.mark.parametrize("kind", ["resin", "filament"])
def test_what_follows_a_print(empty, kind):
    row = "resin_small" if kind == "resin" else "filament_small"
    brief = empty.brief.but(machines=(Machine(id="m", name="M", row=row),))
    file = PrintFile(
        id="f", name="F", asset="assets/f.stl", size=(9, 9, 9), volume=700, area=400, centre=(4, 4, 4), triangles=12, machine="m"
    )
    project = HandOver("Print it", "f").done(empty.but(brief=brief, prints=(file,)))
    said = {s.duty: cautions_of(project, s) for s in project.steps}
    assert all(said.values()), said
    assert all(("resin" in keys) == (kind == "resin") for keys in said.values())
    assert "blade" in said["take the supports off"]
    assert kind == "filament" or ("alcohol" in said["wash and dry"] and "uv" in said["cure"])


def test_every_machine():
    for key in table("machines")["machine"]:
        assert bool(cautions_of_row("machine", key)) == (key not in table("cautions")["harmless"]["machines"]), key
    assert {"laser", "chlorine"} & set(cautions_of_row("machine", "laser"))
    assert "chlorine" in table("cautions")["caution"]["laser"]["text"]


def test_boards_and_panes_of_a_case(empty):
    said = set(cautions_of_case(empty.case))  # a box of fibreboard behind a pane of glass
    assert {"blade", "board", "sanding", "glass"} <= said
    acrylic = empty.case.but(boards=empty.case.boards.but(pane_kind="acrylic"))
    assert set(cautions_of_case(acrylic)) == said - {"glass"}


def test_magnets_in_a_fit(empty):
    fit = Fit(id="f", name="Lid", kind="magnet", hole=4, peg=4)
    step = Step(id="s", name="Try it", work="build", tool="hand", fits=("f",))
    assert "magnets" in cautions_of(empty.but(fits=(fit,), steps=(step,)), step)


@pytest.mark.parametrize(
    ("name", "said"),
    [
        ("Etch the nameplate", "etch"), ("Strip the old paint", "etch"), ("Fill the cliff with expanding foam", "expanding"), ("Cut the mirror", "glass"),
        ("Cut the glass of the front", "glass"), ("Drill the boots", "drill"), ("Saw the base board", "blade"), ("Sand the seams", "sanding"),
        ("Wash the print in isopropyl alcohol", "alcohol"), ("Hot glue the rocks", "hot"), ("Bake the clay", "oven"), ("Cast the white metal wheels", "lead"),
        ("Solder the signal", "solder"), ("Clean with acetone", "solvent"), ("Cut the floor by laser", "laser"), ("Carve the foam with a hot wire", "hot_wire"),
        ("Charge the lithium cell", "lithium"), ("Mount the mirror", "glass"), ("Carve the stones", "blade"), ("Airbrush the sky", "mist"),
    ],
)  # fmt: skip
def test_what_a_step_is_called_brings_its_caution(empty, name, said):
    assert said in cautions_of(empty, Step(id="s", name=name, work="build", tool="hand"))


def test_words_are_whole_words(empty):
    for name in ("Sandstone colour on the wall", "Glassy stare of the gull", "Stripes on the awning", "Sketch the layout", "Blaserturm"):
        assert not cautions_of(empty, Step(id="s", name=name, coat="acrylic", tool="brush")), name


def test_the_worst_comes_first_and_each_once(empty):
    order = list(table("cautions")["caution"])
    step = Step(id="s", name="Sand and saw and sand", coat="sanding", tool="saw")
    got = cautions_of(empty, step)
    assert list(got) == sorted(set(got), key=order.index)


def test_each_caution_is_short_at_the_head_and_full_in_its_text():
    for key, row in table("cautions")["caution"].items():
        assert 3 <= len(row["head"]) <= 56, key
        assert row["text"].endswith("."), key


def test_every_caution_is_reached_by_something():
    """None is there that nothing ever brings."""
    known = table("cautions")
    named = {c for rule in known["when"] for c in rule["cautions"]}
    for name, section in (
        ("coats", "coat"),
        ("joins", "glue"),
        ("electric", "cell"),
        ("electric", "plug"),
        ("electric", "led"),
        ("machines", "machine"),
        ("tools", "tool"),
    ):
        named |= {c for row in table(name)[section].values() for c in row.get("cautions", ())}
    assert named <= set(known["caution"])
    said = {k for k, row in known["caution"].items() if row.get("said")}
    assert set(known["caution"]) - named - said <= {"heavy"}, "heavy stands with the weights"


def test_a_heavy_piece_tells_of_its_shelf(heron):
    from fondale.core.cautions import cautions_of_load

    assert cautions_of_load(12_000.0) == ("heavy",)
    assert cautions_of_load(300.0) == ()
