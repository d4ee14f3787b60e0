# SPDX-License-Identifier: MIT
"""What everything weighs, where its weight lies, and whether it stands: each piece, and the whole on its base."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
import shapely

from fondale.core.arrays import Floats
from fondale.core.how import PRACTICE, How, Told
from fondale.core.materials import density, material_name
from fondale.core.model import PIECES, Case, Piece, Place, Project, Sling
from fondale.core.model.shapes import Shape
from fondale.core.prints.balance import SAFE_DEG
from fondale.core.prints.jobs import PrintJob, weight_of
from fondale.core.shapes import kind_of
from fondale.core.shapes.solid import Solid, placed
from fondale.core.stage.cases import dome_over, floor_over_shelf
from fondale.core.stage.cutting import Panel, cut_list, outer
from fondale.core.stage.hanging import NOTHING, Hang, Loads, hang
from fondale.core.stage.scene import height_under, on_piece, placed_solid, rest_places
from fondale.core.stage.solids import measured_height
from fondale.core.stage.together import of_one_body
from fondale.core.words import digits
from fondale.knowledge import table

OPEN = 1e-3  # of all its faces: what a closed body may be out of balance, by rounding
CONTACT_MM = 0.6  # what lies no higher over its lowest point touches the ground
Known = Literal["weighed", "printed", "reckoned", ""]


@dataclass(frozen=True)
class Weight:
    """One piece: its ``grams`` (0: not known) and how they are known, its centre of mass (3,) where it stands, and how far it may lean.

    ``tip_deg``, of its body with its parts and what hangs on them, is None for what hangs or is part of another piece; 0 where the weight is
    not over the foot. ``overhang_mm`` is how far the weight of a part and its loads lies beyond the edge of what carries it. ``hang`` are the
    pulls of its lines. ``carried_g`` are its parts and what hangs on them and on it.
    """

    grams: float
    known: Known
    centre: tuple[float, float, float]
    tip_deg: float | None
    overhang_mm: float
    hang: Hang | None
    carried_g: float = 0.0

    @property
    def arm_gmm(self) -> float:
        """The turning moment at the joint of a part, in g mm."""
        return (self.grams + self.carried_g) * self.overhang_mm


@dataclass(frozen=True)
class Whole:
    """All together: pieces and case in grams, the centre of mass over the shelf (3,), the angle at which it tips and over which edge.

    ``widen_mm`` is by how much the base must grow on every side to lean 15 degrees; ``feet`` are the loads of four feet in its corners, front
    left, front right, back left, back right. ``unknown`` are pieces that nobody knows the weight of.
    """

    grams: float
    case_grams: float
    centre: tuple[float, float, float]
    tip_deg: float
    edge: str
    widen_mm: float
    feet: tuple[float, float, float, float]
    unknown: tuple[str, ...]


@dataclass(frozen=True)
class Weights:
    """The grams of every piece, on the stage or not; every placed piece; and the whole."""

    grams: dict[str, float]
    pieces: dict[str, Weight]
    whole: Whole


def volume_of(solid: Solid) -> tuple[float, Floats]:
    """Volume in mm3 and centre (3,) of a closed solid that stands on z = 0, by the divergence theorem; what lies on the ground needs no face.
    A solid that is open elsewhere has none: its faces do not balance, and the theorem would lie.
    """
    tris = solid.triangles()
    faces = np.cross(tris[:, 1] - tris[:, 0], tris[:, 2] - tris[:, 0])
    balanced = float(np.hypot(*faces.sum(0)[:2])) <= OPEN * float(np.linalg.norm(faces, axis=1).sum())
    six = np.einsum("ij,ij->i", tris[:, 0], np.cross(tris[:, 1], tris[:, 2]))
    volume = float(six.sum()) / 6
    if volume <= 1e-9 or not balanced:
        low, high = tris.reshape(-1, 3).min(0), tris.reshape(-1, 3).max(0)
        return 0.0, (low + high) / 2
    return volume, (tris.sum(1) * six[:, None]).sum(0) / (24 * volume)


@lru_cache(maxsize=256)
def _volume(shape: Shape, height: float) -> tuple[float, tuple[float, float, float]]:
    kind = kind_of(shape)
    volume, centre = volume_of(kind.solid(shape, height))
    if kind.sides:  # what is round holds more than its prism
        volume *= 2 * math.pi / kind.sides / math.sin(2 * math.pi / kind.sides)
    x, y, z = centre.tolist()
    return volume, (x, y, z)


def grams_of(piece: Piece, jobs: Mapping[str, PrintJob]) -> tuple[float, Known]:
    """What a piece weighs and how that is known: weighed, from the print shop, or reckoned from its volume and what it is of."""
    if piece.weight_g:
        return piece.weight_g, "weighed"
    printed = weight_of(piece, jobs)
    if printed:
        return printed, "printed"
    if piece.material:
        volume, _centre = _volume(piece.shape, measured_height(piece))
        grams = volume / 1000 * density(piece.material) * piece.filled
        return (grams, "reckoned") if grams > 0 else (0.0, "")
    return 0.0, ""


def _centre(piece: Piece, place: Place) -> Floats:
    _volume_mm3, centre = _volume(piece.shape, measured_height(piece))
    out: Floats = on_piece(piece, place, np.array([centre]))[0]
    return out


def _foot(body: Sequence[Piece], places: Mapping[str, Place]) -> shapely.Geometry:
    """Where a body touches the ground, in plan: its first piece, and the parts that reach as low."""
    corners = [placed_solid(piece, places[piece.id]).corners() for piece in body]
    every = np.concatenate(corners)
    low = every[every[:, 2] <= corners[0][:, 2].min() + CONTACT_MM]
    return shapely.convex_hull(shapely.multipoints(low[:, :2]))


def _tip(foot: shapely.Geometry, centre: Floats, floor: float) -> float:
    """How far it may lean: atan(distance from under its centre to the nearest edge of its foot / height of the centre)."""
    under = shapely.points(centre[:2])
    if foot.geom_type != "Polygon" or not foot.covers(under):
        return 0.0
    return math.degrees(math.atan2(float(foot.exterior.distance(under)), max(float(centre[2]) - floor, 1e-9)))


def lines_of_piece(piece: Piece, place: Place) -> tuple[Floats, Floats]:
    """Where the lines of a piece are tied to it, and their hooks, (n, 3) each, in the case's axes."""
    tied = np.array([[s.at_x, s.at_y, s.at_z] for s in piece.slings]).reshape(-1, 3)
    hooks = np.array([[s.x, s.y, s.z] for s in piece.slings]).reshape(-1, 3)
    return on_piece(piece, place, tied), hooks


