"""Edits of the print shop: sizes that follow a file, families, and the steps that a print hands to Coats."""

from collections.abc import Sequence, Set
from dataclasses import dataclass
from typing import Any

from fondale.core.edits.boxes import add_machine
from fondale.core.edits.edit import Edit, EditError
from fondale.core.edits.ids import new_id
from fondale.core.model import PRINTS, Piece, PrintFile, Project, Step
from fondale.core.model.coats import MOST_MINUTES, MOST_WAIT_H, Work
from fondale.core.model.prints import Vector
from fondale.core.model.references import tied_up
from fondale.core.model.shapes import Mesh
from fondale.core.prints.jobs import MOST_PLATES, beside, job_of, machine_of, plates_of
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


def print_steps(project: Project, file: PrintFile) -> tuple[Step, ...]:
    """Print and clean each plate, take the supports off, cure, and join the parts: each after the one before.

    A file that is printed on another one's plates has only its joining, after all of those. Ids are new ones. Raises EditError for
    more plates than anybody starts.
    """
    lead = project.lead_of(file)
    job = job_of(project, file)
    taken = [s.id for s in project.steps]
    out: list[Step] = []

    def add(
        name: str,
        work: Work,
        minutes: tuple[float, float, float],
        wait: float,
        caution: str,
        after: tuple[str, ...],
        duty: str,
        **more: Any,
    ) -> str:
        low, likely, high = (min(m, MOST_MINUTES) for m in minutes)
        ident = new_id(f"{file.id} {name}", taken)
        taken.append(ident)
        out.append(
            Step(
                id=ident, name=as_name(name), work=work, minutes=(low, likely, high), wait_h=min(wait, MOST_WAIT_H), caution=caution, tool="hand",
                after=after, file=file.id, duty=duty, **more,
            )
        )  # fmt: skip
        return ident

    def join(after: tuple[str, ...]) -> None:
        if job.parts > 1:
            n = job.parts
            minutes = tuple(m * n * file.count for m in (6.0, 10.0, 18.0))
            add(f"Key and join {n} parts of {file.name}", "build", (minutes[0], minutes[1], minutes[2]), 0.5, "ca", after, "join")

    if lead.id != file.id:
        theirs = [s for s in project.steps if s.file == lead.id and s.work == "print"]
        join(tuple(s.id for s in theirs if not any(s.id in x.after for x in theirs)))
        return tuple(out)
    plates = plates_of(project, file)
    if len(plates) > MOST_PLATES:
        raise EditError(
            f"“{file.name}” fills {len(plates)} plates, and {MOST_PLATES} are the most that become steps. Print fewer copies, smaller, or on a larger machine."
        )
    machine = machine_of(project, file)
    runs_on = machine.id if any(m.id == machine.id for m in project.brief.machines) else ""
    box = next((m.id for m in project.brief.machines if table("machines")["machine"].get(m.row, {}).get("process") == "cure"), "")
    others = len({i for p in plates for i, _n in p.parts} - {file.id})
    what = file.name + (f" and {others} beside it" if others else f", {file.count} times" if file.count > 1 else "")
    clean, *rest = table("machines")["after"][job.process]
    cleaned: list[str] = []
    for k, plate in enumerate(plates):
        which = f", plate {k + 1} of {len(plates)}" if len(plates) > 1 else ""
        resin = "resin" if job.process == "resin" else ""
        start = add(
            f"Print {what}{which}",
            "print",
            (5.0, 10.0, 20.0),
            round(plate.hours, 2),
            resin,
            (),
            _numbered("print", k),
            machine=runs_on,
            any_machine=file.any_machine,
        )
        number = sum(n for _file, n in plate.parts)
        minutes = _minutes(clean["minutes"], number)
        cleaned.append(
            add(
                f"{clean['name']}: {what}{which}",
                "print",
                minutes,
                float(clean["wait_h"]),
                clean["caution"],
                (start,),
                _numbered(str(clean["name"]).lower(), k),
            )
        )
    after = tuple(cleaned)
    number = sum(n for p in plates for _file, n in p.parts)
    for row in rest:
        on = {"machine": box} if row.get("in") == "cure" and box else {}
        after = (
            add(
                f"{row['name']}: {what}",
                "print",
                _minutes(row["minutes"], number),
                float(row["wait_h"]),
                row["caution"],
                after,
                str(row["name"]).lower(),
                **on,
            ),
        )
    join(after)
    return tuple(out)


