# SPDX-License-Identifier: MIT
"""The whole scene at another house scale: one edit, and what follows from it."""

from typing import Any

from fondale.core.edits.edit import Edit, EditError, Together, apply, maker, put
from fondale.core.limits import LARGEST_MM, SMALLEST
from fondale.core.model import AREAS, LAMPS, METERS, PIECES, PROJECT, Case, Measure, Model, Piece, Place, Project
from fondale.core.model.shapes import Mesh
from fondale.core.model.stage import CaseRoom
from fondale.core.scale.pieces import read_piece
from fondale.core.scale.reading import passes
from fondale.core.shapes import kind_of
from fondale.core.stage.clearance import outside
from fondale.core.words import clipped, digits, show_mm, show_scale

LENGTHS = (
    "width",
    "depth",
    "height",
    "length",
    "thickness",
    "diameter",
    "beam",
    "cove",
    "x",
    "y",
    "z",
    "frame",
    "reach",
    "lip_top",
    "lip_sides",
)
NAMED_MOST, SAME = 3, 0.03


def _times(thing: Any, f: float, names: tuple[str, ...] = LENGTHS) -> Any:
    """A model with all its lengths ``f`` times as large, those of its openings and lines too. Raises EditError for what grows beyond all rooms."""
    news: dict[str, Any] = {}
    for name in type(thing).model_fields:
        value = getattr(thing, name)
        if name in names and isinstance(value, float):
            news[name] = round(value * f, 4)
            if abs(news[name]) > LARGEST_MM or 0 < abs(news[name]) < SMALLEST:
                raise EditError(f"At that scale something is {show_mm(news[name])} large: no file can hold it.")
        elif name in ("openings", "lines"):
            news[name] = tuple(_times(o, f) for o in value)
    return thing.but(**news)


def is_built(piece: Piece) -> bool:
    """Whether a piece is still to be built, so that it can be built at any scale: what was bought, printed or measured is as large as it is."""
    return piece.origin == "scratch" and not kind_of(piece.shape).living and not isinstance(piece.shape, Mesh)


@maker
def rescaled(project: Project, n: float, case_too: bool = False) -> Together:
    """The edit that brings the scene to 1:``n``: what is to be built and where everything stands, about the middle of the floor as on the
    ribbon; what was bought keeps its size. With ``case_too`` the case with its rooms grows as well. Raises EditError for what no file can hold.
    """
    f, label = project.brief.house_n / n, f"Build it at {show_scale(n)}"
    across, deep = (0.0, 0.0) if case_too else (project.case.width / 2, project.case.depth / 2)

    def moved(x: float, y: float, z: float) -> tuple[float, float, float]:
        return round(across + (x - across) * f, 3), round(deep + (y - deep) * f, 3), round(z * f, 3)

    edits: list[Edit] = [put(PROJECT.then(lambda p: p.brief.house_n), n, label)]
    if case_too:
        case: Case = _times(project.case, f)
        rooms: tuple[CaseRoom, ...] = tuple(_times(r, f) for r in project.case.rooms)
        edits.append(put(PROJECT.then(lambda p: p.case), case.but(rooms=rooms), label))
        edits.append(put(PROJECT.then(lambda p: p.depth), _times(project.depth, f, ("stands", "apart", "wide")), label))
    pieces = tuple(_piece(p, f, moved) for p in project.pieces)
    edits.append(put(PIECES.spot, pieces, label))
    lamps = tuple(m.but(**dict(zip("xyz", moved(m.x, m.y, m.z), strict=True))) for m in project.lamps)
    meters = tuple(m.but(**dict(zip("xyz", moved(m.x, m.y, m.z), strict=True))) for m in project.meters)
    areas = tuple(
        a.but(
            **dict(zip("xyz", moved(a.x, a.y, a.z or 0.0)[: 2 if a.z is None else 3], strict=False)), width=a.width * f, depth=a.depth * f
        )
        for a in project.areas
    )
    lit = (put(LAMPS.spot, lamps, label), put(METERS.spot, meters, label), put(AREAS.spot, areas, label))
    return Together(label, (*edits, *lit))


