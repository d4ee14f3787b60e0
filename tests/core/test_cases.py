# SPDX-License-Identifier: MIT
"""Cases: their sides, rooms and openings as faces, what stands in them, and what is sawn for them."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fondale.core.edits import apply
from fondale.core.edits.new_things import add_piece, add_room
from fondale.core.model import Boards, Case, CaseOpening, CaseRoom, Place, Seat
from fondale.core.model.shapes import Opening
from fondale.core.prompts import all_prompts
from fondale.core.shapes import KINDS as SHAPES
from fondale.core.shapes.pierced import face, ring_of
from fondale.core.stage.cases import KINDS, case_faces, cells, extent, floor_over_shelf, layers, overlaps, upheld
from fondale.core.stage.clearance import outside
from fondale.core.stage.cutting import cut_list, cut_plan, outer
from fondale.core.stage.scene import build_scene, rest_places
from fondale.core.views.sight import piece_views
from tests.conftest import TODAY, boxed, derive, figure


def ring_area(ring):
    x, y = ring.T
    return 0.5 * float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))


def face_area(left):
    a, b = left.tris[:, 1] - left.tris[:, 0], left.tris[:, 2] - left.tris[:, 0]
    return float(
        ((left.rects[:, 1] - left.rects[:, 0]) * (left.rects[:, 3] - left.rects[:, 2])).sum()
        + (a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum() / 2
    )


# Openings of every form.


@pytest.mark.parametrize(
    ("form", "area", "loose"),
    [("lintel", 20 * 30, 1e-9), ("arch", 20 * 20 + np.pi * 50, 0.012), ("round", np.pi * 10 * 15, 0.012), ("broken", 20 * 30, 0.35)],
)
def test_an_opening_takes_its_own_area_out_of_the_wall(form, area, loose):
    hole = Opening(x=20, z=10, width=20, height=30, form=form)
    assert ring_area(ring_of(hole)) == pytest.approx(area, rel=loose)
    assert face_area(face(100, 60, (hole,))) == pytest.approx(6000 - ring_area(ring_of(hole)), abs=1e-3)


form = st.sampled_from(["lintel", "arch", "round", "broken"])
opening = st.builds(
    Opening, x=st.floats(-20, 110), z=st.floats(0, 60), width=st.floats(1, 80), height=st.floats(1, 60), form=form
)  # fmt: skip


@settings(max_examples=120, deadline=None)
@given(st.lists(opening, max_size=5))
def test_openings_that_lie_anyhow_leave_a_wall_whose_parts_add_up(holes):
    """By shapely's own union of the outlines, and no part overlaps another."""
    import shapely

    left = face(100.0, 60.0, tuple(holes))
    union = shapely.union_all([shapely.make_valid(shapely.polygons(ring_of(h))) for h in holes]) if holes else shapely.Polygon()
    true = shapely.area(shapely.difference(shapely.box(0, 0, 100, 60), union))
    assert face_area(left) == pytest.approx(true, abs=0.05)
    parts = [shapely.box(x0, z0, x1, z1) for x0, x1, z0, z1 in left.rects] + [shapely.polygons(t) for t in left.tris]
    assert shapely.area(shapely.union_all(parts)) == pytest.approx(true, abs=0.05)


# Faces.


def box_of(kind, **more):
    return Case(kind=kind, width=300, depth=200, height=150, **more)


@pytest.mark.parametrize("kind", list(KINDS))
def test_a_case_has_a_face_for_its_floor_and_for_each_side_that_is_of_board(kind):
    faces = case_faces(box_of(kind))
    areas = np.linalg.norm(np.cross(faces.rects[:, 1], faces.rects[:, 2]), axis=1)
    sizes = {"front": 300 * 150, "back": 300 * 150, "left": 200 * 150, "right": 200 * 150, "top": 300 * 200}
    boards = [sizes[s] for s, is_ in cells(box_of(kind))[0].sides.items() if is_ == "board"]
    if kind == "dome":  # its floor is round, as wide as the shorter side
        tris = np.linalg.norm(np.cross(faces.tris[:, 1] - faces.tris[:, 0], faces.tris[:, 2] - faces.tris[:, 0]), axis=1) / 2
        assert areas.sum() + tris.sum() == pytest.approx(np.pi * 100**2 + sum(boards), rel=0.005)
        return
    assert areas.sum() == pytest.approx(300 * 200 + sum(boards))


def test_faces_look_inwards():
    faces = case_faces(box_of("closed box"))
    normal = np.cross(faces.rects[:, 1], faces.rects[:, 2])
    middle = faces.rects[:, 0] + (faces.rects[:, 1] + faces.rects[:, 2]) / 2
    assert (((np.array([150, 100, 75]) - middle) * normal).sum(1) > 0).all()


