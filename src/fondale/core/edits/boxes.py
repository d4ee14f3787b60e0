# SPDX-License-Identifier: MIT
"""Making and using bits, needs, fits, joins and photographs."""

from collections.abc import Sequence

from fondale.core.bits.search import ROUND_ONES
from fondale.core.edits.edit import Add, Edit, EditError, Put, Remove, maker, put
from fondale.core.edits.ids import named_anew, new_id, numbered
from fondale.core.model import (
    BITS,
    FITS,
    JOINS,
    MACHINES,
    NEEDS,
    PHOTOS,
    PIECES,
    Bit,
    Detail,
    Fit,
    Join,
    Machine,
    Measure,
    Need,
    Photo,
    Piece,
    Project,
    Thread,
)
from fondale.core.model.shapes import Box, Cylinder, Shape
from fondale.core.words import with_article
from fondale.knowledge import table


@maker
def add_bit(project: Project) -> tuple[Add[Bit], str]:
    """A bit to be measured."""
    ident, name = named_anew(project.bits, "Bit")
    return Add(f"Add {name.lower()}", BITS, Bit(id=ident, name=name, sizes=(10.0, 10.0, 10.0))), ident


@maker
def bring_bits(project: Project, bits: Sequence[Bit], follows: Sequence[str] = ()) -> Put[tuple[Bit, ...]]:
    """Bits come into the box, as one step. ``follows`` names for each the bit whose place it takes; the others are new."""
    places = {b.id: b for b in project.bits}
    before = set(places)
    for bit, ident in zip(bits, follows or [""] * len(bits), strict=True):
        if ident in before:
            place = ident
            before.remove(ident)  # a row that was copied is another bit
        else:
            place = new_id(bit.name, places.keys()) if bit.id in places else bit.id
        places[place] = bit if place == bit.id else bit.but(id=place)
    return put(BITS.spot, tuple(places.values()), f"Bring {len(bits)} bits")


@maker
def add_need(
    project: Project, name: str = "Need", outline: str = "box", real: tuple[float, ...] = (500.0,), **more: object
) -> tuple[Edit, str]:
    """A need, in real millimetres."""
    ident, shown = named_anew(project.needs, name)
    need = Need(id=ident, name=shown, outline=outline, real=real, **more)  # type: ignore[arg-type]
    return Add(f"Need {with_article(shown.lower())}", NEEDS, need), ident


@maker
def add_fit(project: Project) -> tuple[Add[Fit], str]:
    """A peg in a hole, bare."""
    ident, name = named_anew(project.fits, "Fit")
    process = "resin" if project.brief.rules.prints == "resin" else "filament"
    thing = Fit(id=ident, name=name, hole=5.2, peg=5.0, process=process, brushed=project.brief.rules.paint == "brush")  # type: ignore[arg-type]
    return Add(f"Add {name.lower()}", FITS, thing), ident


@maker
def add_join(project: Project) -> tuple[Add[Join], str]:
    """A joint of resin and styrene."""
    ident, name = named_anew(project.joins, "Joint")
    return Add(f"Add {name.lower()}", JOINS, Join(id=ident, name=name, a="resin", b="styrene")), ident


@maker
def add_machine(project: Project, row: str) -> Add[Machine]:
    """A machine at hand."""
    name = table("machines")["machine"][row]["name"]
    ident, shown = new_id(row, [m.id for m in project.brief.machines]), numbered(name, (m.name for m in project.brief.machines))
    return Add(f"Have {with_article(name)}", MACHINES, Machine(id=ident, name=shown, row=row))


@maker
def drop_machine(project: Project, ident: str) -> Remove:
    """A machine that is no longer at hand. Raises EditError where it is gone already."""
    machine = project.find(MACHINES, ident)
    if machine is None:
        raise EditError("This machine is gone already.")
    return Remove(f"No {machine.name} any more", MACHINES, ident)


@maker
def add_detail(piece: Piece, part: str, mm: float, error_mm: float = 0.1) -> Put[tuple[Detail, ...]]:
    """One more size taken on a piece."""
    detail = Detail(id=new_id(part, [d.id for d in piece.details]), part=part, mm=mm, error_mm=error_mm)
    return put(PIECES.at(piece.id).then(lambda p: p.details), (*piece.details, detail), f"Measure {piece.name}")


