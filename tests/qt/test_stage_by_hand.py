# SPDX-License-Identifier: MIT
"""The Stage's main job from an empty project, by mouse and keys: a room with a doorway, one who hides, a backdrop, a storey, a load, three seats."""

import pytest

from fondale.core.derived import BACKDROPS, CUTS, VIEWS, WEIGHTS
from fondale.core.edits.wiring import add_lamp
from fondale.core.model import LAMPS, PIECES, SEATS
from fondale.core.shapes import KINDS
from fondale.core.stage.cases import floor_over_shelf
from fondale.core.views.sight import eye_of
from fondale.qt.furniture.fields import Choice


def field(ticket, name):
    return next(w for w, _r in ticket.rows if getattr(w, "edit", None) and w.edit.accessibleName() == name)


def choose(ticket, name, value):
    choice = next(w for w, _r in ticket.rows if isinstance(w, Choice) and w.box.accessibleName() == name)
    choice.box.activated.emit([v for v, _t in choice._options].index(value))


def kind(words):
    return next(k for k in KINDS if k.words == words)


def fill(d, ticket, **values):
    for name, text in values.items():
        d.type(field(ticket, name.replace("_", " ")).edit, text)


def test_the_main_job_of_the_stage(desk, empty):
    d = desk(empty, width=1500, height=1000)
    station = d.station("stage")
    station.turn_to("The case")
    case = station.page
    choose(case.ticket, "kind", "open box")
    fill(d, case.ticket, width="380", depth="330", height="340")
    d.click(d.button(case, "Add a room"))
    d.settle()
    # The scene: a wall across with a doorway of 90 x 190 at x 40, one who hides behind it, a backdrop at the back.
    station.turn_to("The scene")
    scene = station.page
    d.click(d.button(scene, "ground"))
    scene._add(kind("Wall with an opening"))
    d.settle()
    fill(d, scene.ticket, length="380", height="340", thick="6", x="190", y="100", from_left="40", wide="90", high="190")
    wall = d.project.pieces[0]
    (door,) = wall.shape.openings
    assert (door.x, door.width, door.height) == (40, 90, 190)
    scene._add(kind("Figure"))
    hider = d.project.pieces[-1].id
    d.session.select(PIECES, hider)
    d.settle()
    fill(d, scene.ticket, x="140", y="150")
    scene._add(kind("Backdrop"))
    drop = d.project.pieces[-1].id
    d.settle()
    fill(d, scene.ticket, width="120", height="150", x="85", y="320")
    # Three seats; the hider's face is seen from the left one alone.
    for k, (offset, name) in enumerate(((-420.0, "left"), (0.0, "middle"), (420.0, "right"))):
        if k:
            scene._add_seat()
        else:
            scene._choose("seats")
        d.settle()
        fill(d, scene.ticket, name=name, aside=str(offset), range="0", distance="500", eyes_at="1280")
    d.settle("quick", "stage")
    face = {d.project.get(SEATS, v.seat).name: v.head_seen for v in d.session.results[VIEWS] if v.piece == hider}
    assert face["left"] > 0.9
    assert face["middle"] == face["right"] == 0.0
    d.settle()
    # The backdrop: by hand from the outermost eyes through the doorway's edges.
    (view,) = d.session.results[BACKDROPS]
    near, back = 100 - 3, 100 + 3

    def through(eye_x, edge, y):
        return eye_x + (edge - eye_x) * (500 + 320) / (500 + y)

    eyes = [190 + o for o in (-420.0, 0.0, 420.0)]
    left = max(0.0, min(max(through(e, 40, y) for y in (near, back)) for e in eyes))
    right = min(380.0, max(min(through(e, 130, y) for y in (near, back)) for e in eyes))
    assert view.seen[0] == pytest.approx(left - 85, abs=0.5)
    assert view.seen[1] == pytest.approx(right - 85, abs=0.5)
    station.turn_to("Depth")
    assert station.page.needed.text().startswith("print it ")
    # A lamp under the ceiling: the lip that hides it from all three.
    edit, lamp = add_lamp(d.project)
    d.session.do(edit)
    for get, value in ((lambda m: m.x, 190.0), (lambda m: m.y, 40.0), (lambda m: m.z, 332.0)):
        d.session.do(put_value(LAMPS.at(lamp).then(get), value))
    d.settle("quick", "stage")
    card = next(f for f in d.session.results.prompts if f.code == "LAMP-BARE")
    lip = next(f for f in card.fixes if f.label.startswith("Add a "))
    eye = eye_of(d.project, d.project.seats[0])
    bulb = min(z for z in emitter_points(d, lamp))
    by_hand = 340 - (eye[2] + (bulb - eye[2]) * 500 / (500 + 40))
    assert float(lip.label.split()[2]) == pytest.approx(by_hand + 1, abs=3.0)
    d.session.do(*lip.edits)
    d.settle("quick", "stage")
    assert all(f.code != "LAMP-BARE" for f in d.session.results.prompts)
    # Upstairs a body hangs on two lines.
    station.turn_to("The scene")
    d.click(d.button(scene, next(w for w in floors(d) if w != "ground")))
    scene._add(kind("Block"))
    body = d.project.pieces[-1]
    assert body.place.room
    station.turn_to("Weight")
    weight = station.page
    d.session.select(PIECES, body.id)
    d.settle()
    fill(d, weight.ticket, weighed="150")
    for x in (-25, 25):
        d.click(d.button(weight, "Add a line"))
        d.settle()
        fill(d, weight.lines, hook_x=str(190 + x), tied_x=str(x))
    d.settle()
    assert d.session.results[WEIGHTS].pieces[body.id].hang.pulls == pytest.approx([75, 75], abs=0.5)
    # The box's size and the cut list are in hand.
    plan = d.session.results[CUTS]
    assert plan.outer.width == pytest.approx(380 + 2 * 6)
    assert plan.outer.height == pytest.approx(340 + 6 + 340 + 6 + floor_over_shelf(d.project.case))
    assert {"base", "left", "right", "back", "top", "Upper room: left", "Upper room: top"} <= {p.name for p in plan.panels}
    assert not plan.too_large
    assert d.project.get(PIECES, drop).shape.width == 120
    while d.session.document.undo_label:
        d.session.document.undo()
    assert d.project == empty


def put_value(spot, value):
    from fondale.core.edits import put

    return put(spot, value, "Move")


def emitter_points(d, lamp):
    from fondale.core.emitters import emitter_of

    return emitter_of(d.project.get(LAMPS, lamp)).seen()[:, 2].tolist()


def floors(d):
    return [
        b.text()
        for b in d.station("stage").page.findChildren(type(d.button(d.station("stage").page, "ground")))
        if b.text().startswith(("ground", "at "))
    ]