def _minutes(minutes: Sequence[float], number: int) -> tuple[float, float, float]:
    """Minutes at so many parts: each after the first takes half as long."""
    low, likely, high = (float(m) * (1 + 0.5 * (number - 1)) for m in minutes)
    return low, likely, high


def _numbered(duty: str, plate: int) -> str:
    """A duty that comes once for each plate."""
    return duty if plate == 0 else f"{duty} {plate + 1}"


def _duty(step: Step) -> str:
    """What a step does for its file; of files that were written before steps knew it, by the name that it was given then."""
    if step.duty:
        return step.duty
    if step.name.startswith("Print "):
        return "print"
    return "join" if step.name.startswith("Key and join ") else step.name.partition(":")[0].lower()


@dataclass(frozen=True)
class HandOver(Edit):
    """Make the steps of a file of the print shop: what it has already and is not done is replaced, what is done stays.

    Its machine joins those at hand where it is none of them.
    """

    file: str

    def done(self, project: Project) -> Project:
        file = project.lead_of(project.get(PRINTS, self.file))
        if machine_of(project, file).id not in {m.id for m in project.brief.machines}:
            project = add_machine(project, machine_of(project, file).row).done(project)
        for one in beside(project, file):
            project = with_steps(project, one)
        return project


def with_steps(project: Project, file: PrintFile) -> Project:
    """The project with the steps of a file as they follow from it now, each in its place.

    Names, minutes, hours, cautions and machine follow; whatever else the maker set on a step stays.
    """
    mine = [s for s in project.steps if s.file == file.id]
    made = print_steps(project, file)
    begun, left = {_duty(s) for s in mine if s.done}, {_duty(s): s for s in mine if not s.done}
    was = {_duty(s): s.id for s in mine}
    to = {s.id: was.get(_duty(s), s.id) for s in made}
    made = tuple(s.but(id=to[s.id], after=tuple(to.get(a, a) for a in s.after)) for s in made if _duty(s) not in begun)
    own = {*was.values(), *to.values()}
    fresh = {s.id: _following(old, s, own) if (old := left.get(_duty(s))) is not None else s for s in made}
    known = {s.id for s in left.values()}
    new = [s for s in made if s.id not in known]
    last = max((k for k, s in enumerate(project.steps) if s.file in (file.id, project.lead_of(file).id)), default=-1)
    out: list[Step] = [*new] if last < 0 else []
    for k, step in enumerate(project.steps):
        if step.id not in known:
            out.append(step)
        elif step.id in fresh:
            out.append(fresh[step.id])
        if k == last:
            out += new
    return tied_up(project.but(steps=tuple(out)))


def _following(old: Step, new: Step, own: Set[str]) -> Step:
    """A step as its file makes it now, with all that the maker set on it; ``own`` are the steps of the file."""
    after = tuple(dict.fromkeys((*new.after, *(i for i in old.after if i not in own))))
    return old.but(
        name=new.name,
        work=new.work,
        minutes=new.minutes,
        wait_h=new.wait_h,
        caution=new.caution,
        machine=new.machine,
        any_machine=new.any_machine,
        duty=new.duty,
        after=after,
    )


def follow(before: Project, after: Project) -> Project:
    """The steps of files that were handed over follow their file, what lies beside it and its machine, as long as none of them is begun."""
    if after.prints is before.prints and after.brief is before.brief:
        return after
    with_own = {s.file for s in after.steps}
    plates = {f.id: {after.lead_of(f).id, *(before.lead_of(old).id for old in [before.find(PRINTS, f.id)] if old)} for f in after.prints}
    handed = {after.lead_of(f).id for f in after.prints if with_own & {f.id, *plates[f.id]}}
    for file in [f for f in after.prints if f.id in handed]:
        group = beside(after, file)
        mine = [s for s in after.steps if s.file in {f.id for f in group}]
        if any(s.done for s in mine) or _filling(before, file.id) == _filling(after, file.id):
            continue
        if not any(s.file == file.id for s in mine) and not any(_filling(before, f.id) != _filling(after, f.id) for f in group):
            continue
        for one in group:
            after = with_steps(after, one)
    return after


def _filling(project: Project, ident: str) -> Any:
    """All that the steps of a file follow from."""
    file = project.find(PRINTS, ident)
    if file is None:
        return None
    return machine_of(project, file), project.lead_of(file).id, beside(project, file), [m.id for m in project.brief.machines]
