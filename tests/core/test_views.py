# SPDX-License-Identifier: MIT
import numpy as np
import pytest

from fondale.core.emitters import emitter_of
from fondale.core.light.frames import window
from fondale.core.light.picture import develop
from fondale.core.model import Case, Lamp, Piece, Place, Seat
from fondale.core.model.shapes import Box, Wall
from fondale.core.stage.cases import floor_over_shelf
from fondale.core.stage.scene import build_scene
from fondale.core.views.places import Target, hidings, look_at
from fondale.core.views.sight import bare_lamps, eye_height_mm, eye_of, eyes_of, hidden_floor, piece_views
from tests.conftest import boxed, figure

FRONT = Seat(id="s", name="Seat", stature_mm=1300 / 0.936, distance=600, range=0)


def seated(project, seat=FRONT, shelf=1100.0):
    """The case's floor, on its base, ``shelf`` mm over the floor of the room."""
    brief = project.brief.model_copy(update={"shelf_height_mm": shelf - floor_over_shelf(project.case)})
    return project.model_copy(update={"seats": (seat,), "brief": brief})


def test_eyes_stand_where_the_segments_put_them():
    # Standing: 0.936 of stature [drillis1966].
    assert eye_height_mm(Seat(id="a", name="A", stature_mm=1750)) == pytest.approx(1638)
    # Sitting: chair 450 mm and sitting eye height; the US Army survey of 1988 gives 792 mm for a mean man of
    # 1756 mm (from memory), the segments give 0.456 of stature, 801 mm.
    sitting = eye_height_mm(Seat(id="a", name="A", stature_mm=1756, sitting=True))
    assert sitting - 450 == pytest.approx(792, rel=0.02)


def test_the_range_moves_the_head_sideways(empty):
    seat = FRONT.model_copy(update={"range": 400.0, "offset": 50.0})
    project = seated(boxed(empty), seat)
    eyes = eyes_of(project, seat)
    assert eyes[:, 0] == pytest.approx(150 + 50 + np.linspace(-200, 200, 5))
    assert eye_of(project, seat)[1:] == pytest.approx([-600, 200])
    assert len(eyes_of(project, FRONT)) == 1


def test_a_free_figure_is_wholly_seen(empty):
    project = seated(boxed(empty, figure("a", 150, 100)))
    view = piece_views(project, build_scene(project), project.seats)[0]
    assert view.seen == pytest.approx(1.0, abs=0.02)
    assert view.head_seen == pytest.approx(1.0, abs=0.02)
    assert view.blocker == ""


def test_a_board_in_front_hides_as_much_as_it_covers(empty):
    # A board right before a slab of the same width, of half its height, eye level far away: half is hidden.
    slab = Piece(id="slab", name="Slab", shape=Box(width=60, depth=2, height=80), place=Place(x=150, y=100, z=0))
    board = Piece(id="board", name="Board", shape=Box(width=60, depth=1, height=40), place=Place(x=150, y=97, z=0), role="scenery")
    seat = FRONT.model_copy(update={"distance": 20_000.0, "stature_mm": 1140 / 0.936})
    project = seated(boxed(empty, slab, board), seat)
    view = piece_views(project, build_scene(project), project.seats)[0]
    assert view.seen == pytest.approx(0.5, abs=0.06)
    assert view.blocker == "board"


def test_a_post_before_the_face(empty):
    post = Piece(id="post", name="Post", shape=Box(width=14, depth=6, height=90), place=Place(x=150, y=60, z=0), role="scenery")
    project = seated(boxed(empty, figure("a", 150, 100), post))
    view = piece_views(project, build_scene(project), project.seats)[0]
    assert view.head_seen < 0.3
    assert view.blocker == "post"


def test_the_case_hides_what_is_above_its_opening(empty):
    project = seated(boxed(empty, figure("a", 150, 190, mm=50)), shelf=200.0)
    views = piece_views(project, build_scene(project), project.seats)
    assert views[0].seen < 0.5