def test_a_pane_with_a_frame_leaves_posts_and_rails():
    faces = case_faces(box_of("glazed box", panes=("left",), frame=10.0))
    areas = np.linalg.norm(np.cross(faces.rects[:, 1], faces.rects[:, 2]), axis=1)
    boards = 300 * 200 * 2 + 300 * 150 + 200 * 150
    frames = sum(w * 150 - (w - 20) * 130 for w in (300, 200))
    assert areas.sum() == pytest.approx(boards + frames)


@pytest.mark.parametrize("side", ["front", "back", "left", "right", "top"])
def test_an_opening_in_a_side_lies_where_it_is_told_from_outside(side, empty):
    """A ray from outside through its middle comes in; one beside it does not."""
    case = box_of("closed box", openings=(CaseOpening(side=side, x=30, z=20, width=40, height=30),))
    scene = build_scene(empty.but(case=case))
    inside = np.array([150.0, 100.0, 75.0])
    through = {
        "front": (50, -20, 35), "back": (250, 220, 35), "left": (-20, 150, 35), "right": (320, 50, 35), "top": (50, 35, 170),
    }  # fmt: skip
    eye = np.array(through[side], float)
    at = {"front": (50, 0, 35), "back": (250, 200, 35), "left": (0, 150, 35), "right": (300, 50, 35), "top": (50, 35, 150)}[side]
    goal = eye + (np.array(at) - eye) * 1.5  # straight in
    beside = eye + (np.array([0, 0, 60]) if side != "top" else np.array([80, 0, 0]))
    blocked = scene.rays.blocked(np.array([eye, beside]), np.array([goal, goal + beside - eye]))
    assert blocked.tolist() == [False, True]
    assert cells(case)[0].holds(inside)


def test_a_hatch_is_closed_and_leaves_the_board_whole():
    case = box_of("closed box", openings=(CaseOpening(side="back", x=30, width=40, height=30, use="hatch"),))
    assert len(case_faces(case).rects) == 6


def test_what_is_hidden_round_the_corner_of_a_doorway(empty):
    """A board in front with a doorway of 90 x 190 at x 40: who stands behind the board is seen through the doorway from the left seat alone."""
    case = Case(kind="closed box", width=380, depth=330, height=340, openings=(CaseOpening(x=40, width=90, height=190),))
    seats = tuple(Seat(id=n, name=n, stature_mm=1700, distance=500, offset=o, range=0) for n, o in (("left", -500.0), ("right", 500.0)))
    project = boxed(empty, figure("hider", 180, 120, mm=50)).but(case=case, seats=seats)
    project = project.but(brief=project.brief.but(shelf_height_mm=1400.0))
    views = {v.seat: v for v in piece_views(project, build_scene(project), seats)}
    assert views["left"].head_seen == pytest.approx(1.0, abs=0.05)
    assert views["right"].seen == 0.0


# Rooms.


def two_storeys(**more):
    room = CaseRoom(id="upper", name="Upper room", z=340.0, width=380, depth=330, height=340, **more)
    return Case(kind="open box", width=380, depth=330, height=340, rooms=(room,))


def test_a_room_upon_a_room_is_no_overlap_and_a_lower_one_is():
    assert overlaps(two_storeys()) == ()
    assert upheld(two_storeys(), cells(two_storeys())[1]) == pytest.approx(1.0)
    sunk = two_storeys().but(rooms=(two_storeys().rooms[0].but(z=330.0),))
    (_a, b, deep), = overlaps(sunk)  # fmt: skip
    assert (b.ident, deep) == ("upper", pytest.approx(10.0))


def test_rooms_speak_up(empty):
    case = two_storeys()
    said = lambda c: {f.code for f in all_prompts(derive(empty.but(case=c), TODAY)) if f.code.startswith("CASE")}  # noqa: E731
    assert said(case) == set()
    assert said(case.but(rooms=(case.rooms[0].but(z=300.0),))) == {"CASE-ROOMS"} | {"CASE-HANGS"}
    assert said(case.but(rooms=(case.rooms[0].but(x=200.0),))) == {"CASE-HANGS"}
    assert said(case.but(rooms=(case.rooms[0].but(front="board"),))) == {"CASE-BLIND"}


def test_a_blind_box_gets_its_opening_as_a_fix(empty):
    project = empty.but(case=box_of("closed box"))
    blind = next(f for f in all_prompts(derive(project, TODAY)) if f.code == "CASE-BLIND")
    mended = apply(project, *blind.fixes[0].edits)
    assert all(f.code != "CASE-BLIND" for f in all_prompts(derive(mended, TODAY)))