def _piece(piece: Piece, f: float, moved: Any) -> Piece:
    news: dict[str, Any] = {}
    if piece.place is not None:
        x, y, z = moved(piece.place.x, piece.place.y, piece.place.z or 0.0)
        place: Place = piece.place.but(x=x, y=y, z=None if piece.place.z is None else z)
        news["place"] = place
    built = is_built(piece)
    if piece.slings:
        slings = []
        for s in piece.slings:
            x, y, z = moved(s.x, s.y, s.z)
            own = {"at_x": s.at_x * f, "at_y": s.at_y * f, "at_z": s.at_z * f} if built else {}
            slings.append(s.but(x=x, y=y, z=z, **own))
        news["slings"] = tuple(slings)
    if built:
        news["shape"] = _times(piece.shape, f)
        news["weight_g"] = min(1e6, round(piece.weight_g * f**3, 3))
        if piece.measure is not None:
            news["measure"] = Measure(mm=piece.measure.mm * f, error_mm=piece.measure.error_mm)
        news["shown_mm"] = piece.shown_mm * f
        news["details"] = tuple(_detail(d, f) for d in piece.details)
    return piece.but(**news) if news else piece


def _detail(detail: Model, f: float) -> Any:
    return detail.but(mm=detail.mm * f) if hasattr(detail, "mm") else detail


def consequences(project: Project, n: float, case_too: bool = False) -> tuple[str, ...]:
    """What follows from another scale, in sentences, before it is done. Raises EditError where it cannot be."""
    after = apply(project, rescaled(project, n, case_too))
    f = project.brief.house_n / n
    said = [
        f"What is to be built grows to {digits(f * 100, 1)} %, areas to {digits(f**2 * 100, 0)} %, volumes and weights to {digits(f**3 * 100, 0)} %."
    ]
    was, now = _right(project), _right(after)
    figures = len(was)
    if figures:
        lost = [p for p in was if was[p] and not now[p]]
        won = [p for p in was if now[p] and not was[p]]
        said.append(f"{sum(now.values())} of {figures} measured pieces serve as they are, {sum(was.values())} now.")
        if lost:
            said.append(f"No longer right: {_names(project, lost)}.")
        if won:
            said.append(f"Right from then on: {_names(project, won)}.")
    prints = [p.name for p in project.pieces if p.origin == "printed file" and isinstance(p.shape, Mesh)]
    if prints:
        said.append(f"Printed again at {digits(f * 100, 1)} % of their present size: {_few(prints)}.")
    box = [b for b in project.bits if b.native_n and b.state == "in the box"]
    mates = [sum(b.count for b in box if abs(b.native_n / k - 1) <= SAME) for k in (project.brief.house_n, n)]
    said.append(f"{mates[1]} bits in the box are of that scale, {mates[0]} of the present one.")
    out_now = {o.piece for o in outside(project)}
    out = [o for o in outside(after) if o.piece not in out_now]
    if out:
        worst = max(out, key=lambda o: o.by_mm)
        said.append(f"Sticks out of the case then: {_names(project, [o.piece for o in out])}; at worst by {show_mm(worst.by_mm)}.")
    elif any(p.place is not None for p in project.pieces):
        said.append("All of it stays in the case.")
    if case_too:
        c = after.case
        said.append(f"The case is {digits(c.width, 0)} × {digits(c.depth, 0)} × {digits(c.height, 0)} mm inside.")
    return tuple(said)


def _right(project: Project) -> dict[str, bool]:
    """Of every measured piece that is not to be built, whether it serves at the house scale."""
    out = {}
    for piece in project.pieces:
        reading = read_piece(piece, project.brief.house_n) if not is_built(piece) and not piece.lost else None
        if reading is not None:
            out[piece.id] = passes(reading.at(project.brief.house_n), piece.stands)
    return out


def _names(project: Project, idents: list[str]) -> str:
    return _few([p.name for p in project.pieces if p.id in set(idents)])


def _few(names: list[str]) -> str:
    more = len(names) - NAMED_MOST
    return ", ".join(clipped(x, 30) for x in names[:NAMED_MOST]) + (f" and {more} more" if more > 0 else "")
