"""Edits of the print shop: sizes that follow a file, families, and the steps that a print hands to Coats."""

from dataclasses import dataclass
from typing import Any

from fondale.core.edits.edit import Edit
from fondale.core.edits.ids import new_id
from fondale.core.model import Piece, PrintFile, Project, Step
from fondale.core.model.coats import Work
from fondale.core.model.prints import Vector
from fondale.core.model.shapes import Mesh
from fondale.core.shapes import kind_of
from fondale.core.words import as_name
from fondale.knowledge import table


def grown(piece: Piece, times: Vector) -> Piece:
    """The piece with its sizes multiplied: shape, measurements and weight."""
    even = max(times) / min(times) - 1 < 1e-9
    shape: Any = piece.shape
    sizes = {k: getattr(shape, k) * (times[0] if even else times[i]) for k, i in kind_of(piece.shape).axes.items()}
    tall = times[2]
    measure = piece.measure and piece.measure.but(mm=piece.measure.mm * tall)
    return piece.but(
        shape=shape.but(**sizes), measure=measure, details=tuple(d.but(mm=d.mm * tall) for d in piece.details),
        printed_percent=piece.printed_percent * tall, weight_g=piece.weight_g * times[0] * times[1] * times[2],
    )  # fmt: skip


@dataclass(frozen=True)
class ScaleFiles(Edit):
    """Print these files at ``percent`` (and ``stretch``): the pieces made of them follow."""

    files: tuple[str, ...]
    percent: float
    stretch: Vector | None = None

    def done(self, project: Project) -> Project:
        changed: dict[str, Vector] = {}
        prints: list[PrintFile] = []
        for file in project.prints:
            if file.id in self.files:
                before = file.times
                file = file.but(percent=self.percent, stretch=self.stretch or file.stretch)
                changed[file.id] = (file.times[0] / before[0], file.times[1] / before[1], file.times[2] / before[2])
            prints.append(file)
        if not changed:
            raise LookupError("the file is not there")
        pieces = tuple(
            grown(p, changed[p.shape.file]) if isinstance(p.shape, Mesh) and p.shape.file in changed else p for p in project.pieces
        )
        return project.but(prints=tuple(prints), pieces=pieces)


@dataclass(frozen=True)
class RescalePieces(Edit):
    """Print these pieces again at ``percent`` of what they are; their files follow, and pieces of the same files too."""

    pieces: tuple[str, ...]
    percent: float

    def done(self, project: Project) -> Project:
        times = self.percent / 100.0
        files = {p.shape.file for p in project.pieces if p.id in self.pieces and isinstance(p.shape, Mesh)} - {""}
        new = tuple(
            grown(p, (times, times, times)) if p.id in self.pieces or (isinstance(p.shape, Mesh) and p.shape.file in files) else p
            for p in project.pieces
        )
        prints = tuple(f.but(percent=f.percent * times) if f.id in files else f for f in project.prints)
        return project.but(pieces=new, prints=prints)


def print_steps(project: Project, file: PrintFile, process: str, hours: float, parts: int) -> tuple[Step, ...]:
    """Print, wash, take the supports off, cure, and join the parts: each after the one before."""
    taken = [s.id for s in project.steps]
    out: list[Step] = []

    def add(name: str, work: Work, minutes: tuple[float, float, float], wait: float, caution: str) -> None:
        ident = new_id(f"{file.id} {name}", taken)
        taken.append(ident)
        after = (out[-1].id,) if out else ()
        out.append(Step(id=ident, name=as_name(name), work=work, minutes=minutes, wait_h=wait, caution=caution, tool="hand", after=after))

    copies = f", {file.count} times" if file.count > 1 else ""
    add(f"Print {file.name}{copies}", "print", (5.0, 10.0, 20.0), round(hours * file.count, 2), "resin" if process == "resin" else "")
    for row in table("machines")["after"][process]:
        low, likely, high = (float(m) * (1 + 0.5 * (file.count * parts - 1)) for m in row["minutes"])
        add(f"{row['name']}: {file.name}", "print", (low, likely, high), float(row["wait_h"]), row["caution"])
    if parts > 1:
        add(f"Key and join {parts} parts of {file.name}", "build", (6.0 * parts, 10.0 * parts, 18.0 * parts), 0.5, "ca")
    return tuple(out)
