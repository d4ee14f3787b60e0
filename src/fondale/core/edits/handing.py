"""Steps that joints, fits and the rig hand to Coats: handed over again they are replaced where they stand, never doubled."""

from dataclasses import dataclass

from fondale.core.edits.edit import Edit
from fondale.core.edits.ids import new_id
from fondale.core.fits.glue import glues_for
from fondale.core.model import FITS, JOINS, Fit, Join, Project, Step
from fondale.core.words import as_name

# Hands-on minutes, least, likely, most: common practice, no source.
JOIN_MIN, SCRAPE_MIN, FIT_MIN, LAMP_MIN, TEST_MIN = (4.0, 8.0, 15.0), (2.0, 4.0, 8.0), (3.0, 6.0, 12.0), (5.0, 8.0, 14.0), (5.0, 10.0, 15.0)


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
            count = max(1, len(string.lamps))
            low, likely, high = (m * count for m in LAMP_MIN)
            step = Step(
                id=_id(project, f"wire {string.id}"), name=as_name(f"Wire {string.name}"), work="wire", tool="iron", strings=(string.id,), duty="wire",
                minutes=(low, likely, high), splittable=count > 3,
            )  # fmt: skip
            project = _with(project, step)
        if project.lamps:
            lamps = tuple(m.id for m in project.lamps)
            test = Step(
                id=_id(project, "test the light"),
                name="Test the light",
                work="test",
                tool="hand",
                tests=lamps,
                minutes=TEST_MIN,
                duty="test",
            )
            project = _with(project, test)
        return project


def joint_step(project: Project, join: Join) -> Step:
    """Gluing a joint: hours until the best glue for it bears a hand, and its caution."""
    best = next(iter(glues_for(join)), None)
    return Step(
        id=_id(project, f"join {join.id}"), name=as_name(f"Join {join.name}"), work="build", tool="hand", joints=(join.id,), duty="join", minutes=JOIN_MIN,
        wait_h=best.handle_h if best is not None else 0.0, caution=best.caution if best is not None else "", note=f"{best.name}: {best.prepare}" if best is not None else "",
    )  # fmt: skip


def scrape_step(project: Project, join: Join) -> Step:
    """Baring the faces of a joint that are painted."""
    return Step(
        id=_id(project, f"scrape {join.id}"), name=as_name(f"Scrape the faces of {join.name}"), work="build", tool="hand", joints=(join.id,), duty="scrape",
        minutes=SCRAPE_MIN, caution="blade",
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
    changed = old.but(name=new.name, minutes=new.minutes, wait_h=new.wait_h, caution=new.caution, tests=new.tests or old.tests)
    return project.but(steps=tuple(changed if s.id == old.id else s for s in project.steps))


def _of(step: Step) -> tuple[object, ...]:
    """What a step was handed over for."""
    return step.duty, step.joints, step.fits, step.strings