def weights(project: Project, jobs: Mapping[str, PrintJob]) -> Weights:
    """Every placed piece and the whole. Takes a tenth of a second where bodies are built for the first time."""
    scales = _Scales(project, jobs)
    out = {p.id: scales.weigh(p) for p in project.pieces if p.id in scales.places}
    grams = {p.id: scales.grams[p.id][0] for p in project.pieces}
    return Weights(grams, out, _whole(project, out, scales.acting(out)))


class _Scales:
    """What the pieces of a project weigh, alone, as bodies with their parts, and with what hangs on them."""

    def __init__(self, project: Project, jobs: Mapping[str, PrintJob]) -> None:
        self.project, self.places = project, rest_places(project)
        self.grams = {p.id: grams_of(p, jobs) for p in project.pieces}
        self.centres = {p.id: _centre(p, self.places[p.id]) for p in project.pieces if p.id in self.places}
        self._hangs: dict[str, Hang | None] = {}  # None: being worked out

    def body(self, piece: Piece) -> tuple[Piece, ...]:
        """A placed piece and its placed parts."""
        return tuple(p for p in of_one_body(self.project, piece.id) if p.id in self.places)

    def mass(self, body: Sequence[Piece]) -> tuple[float, Floats]:
        """Grams and centre of mass of a body; that of its first piece where nobody knows."""
        grams = np.array([self.grams[p.id][0] for p in body])
        total = float(grams.sum())
        if total <= 0:
            return 0.0, self.centres[body[0].id]
        return total, grams @ np.array([self.centres[p.id] for p in body]) / total

    def hang(self, piece: Piece) -> Hang | None:
        """The pulls of the lines of a piece, with its parts and all that hangs on it; None within a ring of pieces that hang on each other."""
        if piece.id not in self._hangs:
            self._hangs[piece.id] = None
            body = self.body(piece)
            self._hangs[piece.id] = hang(*self.mass(body), *lines_of_piece(piece, self.places[piece.id]), self.loads(body))
        return self._hangs[piece.id]

    def loads(self, body: Sequence[Piece]) -> Loads:
        """What hangs on the pieces of a body. What does not hang still will hang straight down, each hook with its share."""
        on = {p.id for p in body}
        at, forces = [], []
        for piece in self.project.pieces:
            if piece.id in on or piece.id not in self.places or not any(s.on in on for s in piece.slings):
                continue
            found = self.hang(piece)
            if found is None:
                continue
            tied, hooks = lines_of_piece(piece, self.places[piece.id])
            ways = (tied - hooks) / np.linalg.norm(tied - hooks, axis=1)[:, None]
            pulls = ways * found.pulls[:, None]
            if not found.still:
                pulls = np.outer(found.pulls / max(float(found.pulls.sum()), 1e-9) * self._hung_grams(piece), [0.0, 0.0, -1.0])
            for sling, hook, pull in zip(piece.slings, hooks, pulls, strict=True):
                if sling.on in on:
                    at.append(hook)
                    forces.append(pull)
        return Loads(np.array(at), np.array(forces)) if at else NOTHING

    def _hung_grams(self, piece: Piece) -> float:
        body = self.body(piece)
        return self.mass(body)[0] - float(self.loads(body).forces[:, 2].sum())

    def weigh(self, piece: Piece) -> Weight:
        """One placed piece."""
        body, (grams, known) = self.body(piece), self.grams[piece.id]
        x, y, z = self.centres[piece.id].tolist()
        loads = self.loads(body)
        total, centre = self.mass(body)
        carried = total - grams - float(loads.forces[:, 2].sum())
        if piece.slings:
            return Weight(grams, known, (x, y, z), None, 0.0, self.hang(piece), carried)
        floor = self.places[piece.id].z or 0.0
        if piece.part_of:
            over = _overhang(self.project, piece, self.places, loads.foot(total, centre, floor))
            return Weight(grams, known, (x, y, z), None, over, None, carried)
        acting = loads.foot(total, centre, floor)
        return Weight(grams, known, (x, y, z), _tip(_foot(body, self.places), acting, floor), 0.0, None, carried)

    def acting(self, found: Mapping[str, Weight]) -> dict[str, Floats]:
        """Where the weight of each piece acts on the whole (3,): what hangs swings as the case leans, so it acts as high as its hooks are."""
        out = {ident: np.array(weight.centre) for ident, weight in found.items()}
        for piece in self.project.pieces:
            if piece.id in out and piece.slings:
                for one in self.body(piece):
                    out[one.id][2] = self._height(piece, frozenset())
        return out

    def _height(self, piece: Piece, below: frozenset[str]) -> float:
        """How high the hooks of a piece are, and of what they are on, up to what does not hang."""
        found = self.hang(piece)
        shares = np.ones(len(piece.slings)) if found is None or found.pulls.sum() <= 0 else found.pulls
        heights = []
        for sling in piece.slings:
            owner = self.project.find(PIECES, sling.on)
            while owner is not None and not owner.slings and owner.part_of:
                owner = self.project.find(PIECES, owner.part_of)
            swings = owner is not None and owner.slings and owner.id not in below and owner.id != piece.id
            heights.append(self._height(owner, below | {piece.id}) if owner is not None and swings else sling.z)
        return float(np.average(heights, weights=shares))