def test_pieces_stand_on_the_floor_of_their_room_and_on_what_is_there(empty):
    project = empty.but(case=two_storeys())
    kind = next(k for k in SHAPES if k.words == "Block")
    edit, block = add_piece(project, kind, room="upper")
    project = apply(project, edit)
    assert rest_places(project)[block].z == 340.0
    upstairs = figure("a", 190, 165).but(place=Place(x=190, y=165, room="upper"))
    downstairs = figure("b", 190, 165)
    project = project.but(pieces=(*project.pieces, upstairs, downstairs))
    places = rest_places(project)
    assert (places["a"].z, places["b"].z) == (360.0, 0.0)
    assert outside(project) == ()


def test_a_taken_room_lets_its_pieces_down(empty):
    project = empty.but(case=two_storeys(), pieces=(figure("a", 190, 165).but(place=Place(x=190, y=165, room="upper")),))
    from fondale.core.edits import remove
    from fondale.core.model import ROOMS

    done = apply(project, remove(ROOMS, project.get(ROOMS, "upper")))
    assert rest_places(done)["a"].z == 0.0


def test_too_tall_for_the_room_above_is_told_there(empty):
    low = two_storeys().but(rooms=(two_storeys().rooms[0].but(height=40.0),))
    project = empty.but(case=low, pieces=(figure("a", 190, 165).but(place=Place(x=190, y=165, room="upper")),))
    (found,) = outside(project)
    assert found.side == "top"
    assert found.by_mm == pytest.approx(10.0, abs=1.0)


def test_a_door_between_two_rooms_opens_both_walls(empty):
    """Told in one of them; and a hole in a ceiling is one in the floor above."""
    door = CaseOpening(side="right", x=50, width=40, height=80)
    beside = CaseRoom(id="next", name="Next", x=306.0, width=200, depth=200, height=150, front="board")
    case = Case(kind="open box", width=300, depth=200, height=150, openings=(door,), rooms=(beside,))
    rays = build_scene(empty.but(case=case)).rays
    assert rays.blocked(np.array([[250.0, 70, 40], [250.0, 150, 40]]), np.array([[400.0, 70, 40], [400.0, 150, 40]])).tolist() == [
        False,
        True,
    ]
    hole = CaseOpening(side="top", x=100, z=60, width=50, height=50)
    above = CaseRoom(id="up", name="Up", z=156.0, width=300, depth=200, height=150)
    case = Case(kind="open box", width=300, depth=200, height=150, openings=(hole,), rooms=(above,))
    rays = build_scene(empty.but(case=case)).rays
    assert rays.blocked(np.array([[125.0, 85, 50], [200.0, 85, 50]]), np.array([[125.0, 85, 250], [200.0, 85, 250]])).tolist() == [
        False,
        True,
    ]


def test_rooms_are_added_upon_the_highest(empty):
    project = empty.but(case=Case(width=380, depth=330, height=340, boards=Boards(board=6.0)))
    for _k in range(2):
        edit, _ident = add_room(project)
        project = apply(project, edit)
    assert [r.z for r in project.case.rooms] == [346.0, 692.0]
    assert extent(project.case)[1].tolist() == [380.0, 330.0, 1032.0]


# A dome.


def test_what_reaches_through_a_dome(empty):
    dome = Case(kind="dome", width=200, depth=200, height=200)
    assert outside(boxed(empty, figure("a", 100, 100, mm=120)).but(case=dome)) == ()
    (side,) = outside(boxed(empty, figure("a", 197, 100, mm=50)).but(case=dome))
    assert side.side == "glass"
    # In a corner of the square that the dome stands on: inside the box, outside the glass.
    assert outside(boxed(empty, figure("a", 30, 30, mm=50)).but(case=dome)) != ()


# What is sawn.


def test_sheets_are_glued_up_to_a_thickness():
    """25 mm of 3.2 mm: 8 sheets, 25.6 mm."""
    assert layers(25.0, 3.2) == 8
    case = Case(kind="open box", width=300, depth=200, height=150, boards=Boards(board=25.0, base=12.8, sheet=3.2))
    out = outer(case)
    assert out.sides["left"] == pytest.approx(25.6)
    assert floor_over_shelf(case) == pytest.approx(12.8)
    assert out.width == pytest.approx(300 + 2 * 25.6)
    back = next(p for p in cut_list(case) if p.name == "back")
    assert (back.layers, back.pieces, back.thick) == (8, 8, 3.2)


