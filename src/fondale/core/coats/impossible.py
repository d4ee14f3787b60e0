# SPDX-License-Identifier: MIT
"""Steps that cannot be done as things stand: beside them there is no date to promise."""

from dataclasses import dataclass

from fondale.core.coats.conflicts import access_conflicts
from fondale.core.coats.drying import too_cold
from fondale.core.materials import is_any
from fondale.core.model import Project, Step
from fondale.core.prints.jobs import goes_on
from fondale.core.prints.printers import machine_of
from fondale.core.strata import core_sample
from fondale.core.words import digits
from fondale.knowledge import table


@dataclass(frozen=True)
class Impossible:
    """A step by its id that cannot be done, and why."""

    step: str
    why: str


def impossible_steps(project: Project) -> tuple[Impossible, ...]:
    """The steps left to do that cannot be done: what they need is shut in, the bench is too cold for their coat, it eats its ground, or
    what is printed does not go on its machine.
    """
    steps = {s.id: s for s in project.steps}
    out = [
        Impossible(late, f"“{steps[late].name}” needs what “{steps[access.closing].name}” has shut")
        for access in access_conflicts(project)
        for late in access.late
    ]
    for step in project.steps:
        least = too_cold(step, project.brief) if not step.done else None
        if least is not None:
            out.append(
                Impossible(step.id, f"“{step.name}” cannot dry at {digits(project.brief.bench_c, 0)} °C: it needs {digits(least, 0)} °C")
            )
    files = {f.id: f for f in project.prints}
    for step in project.steps:
        file = files.get(step.file)
        if step.work == "print" and not step.done and file is not None and not goes_on(project, file):
            out.append(Impossible(step.id, f"“{file.name}” does not go on the {machine_of(project, file).name}"))
    out += [Impossible(s.id, f"“{s.name}” eats the bare foam") for _surface, s in wrong_ground(project, "eats")]
    return tuple(out)


def wrong_ground(project: Project, column: str) -> tuple[tuple[str, Step], ...]:
    """Surfaces, by id, whose first coat is left to do and should not lie on what is bare there: its solvent ``eats`` it, or it stays ``sticky_on``
    it. Common practice, no source.
    """
    rows, steps = table("coats")["coat"], {s.id: s for s in project.steps}
    out = []
    for surface in project.surfaces:
        first = next(iter(core_sample(project, surface.id)), None) if surface.material else None
        if first is not None and not first.done and is_any(surface.material, rows[first.coat].get(column, ())):
            out.append((surface.id, steps[first.step]))
    return tuple(out)