def test_a_wall_hides_from_aside_what_a_dome_shows(empty):
    """Where no line from the eye enters through the front, the boards are in the way."""
    project = seated(boxed(empty, figure("a", 30, 150, mm=50)), shelf=1200.0)
    aside = project.seats[0].but(offset=-1500.0, range=0.0)
    for kind, seen in (("glazed box", 0.0), ("dome", 1.0)):
        other = project.but(case=project.case.but(kind=kind), seats=(aside,))
        assert piece_views(other, build_scene(other), other.seats)[0].seen == pytest.approx(seen, abs=0.02)


def test_a_lamp_under_the_ceiling_is_bare_until_the_lip_is_there(empty):
    lamp = Lamp(id="l", name="L", x=150, y=30, z=194)
    project = seated(boxed(empty), shelf=1150.0).model_copy(update={"lamps": (lamp,)})
    found = bare_lamps(project, build_scene(project), project.seats[0])
    assert [b.lamp for b in found] == ["l"]
    lip = hidings(project, {"l"})["l"].lip
    assert lip is not None
    mended = project.model_copy(update={"case": project.case.model_copy(update={"lip_top": lip})})
    assert bare_lamps(mended, build_scene(mended), mended.seats[0]) == ()
    short = project.model_copy(update={"case": project.case.model_copy(update={"lip_top": lip - 4})})
    assert bare_lamps(short, build_scene(short), short.seats[0]) != ()


def test_the_lip_by_similar_triangles(empty):
    # Eye 600 mm before the front at height 150, bulb bottom 30 mm behind it at 191.5: the line crosses the front
    # at 150 + 41.5 x 600 / 630 = 189.5, so the lip must reach 10.5 mm down; with its margin, up to 12 mm.
    project = seated(boxed(empty), shelf=1150.0).model_copy(update={"lamps": (Lamp(id="l", name="L", x=150, y=30, z=194),)})
    lip = hidings(project, {"l"})["l"].lip
    assert 10.5 <= lip <= 12.5


def test_hidden_floor_lies_behind_the_wall(empty):
    wall = Piece(id="w", name="Wall", shape=Box(width=300, depth=4, height=200), place=Place(x=150, y=120, z=0), role="scenery")
    project = seated(boxed(empty, wall))
    points, hidden = hidden_floor(project, build_scene(project), project.seats[0])
    assert hidden[points[:, 1] > 125].all()
    assert not hidden[(points[:, 1] < 110)].any()


def test_nothing_placed_nothing_seen(empty):
    project = seated(boxed(empty))
    assert piece_views(project, build_scene(project), project.seats) == ()
    assert bare_lamps(project, build_scene(project), project.seats[0]) == ()


def test_eyes_rise_and_sink_and_a_chair_is_as_high_as_it_is_told(empty):
    """A bulb 1 mm under a lip's edge in the sight line of the middle eye is seen by the lower eyes alone; similar triangles say by which."""
    seat = Seat(id="s", name="s", stature_mm=1700, distance=600, range=0)
    lip, deep, below = 20.0, 100.0, 8.0
    project = boxed(empty, lip_top=lip).model_copy(
        update={"brief": empty.brief.model_copy(update={"shelf_height_mm": 1391.0 - floor_over_shelf(empty.case)}), "seats": (seat,)}
    )
    eye = eye_of(project, seat)[2]
    assert eye == pytest.approx(1700 * 0.936 - 1391)
    edge = 200 - lip
    at = eye + (edge - eye) * (600 + deep) / 600 + below  # over the line from the middle eye through the edge
    lamp = Lamp(id="l", name="L", x=150, y=deep, z=at)
    hides = lambda rise: bare_lamps(project.model_copy(update={"lamps": (lamp,)}), build_scene(project), seat.but(rise=rise)) == ()  # noqa: E731
    need = 2 * (below + 2.0) * 600 / deep  # the line through the edge rises by rise / 2 x deep / 600 there; a bulb has a size
    assert hides(0.0)
    assert hides(0.3 * need)
    assert not hides(1.5 * need)
    assert len(eyes_of(project, seat.but(rise=100, range=200))) == 15
    # A wheelchair's seat is about 480 mm high: common practice, no source. Sitting eye: [drillis1966].
    sits = seat.but(sitting=True, chair=480)
    assert eye_height_mm(sits) == pytest.approx(480 + 1700 * (0.520 - 0.064))
    assert eye_height_mm(sits.but(chair=0)) == pytest.approx(450 + 1700 * (0.520 - 0.064))


