# SPDX-License-Identifier: MIT
"""Pours handed to Coats."""

from fondale.core.coats.pours import COAT, Pours
from fondale.core.edits.edit import Add, maker
from fondale.core.edits.ids import new_id
from fondale.core.model import STEPS, SURFACES, Project, Step
from fondale.core.words import as_name, digits


@maker
def hand_pours(project: Project, surface: str, pours: Pours) -> tuple[Add[Step], ...]:
    """The pours as steps on a surface; each waits for the one before by what the coat needs."""
    name = project.get(SURFACES, surface).name
    out, taken, count = [], [s.id for s in project.steps], len(pours.each)
    for k, pour in enumerate(pours.each, 1):
        ident = new_id(f"pour {surface} {k}", taken)
        taken.append(ident)
        step = Step(
            id=ident, name=as_name(f"Pour {name}{f', {k} of {count}' if count > 1 else ''}"), work="paint", coat=COAT, surfaces=(surface,), tool="hand", film_um=(pour.high - pour.low) * 1000,
            minutes=(8.0, 12.0, 20.0), note=f"{digits(pour.high - pour.low, 1)} mm, {digits(pour.ml, 1)} ml: mix {digits(pour.grams, 1)} g",
        )  # fmt: skip
        out.append(Add(f"Pours of {name}", STEPS, step))
    return tuple(out)
