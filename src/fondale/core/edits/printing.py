# SPDX-License-Identifier: MIT
"""Edits of the print shop: sizes that follow a file, families, and the steps that a print hands to Coats."""

from collections.abc import Sequence, Set
from dataclasses import dataclass
from math import isfinite
from typing import Any

from fondale.core.edits.boxes import add_machine
from fondale.core.edits.edit import Edit, EditError, Put, maker, put
from fondale.core.edits.ids import new_id
from fondale.core.model import PRINTS, Piece, PrintFile, Project, Step
from fondale.core.model.coats import MOST_MINUTES, MOST_WAIT_H, Work
from fondale.core.model.prints import Ordered, Vector
from fondale.core.model.references import tied_up
from fondale.core.model.shapes import Mesh
from fondale.core.prints.jobs import MOST_PLATES, Plate, beside, job_of, plates_of
from fondale.core.prints.ordering import wait_h
from fondale.core.prints.printers import machine_of
from fondale.core.shapes import kind_of
from fondale.core.words import as_name
from fondale.knowledge import table


def grown(piece: Piece, times: Vector) -> Piece:
    """The piece with its sizes multiplied: shape, measurements and weight. Raises EditError for what would make nothing of it."""
    if not all(t > 0 and isfinite(t) for t in times):
        raise EditError("A size must be above 0 %.")
    even = max(times) / min(times) - 1 < 1e-9
    shape: Any = piece.shape
    sizes = {k: getattr(shape, k) * (times[0] if even else times[i]) for k, i in kind_of(piece.shape).axes.items()}
    tall = times[2]
    measure = piece.measure and piece.measure.but(mm=piece.measure.mm * tall)
    return piece.but(
        shape=shape.but(**sizes), measure=measure, details=tuple(d.but(mm=d.mm * tall) for d in piece.details),
        printed_percent=piece.printed_percent * tall, weight_g=piece.weight_g * times[0] * times[1] * times[2],
    )  # fmt: skip


@maker
def take_quote(project: Project, ident: str, ordered: Ordered | None) -> tuple[Put[Any], ...]:
    """The edits that have a file printed elsewhere, by a quote that is taken, or here after all (None). It lies on nobody's plates then, and
    nobody on its.
    """
    file = project.get(PRINTS, ident)
    label = f"Order {file.name} from {ordered.service}" if ordered is not None else f"Print {file.name} here"
    beside = tuple(
        put(PRINTS.at(f.id).then(lambda p: p.beside), "", label)
        for f in project.prints
        if ordered and f.beside and ident in (f.id, f.beside)
    )
    return (*beside, put(PRINTS.at(ident).then(lambda p: p.ordered), ordered, label))


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
    """Print and clean each plate, take the supports off, cure, and join the parts: each after the one before. What is ordered out is ordered
    and joined.

    A file that is printed on another one's plates has only its joining, after all of those. Ids are new ones. Raises EditError for
    more plates than anybody starts.
    """
    made = _Steps(project, file)
    lead = project.lead_of(file)
    if lead.id != file.id:
        theirs = [s for s in project.steps if s.file == lead.id and s.work == "print"]
        made.join(tuple(s.id for s in theirs if not any(s.id in x.after for x in theirs)))
        return tuple(made.steps)
    if file.ordered is not None:
        made.join((made.order(file.ordered),))
        return tuple(made.steps)
    plates = plates_of(project, file)
    if len(plates) > MOST_PLATES:
        raise EditError(
            f"“{file.name}” fills {len(plates)} plates, and {MOST_PLATES} are the most that become steps. Print fewer copies, smaller, or on a larger machine."
        )
    made.join(made.finish(plates, made.fill(plates)))
    return tuple(made.steps)