# From where a spot is seen, and what hides it.


def behind_a_slit(empty):
    """A bulb 100 mm behind a board with a slit of 20 mm in it, 40 mm behind the front; the eye level with it."""
    from fondale.core.model.shapes import Opening, Wall

    slit = Wall(length=300, height=200, thickness=0.01, openings=(Opening(x=140, z=60, width=20, height=80),))
    board = Piece(id="board", name="Board", shape=slit, place=Place(x=150, y=40, z=0), role="scenery")
    lamp = Lamp(id="l", name="L", x=150, y=140, z=100)
    seat = FRONT.but(stature_mm=1200 / 0.936, distance=600.0, range=0.0)
    return seated(boxed(empty, board), seat).but(lamps=(lamp,))


def test_the_span_from_which_a_bulb_is_seen_by_similar_triangles(empty):
    project = behind_a_slit(empty)
    found = look_at(project, Target("lamp", "l"))
    points = emitter_of(project.lamps[0]).seen()
    low = min(x + (140 - x) * (600 + y) / (y - 40) for x, y, _z in points)
    high = max(x + (160 - x) * (600 + y) / (y - 40) for x, y, _z in points)
    ((a, b),) = found.sights[0].across
    assert (a, b) == (pytest.approx(low, abs=0.6), pytest.approx(high, abs=0.6))
    low, high = (f(z + (e - z) * (600 + y) / (y - 40) for _x, y, z in points) for f, e in ((min, 60), (max, 140)))
    ((a, b),) = found.sights[0].up
    assert (a, b) == (pytest.approx(low, abs=0.8), pytest.approx(high, abs=0.8))
    assert found.sights[0].share == 1.0


def test_what_is_nowhere_to_be_seen(empty):
    project = behind_a_slit(empty)
    closed = project.but(pieces=(project.pieces[0].but(shape=Box(width=300, depth=4, height=200)),))
    found = look_at(closed, Target("lamp", "l"))
    assert [s.across for s in found.sights] == [()]
    assert found.hiding is None
    assert look_at(closed, Target("lamp", "gone")) is None
    assert look_at(closed, Target("face", "board")) is None


def test_from_where_the_hidden_one_appears(empty):
    """A figure behind a board: its places are those from which the line past the board's edge reaches it."""
    board = Piece(id="board", name="Board", shape=Box(width=150, depth=2, height=200), place=Place(x=75, y=80, z=0), role="scenery")
    project = seated(boxed(empty, figure("hider", 100, 150), board))
    found = look_at(project, Target("face", "hider"))
    (span,) = found.sights[0].across
    assert span[0] > 150  # only from the right of the board's edge
    aside = project.but(seats=(FRONT.but(offset=span[0] - 150 + 15),))
    assert piece_views(aside, build_scene(aside), aside.seats)[0].head_seen > 0
    before = project.but(seats=(FRONT.but(offset=span[0] - 150 - 15),))
    assert piece_views(before, build_scene(before), before.seats)[0].head_seen == 0


