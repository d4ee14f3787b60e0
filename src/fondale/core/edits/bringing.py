# SPDX-License-Identifier: MIT
"""Files that join the print shop, and leave it."""

from dataclasses import replace

from fondale.core.edits.edit import Add, Edit, EditError, Remove, maker
from fondale.core.edits.ids import new_id
from fondale.core.limits import LARGEST_MM
from fondale.core.model import PIECES, PRINTS, Measure, Piece, PrintFile, Project
from fondale.core.model.prints import Thin, Vector
from fondale.core.model.references import is_named
from fondale.core.model.shapes import Mesh
from fondale.core.prints.body import Facts
from fondale.core.words import show_real

Skin = tuple[tuple[Vector, ...], tuple[tuple[int, int, int], ...]]


@maker
def add_print(
    project: Project, name: str, asset: str, unit: str, facts: Facts, skin: Skin, repairs: tuple[str, ...], thin: tuple[Thin, ...] = ()
) -> tuple[tuple[Edit, ...], str]:
    """A file joins the print shop, and the piece made of it the shelf. ``facts`` are in mm at 100 %. Returns the edits and the file's id.

    Raises EditError for a file that is larger than anything here may be.
    """
    if max(facts.size) > LARGEST_MM:
        raise EditError(
            f"“{name}” would be {show_real(max(facts.size))} long, more than {show_real(LARGEST_MM)}. It has another unit, or is no part for printing."
        )
    ident = new_id(name, [f.id for f in project.prints])
    file = PrintFile(
        id=ident, name=name, asset=asset, unit=unit, size=facts.size, volume=abs(facts.volume), area=facts.area, centre=facts.centre,  # type: ignore[arg-type]
        base=facts.base, triangles=facts.triangles, bodies=facts.bodies, watertight=facts.watertight, repairs=repairs, thin=thin,
    )  # fmt: skip
    w, d, h = facts.size
    shape = Mesh(file=ident, width=w, depth=d, height=h, points=skin[0], faces=skin[1])
    piece = Piece(
        id=new_id(name, [p.id for p in project.pieces]), name=name, shape=shape, origin="printed file", measure=Measure(mm=h, error_mm=0.05)
    )
    label = f"Bring {name}"
    return (Add(label, PRINTS, file), Add(label, PIECES, piece)), ident


@maker
def drop_file(project: Project, file: PrintFile) -> tuple[Remove, ...]:
    """The edits that take a file out of the print shop, and what was made of it where the maker has done nothing with that yet: what
    stands on the stage, was weighed, or is named by anything stays.
    """
    label = f"Remove {file.name}"
    made = [p for p in project.pieces if isinstance(p.shape, Mesh) and p.shape.file == file.id]
    idle = [p for p in made if p.place is None and not p.weight_g and not p.details and not is_named(project, PIECES, p.id)]
    return (Remove(label, PRINTS, file.id), *(Remove(label, PIECES, p.id) for p in idle))


def thin_in_unit(thin: tuple[Thin, ...], mm: float) -> tuple[Thin, ...]:
    """Thin places found in a file's own numbers, when one of them is ``mm`` millimetres."""
    return tuple(t.but(mm=min(t.mm * mm, LARGEST_MM)) for t in thin)


def in_unit(facts: Facts, mm: float) -> Facts:
    """Facts measured in a file's own numbers, when one of them is ``mm`` millimetres."""

    def vector(v: Vector) -> Vector:
        return v[0] * mm, v[1] * mm, v[2] * mm

    base = tuple((x * mm, y * mm) for x, y in facts.base)
    return replace(
        facts, low=vector(facts.low), size=vector(facts.size), volume=facts.volume * mm**3, area=facts.area * mm**2,
        centre=vector(facts.centre), base=base,
    )  # fmt: skip
