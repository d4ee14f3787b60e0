# SPDX-License-Identifier: MIT
"""Steps that joints, fits and the rig hand to Coats: handed over again they are replaced where they stand, never doubled."""

from dataclasses import dataclass

from fondale.core.edits.edit import Edit
from fondale.core.edits.ids import new_id
from fondale.core.fits.glue import glues_for
from fondale.core.model import FITS, JOINS, STEPS, STRINGS, Fit, Join, Project, Step, String
from fondale.core.model.references import without
from fondale.core.words import as_name

# Hands-on minutes, least, likely, most: common practice, no source.
JOIN_MIN, SCRAPE_MIN, FIT_MIN, LAMP_MIN, TEST_MIN = (4.0, 8.0, 15.0), (2.0, 4.0, 8.0), (3.0, 6.0, 12.0), (5.0, 8.0, 14.0), (5.0, 10.0, 15.0)

DUTIES = ("join", "scrape", "try", "wire")  # of steps that are nothing without what they were handed over for
FOLLOWING = ("name", "minutes", "wait_h", "note", "tests", "splittable")


@dataclass(frozen=True)
class HandJoin(Edit):
    """The step that closes a joint with the best glue for it, and waits until it bears a hand."""

    join: str

    def done(self, project: Project) -> Project:
        return _with(project, joint_step(project, project.get(JOINS, self.join)))


@dataclass(frozen=True)
class HandFit(Edit):
    """The step that tries a fit dry."""

    fit: str

    def done(self, project: Project) -> Project:
        return _with(project, fit_step(project, project.get(FITS, self.fit)))


@dataclass(frozen=True)
class HandRig(Edit):
    """A step that wires each string, and one that tests every lamp."""

    def done(self, project: Project) -> Project:
        for string in project.strings:
            project = _with(project, wiring_step(project, string))
        return _with(project, testing_step(project)) if project.lamps else project


def follow(before: Project, after: Project) -> Project:
    """What was handed over and is not done follows its joint, its fit and the rig, and goes with them.

    Only what comes out otherwise than before is set anew: what the maker typed on the step stays.
    """
    # Lists are copied at each edit, what is in them is not.
    same = all(x.members(before) == x.members(after) for x in (JOINS, FITS, STRINGS))
    if same and [m.id for m in before.lamps] == [m.id for m in after.lamps]:  # a lamp that is dragged changes nothing here
        return after
    hung = {s.id for s in before.steps if s.joints or s.fits or s.strings}
    for step in after.steps:
        if step.id in hung and step.duty in DUTIES and not (step.done or step.joints or step.fits or step.strings):
            after = without(after, STEPS, step.id)
    was = {_of(s): s for s in _handed(before)}
    there = {_of(s): s for s in after.steps if s.duty and not s.done}
    for now in _handed(after):
        mine, old = there.get(_of(now)), was.get(_of(now))
        if mine is not None and old is not None:
            news = {n: getattr(now, n) for n in FOLLOWING if getattr(now, n) != getattr(old, n)}
            after = STEPS.at(mine.id).set(after, mine.but(**news)) if news else after
        elif mine is None and old is None and now.duty == "wire" and any(duty == "wire" for duty, *_rest in there):
            after = _with(after, now)  # the rig is handed over, and a new string belongs to it
    return after


def _handed(project: Project) -> list[Step]:
    """All steps that a project's joints, fits and rig would hand over now."""
    steps = [joint_step(project, j) for j in project.joins] + [fit_step(project, f) for f in project.fits]
    steps += [wiring_step(project, s) for s in project.strings]
    return [*steps, testing_step(project)] if project.lamps else steps


def wiring_step(project: Project, string: String) -> Step:
    """Wiring a string, so long for each lamp on it."""
    count = max(1, len(string.lamps))
    low, likely, high = (m * count for m in LAMP_MIN)
    return Step(
        id=_id(project, f"wire {string.id}"), name=as_name(f"Wire {string.name}"), work="wire", tool="iron", strings=(string.id,), duty="wire",
        minutes=(low, likely, high), splittable=count > 3,
    )  # fmt: skip


def testing_step(project: Project) -> Step:
    """Testing every lamp."""
    lamps = tuple(m.id for m in project.lamps)
    ident = _id(project, "test the light")
    return Step(id=ident, name="Test the light", work="test", tool="hand", tests=lamps, minutes=TEST_MIN, duty="test")


def joint_step(project: Project, join: Join) -> Step:
    """Gluing a joint: hours until the best glue for it bears a hand, and what to do."""
    best = next(iter(glues_for(join)), None)
    return Step(
        id=_id(project, f"join {join.id}"), name=as_name(f"Join {join.name}"), work="build", tool="hand", joints=(join.id,), duty="join", minutes=JOIN_MIN,
        wait_h=best.handle_h if best is not None else 0.0, note=f"{best.name}: {best.prepare}" if best is not None else "",
    )  # fmt: skip


def scrape_step(project: Project, join: Join) -> Step:
    """Baring the faces of a joint that are painted."""
    return Step(
        id=_id(project, f"scrape {join.id}"), name=as_name(f"Scrape the faces of {join.name}"), work="build", tool="hand", joints=(join.id,), duty="scrape",
        minutes=SCRAPE_MIN,
    )  # fmt: skip


def fit_step(project: Project, fit: Fit) -> Step:
    """Trying a fit dry, with all its coats on."""
    return Step(
        id=_id(project, f"try {fit.id}"),
        name=as_name(f"Try {fit.name} dry"),
        work="build",
        tool="hand",
        fits=(fit.id,),
        duty="try",
        minutes=FIT_MIN,
    )


def _id(project: Project, words: str) -> str:
    return new_id(words, (s.id for s in project.steps))


def _with(project: Project, new: Step) -> Project:
    """The project with a step, in the place of the one with its duty that is not done yet; what the maker set on that stays."""
    old = next((s for s in project.steps if not s.done and _of(s) == _of(new)), None)
    if old is None:
        return project.but(steps=(*project.steps, new))
    changed = old.but(name=new.name, minutes=new.minutes, wait_h=new.wait_h, tests=new.tests or old.tests)
    return project.but(steps=tuple(changed if s.id == old.id else s for s in project.steps))


def _of(step: Step) -> tuple[object, ...]:
    """What a step was handed over for."""
    return step.duty, step.joints, step.fits, step.strings