@pytest.mark.parametrize("kind", [k for k in KINDS if KINDS[k].cut and k not in ("dome", "frame base")])
def test_boards_and_the_hollow_fill_the_outside(kind):
    """By volume: what is sawn and the inside are the outside, where nothing of it is air."""
    case = box_of(kind, boards=Boards(board=6, base=12, pane=2))
    out = outer(case)
    sawn = sum(
        p.pieces * (p.long + (1.0 if "pane" in p.name else 0)) * (p.wide + (1.0 if "pane" in p.name else 0)) * p.thick
        for p in cut_list(case)
    )
    inside = 300 * 200 * 150
    corners = 0.0  # a corner has no boards over the open sides' thickness, which is nothing
    assert sawn + inside + corners == pytest.approx(out.width * out.depth * out.height, rel=0.06)
    if kind in ("open box", "closed box"):
        assert sawn + inside == pytest.approx(out.width * out.depth * out.height, rel=1e-9)


def test_a_wall_between_two_rooms_is_sawn_once():
    beside = CaseRoom(id="next", name="Next", x=306.0, width=200, depth=200, height=150, front="open")
    case = Case(kind="open box", width=300, depth=200, height=150, rooms=(beside,))
    names = [p.name for p in cut_list(case)]
    assert "right" in names
    assert "Next: left" not in names
    assert "Next: right" in names


def judge_sheets(plan, boards):
    """All pieces are there, as large as they are asked, on the sheet, and a kerf apart; returns how many."""
    left, sizes = {}, {p.name: sorted((p.long, p.wide)) for p in plan.panels}
    for panel in plan.panels:
        if panel.stuff == "board" and panel.name != "feet" and panel.name not in plan.too_large:
            left[panel.name, panel.thick] = left.get((panel.name, panel.thick), 0) + panel.pieces
    for sheet in plan.sheets:
        for k, a in enumerate(sheet.laid):
            left[a.name, sheet.thick] -= 1
            assert sorted((a.long, a.wide)) == pytest.approx(sizes[a.name], abs=1e-6)
            assert a.x >= 0
            assert a.x + a.long <= boards.sheet_long + 1e-6
            assert a.y + a.wide <= boards.sheet_wide + 1e-6
            for b in sheet.laid[k + 1 :]:
                apart = max(b.x - a.x - a.long, a.x - b.x - b.long, b.y - a.y - a.wide, a.y - b.y - b.wide)
                assert apart >= boards.kerf - 1e-6
    assert set(left.values()) <= {0}
    return sum(len(sheet.laid) for sheet in plan.sheets)


@settings(max_examples=40, deadline=None)
@given(
    st.sampled_from([k for k in KINDS if KINDS[k].cut]), st.floats(20, 900), st.floats(20, 600), st.floats(20, 600), st.floats(0, 5),
    st.sampled_from([0.0, 3.0, 3.2]),
)  # fmt: skip
def test_every_piece_comes_out_of_a_sheet(kind, width, depth, height, kerf, sheet):
    boards = Boards(kerf=kerf, sheet=sheet, box=40.0, fingers=15.0)
    case = Case(kind=kind, width=width, depth=depth, height=height, boards=boards, lip_top=10.0, frame=8.0)
    plan = cut_plan(case)
    assert judge_sheets(plan, boards) >= 1 or plan.too_large


def test_a_board_larger_than_any_sheet_is_told(empty):
    case = Case(kind="open box", width=1500, depth=700, height=300)
    plan = cut_plan(case)
    assert {"base", "top", "back"} <= set(plan.too_large)
    judge_sheets(plan, case.boards)
    assert any(f.code == "CASE-SHEET" for f in all_prompts(derive(empty.but(case=case), TODAY)))


def test_a_broad_case_wants_room_for_fingers(empty):
    project = boxed(empty, figure("a", 100, 100)).but(case=Case(width=420, depth=260, height=250))
    (found,) = (f for f in all_prompts(derive(project, TODAY)) if f.code == "CASE-FINGERS")
    mended = apply(project, *found.fixes[0].edits)
    assert all(f.code != "CASE-FINGERS" for f in all_prompts(derive(mended, TODAY)))
    assert floor_over_shelf(mended.case) == floor_over_shelf(project.case) + 18.0


def test_what_does_not_come_out_again(empty):
    """A block of 60 x 50 x 40 through a hatch: its least two sizes must go through."""
    from fondale.core.model import Piece
    from fondale.core.model.shapes import Box

    block = Piece(id="b", name="B", shape=Box(width=60, depth=50, height=40), place=Place(x=100, y=100))

    def said(w, h):
        case = box_of("closed box", openings=(CaseOpening(side="back", x=30, width=w, height=h, use="hatch"),))
        return {f.code for f in all_prompts(derive(empty.but(pieces=(block,), case=case), TODAY))}

    assert "CASE-SHUT" in said(45, 45)
    assert "CASE-SHUT" not in said(52, 41)
    assert "CASE-SHUT" not in said(41, 52)