def _overhang(project: Project, piece: Piece, places: Mapping[str, Place], centre: Floats) -> float:
    """How far the weight of a part, acting at ``centre``, lies beyond the outline of what it is part of, unless something else is under it."""
    owner = next((p for p in project.pieces if p.id == piece.part_of), None)
    if owner is None or owner.id not in places:
        return 0.0
    low = places[piece.id].z or 0.0
    for below in project.pieces:
        if below.id != piece.id and below.role == "scenery" and below.id in places:
            height = height_under(below, places[below.id], float(centre[0]), float(centre[1]))
            if height is not None and abs(height - low) < CONTACT_MM:
                return 0.0
    if low <= CONTACT_MM:
        return 0.0
    corners = placed_solid(owner, places[owner.id]).corners()
    outline = shapely.convex_hull(shapely.multipoints(corners[:, :2]))
    return float(shapely.distance(outline, shapely.points(centre[:2])))


def case_mass(project: Project) -> tuple[float, Floats]:
    """The case's boards and panes in grams, each where it stands, less what is cut out of them, and the centre of them all. A niche weighs
    nothing here.
    """
    case, known = project.case, table("materials")["case"]
    parts = [(p.pieces * (p.long * p.wide - _cut_out(p)) * p.thick / 1000 * density(known[p.stuff]), p.at) for p in cut_list(case)]
    if case.kind == "dome" and parts:
        grams, at = parts[0]
        parts[0] = grams * math.pi / 4 * min(case.width, case.depth) / max(case.width, case.depth), at  # its base is sawn round
        area, high = _dome(case)
        x, y = dome_over(case)[0].tolist()
        parts.append((area * case.boards.pane / 1000 * density(known[case.boards.pane_kind]), (x, y, high)))
    total = sum(grams for grams, _at in parts)
    if total <= 0:
        return 0.0, np.zeros(3)
    return total, sum((grams * np.array(at) for grams, at in parts), np.zeros(3)) / total