class _Steps:
    """The steps of one file as they are made."""

    def __init__(self, project: Project, file: PrintFile) -> None:
        self.steps: list[Step] = []
        self._file, self._job, self._at_hand = file, job_of(project, file), project.brief.machines
        self._machine = machine_of(project, file)
        self._taken = [s.id for s in project.steps]
        self._clean, *self._rest = table("machines")["after"][self._job.process]

    def _add(
        self, name: str, minutes: Sequence[float], wait: float, after: tuple[str, ...], duty: str, work: Work = "print", **more: Any
    ) -> str:  # fmt: skip
        low, likely, high = (min(float(m), MOST_MINUTES) for m in minutes)
        ident = new_id(f"{self._file.id} {name}", self._taken)
        self._taken.append(ident)
        self.steps.append(
            Step(
                id=ident, name=as_name(name), work=work, minutes=(low, likely, high), wait_h=min(wait, MOST_WAIT_H), tool="hand",
                after=after, file=self._file.id, duty=duty, **more,
            )
        )  # fmt: skip
        return ident

    def _what(self, plates: Sequence[Plate]) -> str:
        others = len({i for p in plates for i, _n in p.parts} - {self._file.id})
        copies = f", {self._file.count} times" if self._file.count > 1 else ""
        return self._file.name + (f" and {others} beside it" if others else copies)

    def order(self, ordered: Ordered) -> str:
        """Order it, and wait for the parcel."""
        return self._add(f"Order {self._file.name} from {ordered.service}", (5, 10, 20), wait_h(ordered), (), "order")

    def fill(self, plates: Sequence[Plate]) -> tuple[str, ...]:
        """Start and clear each plate; the ids of the clearing steps."""
        runs_on = self._machine.id if self._machine in self._at_hand else ""
        what, out = self._what(plates), []
        for k, plate in enumerate(plates):
            which = f", plate {k + 1} of {len(plates)}" if len(plates) > 1 else ""
            start = self._add(
                f"Print {what}{which}", (5, 10, 20), round(plate.hours, 2), (), _numbered("print", k),
                machine=runs_on, any_machine=self._file.any_machine,
            )  # fmt: skip
            row, number = self._clean, sum(n for _file, n in plate.parts)
            duty = _numbered(str(row["name"]).lower(), k)
            out.append(self._add(f"{row['name']}: {what}{which}", _minutes(row["minutes"], number), float(row["wait_h"]), (start,), duty))
        return tuple(out)

    def finish(self, plates: Sequence[Plate], after: tuple[str, ...]) -> tuple[str, ...]:
        """What follows for all plates together, one after the other; the id of the last of it."""
        kinds = table("machines")["machine"]
        box = next((m.id for m in self._at_hand if kinds.get(m.row, {}).get("process") == "cure"), "")
        what, number = self._what(plates), sum(n for p in plates for _file, n in p.parts)
        for row in self._rest:
            machine = box if row.get("in") == "cure" else ""
            name, minutes = row["name"], _minutes(row["minutes"], number)
            after = (self._add(f"{name}: {what}", minutes, float(row["wait_h"]), after, str(name).lower(), machine=machine),)
        return after

    def join(self, after: tuple[str, ...]) -> None:
        """Join the parts that the file is cut into."""
        n = self._job.parts
        if n > 1:
            minutes = [m * n * self._file.count for m in (6, 10, 18)]
            self._add(f"Key and join {n} parts of {self._file.name}", minutes, 0.5, after, "join", "build")


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
        if file.ordered is None and machine_of(project, file).id not in {m.id for m in project.brief.machines}:
            project = add_machine(project, machine_of(project, file).row).done(project)
        for one in beside(project, file):
            project = with_steps(project, one)
        return project


def with_steps(project: Project, file: PrintFile) -> Project:
    """The project with the steps of a file as they follow from it now, each in its place.

    Names, minutes, hours and machine follow; whatever else the maker set on a step stays.
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
    new: list[Step] = []
    ahead: dict[str, list[Step]] = {}  # what is new goes before what it comes before, or after all of the file's
    for step in made:
        if step.id in known:
            ahead[step.id], new = new, []
        else:
            new.append(step)
    last = max((k for k, s in enumerate(project.steps) if s.file in (file.id, project.lead_of(file).id)), default=-1)
    out: list[Step] = [*new] if last < 0 else []
    for k, step in enumerate(project.steps):
        if step.id not in known:
            out.append(step)
        elif step.id in fresh:
            out += [*ahead[step.id], fresh[step.id]]
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
        machine=new.machine,
        any_machine=new.any_machine,
        duty=new.duty,
        after=after,
    )


def follow(before: Project, after: Project) -> Project:
    """The steps of files that were handed over follow their file, what lies beside it and its machine, as long as none of them is begun."""
    if after.prints == before.prints and after.brief is before.brief:
        return after
    after = _renamed(before, after)
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


def _renamed(before: Project, after: Project) -> Project:
    """The pieces of a file that was renamed bear its new name, where they bore its old one."""
    old = {f.id: f.name for f in before.prints}
    new = {f.id: f.name for f in after.prints if f.id in old and old[f.id] != f.name}
    if not new:
        return after
    pieces = tuple(
        p.but(name=new[p.shape.file]) if isinstance(p.shape, Mesh) and p.shape.file in new and p.name == old[p.shape.file] else p
        for p in after.pieces
    )
    return after.but(pieces=pieces)


def _filling(project: Project, ident: str) -> Any:
    """All that the steps of a file follow from."""
    file = project.find(PRINTS, ident)
    if file is None:
        return None
    return machine_of(project, file), project.lead_of(file).id, beside(project, file), [m.id for m in project.brief.machines]
