"""Edits of the print shop: sizes that follow a file, families, and the steps that a print hands to Coats."""

from collections.abc import Iterable, Sequence, Set
from dataclasses import dataclass
from typing import Any

from fondale.core.edits.boxes import add_machine
from fondale.core.edits.edit import Edit
from fondale.core.edits.ids import new_id
from fondale.core.model import PRINTS, Piece, PrintFile, Project, Step
from fondale.core.model.coats import MOST_MINUTES, MOST_WAIT_H, Work
from fondale.core.model.prints import Vector
from fondale.core.model.references import tied_up
from fondale.core.model.shapes import Mesh
from fondale.core.prints.jobs import PrintJob, job_of, machine_of
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


def print_steps(file: PrintFile, machine: str, job: PrintJob, ids: Sequence[str], taken: Iterable[str]) -> tuple[Step, ...]:
    """Print, wash, take the supports off, cure, and join the parts: each after the one before.

    They take ``ids`` while there are some, then new ones that are none of ``taken``.
    """
    used, free = [*taken, *ids], list(ids)
    out: list[Step] = []

    def add(name: str, work: Work, minutes: tuple[float, float, float], wait: float, caution: str, runs_on: str = "") -> None:
        low, likely, high = (min(m, MOST_MINUTES) for m in minutes)
        ident = free.pop(0) if free else new_id(f"{file.id} {name}", used)
        used.append(ident)
        after = (out[-1].id,) if out else ()
        out.append(
            Step(
                id=ident, name=as_name(name), work=work, minutes=(low, likely, high), wait_h=min(wait, MOST_WAIT_H), caution=caution, tool="hand", after=after,
                file=file.id, machine=runs_on,
            )
        )  # fmt: skip

    copies = f", {file.count} times" if file.count > 1 else ""
    resin = "resin" if job.process == "resin" else ""
    add(f"Print {file.name}{copies}", "print", (5.0, 10.0, 20.0), round(job.hours * file.count, 2), resin, machine)
    for row in table("machines")["after"][job.process]:
        low, likely, high = (float(m) * (1 + 0.5 * (file.count * job.parts - 1)) for m in row["minutes"])
        add(f"{row['name']}: {file.name}", "print", (low, likely, high), float(row["wait_h"]), row["caution"])
    if job.parts > 1:
        n = job.parts
        add(f"Key and join {n} parts of {file.name}", "build", (6.0 * n, 10.0 * n, 18.0 * n), 0.5, "ca")
    return tuple(out)


@dataclass(frozen=True)
class HandOver(Edit):
    """Make the steps of a file of the print shop: what it has already and is not done is replaced, what is done stays.

    Its machine joins those at hand where it is none of them.
    """

    file: str

    def done(self, project: Project) -> Project:
        file = project.get(PRINTS, self.file)
        if machine_of(project, file).id not in {m.id for m in project.brief.machines}:
            project = add_machine(project, machine_of(project, file).row).done(project)
        return with_steps(project, file)


def with_steps(project: Project, file: PrintFile) -> Project:
    """The project with the steps of a file as they follow from it now, each in its place.

    Names, minutes, hours, cautions and machine follow; whatever else the maker set on a step stays.
    """
    mine = [s for s in project.steps if s.file == file.id]
    begun, left = [s.id for s in mine if s.done], {s.id: s for s in mine if not s.done}
    machine = machine_of(project, file).id
    runs_on = machine if any(m.id == machine for m in project.brief.machines) else ""
    made = print_steps(file, runs_on, job_of(project, file), [*begun, *left], (s.id for s in project.steps))[len(begun) :]
    own = {s.id for s in made} | {s.id for s in mine}
    fresh = {s.id: _following(left[s.id], s, own) if s.id in left else s for s in made}
    new = [s for s in made if s.id not in left]
    last = max((k for k, s in enumerate(project.steps) if s.file == file.id), default=-1)
    out: list[Step] = [*new] if last < 0 else []
    for k, step in enumerate(project.steps):
        if step.id not in left:
            out.append(step)
        elif step.id in fresh:
            out.append(fresh[step.id])
        if k == last:
            out += new
    return tied_up(project.but(steps=tuple(out)))


def _following(old: Step, new: Step, own: Set[str]) -> Step:
    """A step as its file makes it now, with all that the maker set on it; ``own`` are the steps of the file."""
    after = (*new.after, *(i for i in old.after if i not in own))
    return old.but(
        name=new.name, work=new.work, minutes=new.minutes, wait_h=new.wait_h, caution=new.caution, machine=new.machine, after=after
    )


def follow(before: Project, after: Project) -> Project:
    """The steps of files that were handed over follow their file and its machine, as long as none of them is begun."""
    if after.prints is before.prints and after.brief is before.brief:
        return after
    for file in after.prints:
        mine = [s for s in after.steps if s.file == file.id]
        old = before.find(PRINTS, file.id)
        if not mine or any(s.done for s in mine) or old is None:
            continue
        if old != file or machine_of(before, old) != machine_of(after, file):
            after = with_steps(after, file)
    return after