def _cut_out(panel: Panel) -> float:
    """The area in mm² of what is cut out of one board."""
    return min(0.95 * panel.long * panel.wide, sum(o.width * o.height * (math.pi / 4 if o.form == "round" else 1.0) for o in panel.holes))


def _dome(case: Case) -> tuple[float, float]:
    """The area in mm² of the glass of a dome, and how high its middle lies: an upright pipe and a round cap of rings."""
    _middle, radius, spring = dome_over(case)
    t = (np.arange(200) + 0.5) / 200 * math.pi / 2
    cap = case.height - spring
    ring = 2 * math.pi * radius * np.cos(t) * np.hypot(radius * np.sin(t), cap * np.cos(t)) * math.pi / 400
    pipe = 2 * math.pi * radius * spring
    area = float(ring.sum()) + pipe
    return area, float(pipe * spring / 2 + ring @ (spring + cap * np.sin(t))) / area


def _whole(project: Project, pieces: dict[str, Weight], acting: Mapping[str, Floats]) -> Whole:
    case, out, floor = project.case, outer(project.case), floor_over_shelf(project.case)
    own, at = case_mass(project)
    unknown = tuple(p.id for p in project.pieces if p.id in pieces and not pieces[p.id].known)
    grams = own + sum(w.grams for w in pieces.values())
    moment = own * at + sum((w.grams * acting[i] for i, w in pieces.items()), np.zeros(3))
    centre = moment / grams if grams > 0 else np.array([case.width / 2, case.depth / 2, 0.0])
    x0, x1 = -out.sides["left"], out.width - out.sides["left"]
    y0, y1 = -out.sides["front"], out.depth - out.sides["front"]
    high = max(float(centre[2]) + floor, 1e-9)
    edges = {"left": centre[0] - x0, "right": x1 - centre[0], "front": centre[1] - y0, "back": y1 - centre[1]}
    edge = min(edges, key=lambda k: float(edges[k]))
    least = float(edges[edge])
    need = high * math.tan(math.radians(SAFE_DEG))
    # Four stiff feet: each corner's share is that of a bilinear weight about the centre, the one that adds nothing of itself.
    sx, sy = float((centre[0] - x0) / (x1 - x0)), float((centre[1] - y0) / (y1 - y0))
    feet = tuple(grams * (sx if right else 1 - sx) * (sy if back else 1 - sy) for back in (False, True) for right in (False, True))
    cx, cy, cz = (float(v) for v in centre)
    tip = math.degrees(math.atan2(max(least, 0.0), high))
    return Whole(grams, own, (cx, cy, cz), tip, edge, max(0.0, need - least), (feet[0], feet[1], feet[2], feet[3]), unknown)