@maker
def drop_detail(piece: Piece, ident: str) -> Put[tuple[Detail, ...]]:
    """A size that was taken is forgotten."""
    rest = tuple(d for d in piece.details if d.id != ident)
    return put(PIECES.at(piece.id).then(lambda p: p.details), rest, f"Forget a size of {piece.name}")


@maker
def add_photo(project: Project, name: str, asset: str, width: int, height: int, f35_mm: float = 0.0) -> tuple[Edit, str]:
    """A reference photograph whose file lies among the assets."""
    ident, shown = named_anew(project.photos, name)
    photo = Photo(id=ident, name=shown, asset=asset, width=width, height=height, f35_mm=f35_mm)
    return Add(f"Add photograph {shown}", PHOTOS, photo), ident


@maker
def add_thread(
    photo: Photo, a: tuple[float, float], b: tuple[float, float], on: str, hand_px: float = 0.0
) -> tuple[Put[tuple[Thread, ...]], str]:
    """A thread stretched over a photograph."""
    ident = new_id("thread", [t.id for t in photo.threads])
    thread = Thread(id=ident, name=f"Thread {len(photo.threads) + 1}", a=a, b=b, on=on, hand_px=hand_px)  # type: ignore[arg-type]
    return put(PHOTOS.at(photo.id).then(lambda p: p.threads), (*photo.threads, thread), "Stretch a thread"), ident


@maker
def drop_thread(photo: Photo, ident: str) -> Put[tuple[Thread, ...]]:
    """A thread is taken off."""
    rest = tuple(t for t in photo.threads if t.id != ident)
    return put(PHOTOS.at(photo.id).then(lambda p: p.threads), rest, "Take a thread off")


def shape_of_bit(bit: Bit) -> Shape:
    """The shape that a bit has on the shelf."""
    if bit.outline in ROUND_ONES:
        return Cylinder(diameter=bit.sizes[0], length=bit.sizes[1] if len(bit.sizes) > 1 else bit.sizes[0])
    a, b = bit.sizes[0], bit.sizes[1]
    return Box(width=a, depth=b, height=bit.sizes[2] if len(bit.sizes) > 2 else min(a, b))


@maker
def use_bit(project: Project, bit: Bit, need: Need | None) -> tuple[tuple[Edit, ...], str]:
    """Take a bit out of the box, as often as the need it serves wants it and there are: each becomes a piece on the bench. What is still
    wanted stays a need. Returns the edits and the first piece's id.
    """
    name = need.name if need else bit.name
    taken = max(1, min(need.count if need else 1, bit.count))
    claim = f"1:{bit.native_n:g}" if bit.native_n else ""
    size = bit.sizes[1] if bit.outline == "rod" and len(bit.sizes) > 1 else bit.sizes[0]
    pieces = list(project.pieces)
    for _each in range(taken):
        ident, shown = named_anew(pieces, name)
        pieces.append(
            Piece(
                id=ident,
                name=shown,
                shape=shape_of_bit(bit),
                origin="kitbash",
                claim=claim,
                measure=Measure(mm=size),
                note=f"from {bit.name}",
            )
        )
    left = max(0, bit.count - taken)
    label, box = f"Use {bit.name}", BITS.at(bit.id)
    edits: list[Edit] = [Add(label, PIECES, piece) for piece in pieces[len(project.pieces) :]]
    edits.append(put(box.then(lambda b: b.count), left, label))
    if not left:
        edits.append(put(box.then(lambda b: b.state), "used", label))
    if need is not None:
        edits.append(put(NEEDS.at(need.id).then(lambda n: n.bit), bit.id, label))
        if need.count > taken:
            edits.append(put(NEEDS.at(need.id).then(lambda n: n.count), need.count - taken, label))
        else:
            edits.append(put(NEEDS.at(need.id).then(lambda n: n.made), True, label))
    return tuple(edits), pieces[len(project.pieces)].id