def test_returns_and_shifts_hide_what_they_promise(empty):
    for x, y, z in ((5.0, 40.0, 90.0), (150.0, 30.0, 194.0), (150.0, 100.0, 150.0)):
        project = seated(boxed(empty), shelf=1150.0).but(lamps=(Lamp(id="l", name="L", x=x, y=y, z=z),))
        found = hidings(project, {"l"})["l"]
        if found.returns is not None:
            mended = project.but(case=project.case.but(lip_sides=found.returns))
            assert bare_lamps(mended, build_scene(mended), mended.seats[0]) == ()
            less = project.but(case=project.case.but(lip_sides=found.returns - 4))
            assert bare_lamps(less, build_scene(less), less.seats[0]) != ()
        if found.shift is not None:
            dx, dy, dz = found.shift
            moved = project.but(lamps=(project.lamps[0].but(x=x + dx, y=y + dy, z=z + dz),))
            assert bare_lamps(moved, build_scene(moved), moved.seats[0]) == ()
    lipped = seated(boxed(empty, lip_top=12.0), shelf=1150.0).but(lamps=(Lamp(id="l", name="L", x=150, y=30, z=185),))
    shift = hidings(lipped, {"l"})["l"].shift
    assert shift is not None
    assert shift[2] > 0 or shift[1] != 0


def test_a_flat_board_is_shown_whole(empty):
    # Eight rows on a board of 400 x 400 mm, looked down on by a standing visitor: each row's foot and head lie within the picture.
    rows = tuple(
        Piece(id=f"r{k}", name="Row", shape=Box(width=20, depth=10, height=25), place=Place(x=200, y=25 + 50 * k, z=0)) for k in range(8)
    )
    case = Case(kind="open base", width=400, depth=400, height=60)
    project = empty.but(case=case, pieces=rows)
    scene = build_scene(project)
    eye = eye_of(project, project.seats[0])
    x0, x1, z0, z1 = window(scene, eye)
    for row in rows:
        for z in (0.0, 25.0):
            share = -eye[1] / (row.place.y - eye[1])
            px, pz = eye[0] + (row.place.x - eye[0]) * share, eye[2] + (z - eye[2]) * share
            assert x0 <= px <= x1
            assert z0 <= pz <= z1


def test_colours_that_no_screen_shows_keep_their_hue():
    # Linear light of a red and of an amber LED of the table, ever brighter: green never comes near red, until all runs to white.
    for rgb in ((1.0, 0.02, 0.0), (1.0, 0.36, 0.0)):
        for bright in (0.05, 0.3, 1.0):
            out = develop(np.full((1, 1, 3), bright) * np.array(rgb) / np.dot(rgb, (0.2126, 0.7152, 0.0722)), 1.0)[0, 0] / 255
            linear = np.where(out <= 0.04045, out / 12.92, ((out + 0.055) / 1.055) ** 2.4)
            assert linear[1] / linear[0] < rgb[1] + 0.12, (rgb, bright)
            assert linear[2] < 0.25
    white = develop(np.full((2, 2, 3), 0.5), 1.0)
    assert np.ptp(white) == 0


def test_the_base_under_a_dome_is_round(empty):
    project = empty.but(case=Case(kind="dome", width=200, depth=200, height=250))
    scene = build_scene(project)
    floor = scene.all_tris[np.abs(scene.all_tris[:, :, 2]).max(1) < 1e-6]
    area = np.linalg.norm(np.cross(floor[:, 1] - floor[:, 0], floor[:, 2] - floor[:, 0]), axis=1).sum() / 2
    assert area == pytest.approx(np.pi * 100**2, rel=0.005)


@pytest.mark.parametrize("kind", ["open box", "glazed box", "open base"])
@pytest.mark.parametrize(
    "at",
    [
        (150, 100, 0),
        (150, 100, 0.5),
        (150, 100, 1),
        (150, 120, 50),
        (150, 117, 50),
        (0, 100, 50),
        (300, 100, 50),
        (150, 200, 50),
        (150, 100, 200),
        (50, 117, 0),
    ],
)
def test_a_lamp_on_a_floor_or_in_a_wall_is_looked_for_too(empty, kind, at):
    # Where everything is in the way of every shift, nothing is left to be asked; that is no trouble.
    wall = Piece(id="w", name="W", shape=Wall(length=200, height=100, thickness=6), place=Place(x=150, y=120), role="scenery")
    x, y, z = at
    project = empty.but(
        case=Case(kind=kind, width=300, depth=200, height=200), pieces=(wall,), lamps=(Lamp(id="l", name="L", x=x, y=y, z=z),)
    )
    assert set(hidings(project, {"l"})) == {"l"}