def weight_told(piece: Piece, weight: Weight) -> Told:
    """What a piece weighs, and from what."""
    said = f"{digits(weight.grams, 1)} g" if weight.known else "not known"
    if weight.known == "reckoned":
        volume, _centre = _volume(piece.shape, measured_height(piece))
        dense = density(piece.material)
        formula = f"volume {digits(volume / 1000, 2)} cm³ × {dense} g/cm³ ({material_name(piece.material)}) × {digits(piece.filled * 100, 0)} % solid"
        return Told(said, How("Weight", formula, said, "volume of the body by the divergence theorem; densities from memory of handbooks"))
    how = {"weighed": "as you weighed it", "printed": "material of the print, from the print shop", "": "say what it is of, or weigh it"}
    return Told(
        said, How("Weight", how[weight.known], said if weight.known else "", "the scales" if weight.known == "weighed" else PRACTICE)
    )


def tips_told(whole: Whole) -> Told:
    """At which angle the whole tips."""
    said = f"tips at {digits(whole.tip_deg, 0)}° over its {whole.edge} edge"
    formula = (
        f"weight {digits(whole.grams, 0)} g, of it the case {digits(whole.case_grams, 0)} g; centre of mass at x {digits(whole.centre[0], 0)}, "
        f"y {digits(whole.centre[1], 0)} mm, {digits(whole.centre[2], 0)} mm over the floor; what hangs counts at its hooks, for it swings\ntip angle = atan(distance to the nearest edge of the base ÷ "
        f"height of the centre over what it stands on); asked: {digits(SAFE_DEG, 0)}°"
    )
    return Told(said, How("Does it stand?", formula, said, f"statics of a stiff body; what is asked: {PRACTICE}"))


def tied_anew(piece: Piece, weight: Weight) -> tuple[Sling, ...]:
    """The lines of a piece, moved with their hooks so that it hangs still; as they are where no move does that."""
    if weight.hang is None or piece.place is None or np.isnan(weight.hang.shift).any():
        return piece.slings
    dx, dy = weight.hang.shift.tolist()
    back = placed(np.array([[dx, dy, 0.0]]), np.zeros(3), -piece.place.turn_deg)[0].tolist()
    return tuple(s.but(x=s.x + dx, y=s.y + dy, at_x=s.at_x + back[0], at_y=s.at_y + back[1]) for s in piece.slings)


def pulls_words(piece: Piece, weight: Weight) -> str:
    """What each line bears, and what to do where it does not hang still."""
    if weight.hang is None:
        return ""
    if not weight.known:
        return "Say what it weighs, or what it is of: then each line says what it bears."
    loads = ", ".join(
        f"{s.name or f'line {k + 1}'} {digits(float(g), 1)} g" for k, (s, g) in enumerate(zip(piece.slings, weight.hang.pulls, strict=True))
    )
    if weight.hang.still:
        return f"It hangs still: {loads}."
    dx, dy = weight.hang.shift.tolist()
    if math.isnan(dx):
        return "It does not hang still like that: the lines pull it aside. Set the hooks over the points where they are tied."
    move = " and ".join(
        f"{digits(abs(v), 1)} mm {word[v > 0]}"
        for v, word in ((dx, ("left", "right")), (dy, ("to the front", "to the back")))
        if abs(v) > 0.05
    )
    return f"It turns until its weight hangs under the hooks. Tie it with its hooks {move}." if move else "It turns: its lines are too few."
