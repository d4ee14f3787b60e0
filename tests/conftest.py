# SPDX-License-Identifier: MIT
"""What all tests share: the samples on one fixed day, and small projects made through edits."""

import gc
import os
import sys
import threading
from datetime import date
from multiprocessing import active_children
from typing import Any

import pytest
from hypothesis import settings

from fondale.core.derived import FOR_SHOW, QUICK, RESULTS
from fondale.core.edits import apply, new_project, put
from fondale.core.limits import NAME_MOST
from fondale.core.model import FITS, LISTS, PIECES, PROJECT, SURFACES, Case, Detail, Measure, Piece, Place, Project
from fondale.core.model.base import Row
from fondale.core.model.marks import changed, marked
from fondale.core.model.shapes import Figure
from fondale.core.reckoning import Derived, Look, Result
from fondale.demo import glasshouse, heron_stairs, signal_hut
from tests.kept import FirstKept

TODAY = date(2026, 11, 24)
# Every run tries the same examples, so that a red run is the change's doing; HUNT=20 tries twenty times as many new ones.
HUNT = int(os.environ.get("HUNT", 0))
settings.register_profile("steady", deadline=None, derandomize=True)
settings.register_profile("hunt", deadline=None, max_examples=100 * max(HUNT, 1))
settings.load_profile("hunt" if HUNT else "steady")
if not os.environ.get("DISPLAY"):
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

# The fields of the model that hold a key of a table.
KEYED = [
    ("Machine", "row"), ("Detail", "part"), ("Piece", "thing"), ("Figure", "pose"), ("Mesh", "pose"), ("Fit", "hole_coats"),
    ("Fit", "peg_coats"), ("Magnet", "grade"), ("Step", "coat"), ("Step", "tool"), ("Piece", "material"), ("Bit", "material"), ("Surface", "material"), ("Join", "a"), ("Join", "b"), ("Lamp", "led"), ("Lamp", "package"), ("Supply", "row"),
]  # fmt: skip


def tries(count: int) -> settings:
    """As many examples as a slower property can have in every run; more in a hunt."""
    return settings(max_examples=count * max(HUNT, 1))


@pytest.fixture(scope="session", autouse=True)
def own_cache(tmp_path_factory):
    """Workers keep what they build in a folder of the tests’ own."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("XDG_CACHE_HOME", str(tmp_path_factory.mktemp("cache")))
        yield


@pytest.fixture
def today() -> date:
    return TODAY


@pytest.fixture(scope="session")
def heron() -> Project:
    return heron_stairs(TODAY)


@pytest.fixture(scope="session")
def glass() -> Project:
    return glasshouse(TODAY)


@pytest.fixture(scope="session")
def hut() -> Project:
    return signal_hut(TODAY)


@pytest.fixture(scope="session")
def empty() -> Project:
    return new_project("Empty", TODAY)


def figure(ident: str = "man", x: float = 100, y: float = 100, mm: float = 50.0, **more: object) -> Piece:
    """A measured standing man on the floor."""
    shape = more.pop("shape", Figure())
    return Piece(id=ident, name=ident.capitalize(), shape=shape, place=Place(x=x, y=y), measure=Measure(mm=mm), **more)


SENTENCE = ("Landing of the lower stairs, as a maker would explain it " * 3)[:NAME_MOST].strip()
ONE_WORD = "Landingofthelowerstairs" * 5


def with_long_names(project: Project, long: str = SENTENCE) -> Project:
    """The same project, where everything bears the longest name that is allowed."""
    for listing in LISTS:
        for thing in listing.members(project):
            if hasattr(thing, "name"):
                project = apply(project, put(listing.at(thing.id).then(lambda t: t.name), long, "Rename"))
    return apply(project, put(PROJECT.then(lambda p: p.name), long, "Rename"))


def boxed(project: Project, *pieces: Piece, **case: object) -> Project:
    """The project with these pieces in a glazed box of 300 x 200 x 200."""
    return project.model_copy(update={"pieces": pieces, "case": Case(width=300, depth=200, height=200, **case)})


def known(project: Project, *more: Result[Any]) -> Derived:
    """All quick results of a project, and these."""
    return FirstKept().derive(project, Look(TODAY), (*QUICK, *more))


def derive(project: Project, today: date) -> Derived:
    """All that papers and prompts ask of a project, as :func:`fondale.core.derived.derive` has it."""
    return FirstKept().derive(project, Look(today), (r for r in RESULTS if r not in FOR_SHOW))


def of_tomorrow(project: Project, *fields: tuple[str, str]) -> Project:
    """The project where the first key of each of these fields is one that nobody knows yet."""
    for where in fields:
        project = _first_of_tomorrow(project, where)
    return project


def _first_of_tomorrow(project: Project, where: tuple[str, str]) -> Project:
    for listing in LISTS:
        for member in listing.members(project):
            keys = [m.value for m in marked(member, Row) if (type(m.owner).__name__, m.field) == where]
            if keys:
                new = changed(
                    member,
                    Row,
                    lambda m, k=keys[0]: "of_tomorrow" if (type(m.owner).__name__, m.field) == where and m.value == k else m.value,
                )
                return listing.spot.set(project, tuple(new if m is member else m for m in listing.members(project)))
    raise AssertionError(where)


@pytest.fixture(scope="session")
def rich(heron) -> Project:
    """The demo, with a key in every field that can hold one."""
    fit, face = heron.fits[0].id, heron.surfaces[0].id
    return apply(
        heron,
        put(FITS.at(fit).then(lambda f: f.hole_coats), ("primer_spray", "acrylic"), "Coats"),
        put(FITS.at(fit).then(lambda f: f.peg_coats), ("primer_spray",), "Coats"),
        put(PIECES.at("ferryman").then(lambda p: p.material), "resin", "Material"),
        put(SURFACES.at(face).then(lambda s: s.material), "foam", "Material"),
        put(PIECES.at("ferryman").then(lambda p: p.details), (Detail(id="head", part="head", mm=6.5),), "Details"),
    )


@pytest.fixture(autouse=True)
def no_workers_left():
    """Threads and processes that a test started have ended with it."""
    before = {*threading.enumerate(), *active_children()}
    yield
    # Those that work on arrays side by side are kept.
    left = {one for one in {*threading.enumerate(), *active_children()} - before if not one.name.startswith("side_")}
    for one in left:
        one.join(5.0)
    assert {one.name for one in left if one.is_alive()} == set()


@pytest.fixture(autouse=True, scope="module")
def no_timers_left():
    """No timer of a window ticks on when the tests of a module are over; and what they have solved is let go, which no window’s collector does here."""
    yield
    gc.collect()
    if (core := sys.modules.get("PySide6.QtCore")) is None:
        return
    valid = sys.modules["shiboken6"].isValid
    ticking = [t for t in gc.get_objects() if isinstance(t, core.QTimer) and valid(t) and t.isActive()]
    assert [(t.interval(), t.parent()) for t in ticking] == []
