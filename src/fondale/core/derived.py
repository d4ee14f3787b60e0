# SPDX-License-Identifier: MIT
"""Every derived result, each declared in one place. What computes it is loaded where it is computed, not where it is named."""

from typing import TYPE_CHECKING, Any

from fondale.core.model import Model, Project
from fondale.core.model.shapes import Mesh
from fondale.core.model.snapshots import once
from fondale.core.reckoning import Derived, Key, Look, Reckoner, Reckoning, Result

if TYPE_CHECKING:
    from datetime import date

    from fondale.core.circuit.supply import SupplyResult
    from fondale.core.coats.conflicts import Access, Chemistry, Missing
    from fondale.core.coats.schools import Astray
    from fondale.core.diary.pace import Ledger
    from fondale.core.fits.air import Air
    from fondale.core.fits.magnets import Pull
    from fondale.core.house_scale import Ribbon
    from fondale.core.light.desk import LightResult
    from fondale.core.light.views import LitView, StageView
    from fondale.core.order.plan import Plan
    from fondale.core.photo.reading import ThreadReading
    from fondale.core.prints.balance import Balance
    from fondale.core.prints.jobs import Bank, PrintJob
    from fondale.core.prints.wear import Wear
    from fondale.core.progress import Progress
    from fondale.core.scale.reading import Reading
    from fondale.core.stage.clearance import Clash, Outside, ShutIn
    from fondale.core.stage.cutting import CutPlan
    from fondale.core.stage.outlines import Outlines
    from fondale.core.stage.seams import Seam
    from fondale.core.stage.swings import Swing
    from fondale.core.stage.weights import Weights
    from fondale.core.views.backdrops import BackdropView
    from fondale.core.views.places import Hiding
    from fondale.core.views.sight import BareLamp, PieceView


# What results depend on. Names and notes are in none of these: who is renamed stays where he stands.


def _nameless(things: tuple[Model, ...]) -> Key:
    """All that things hold but their names."""
    return tuple(tuple(v for k, v in thing.__dict__.items() if k != "name") for thing in things)


@once
def _sizes(project: Project) -> Key:
    """What is measured and known of every piece."""
    return tuple((p.id, p.shape, p.measure, p.details, p.thing, p.worn, p.real_mm, p.name if p.real_mm else "") for p in project.pieces)


@once
def _scene(project: Project) -> Key:
    """The case, and every placed piece as it stands."""
    from fondale.core.stage.cases import as_it_stands

    standing = (p for p in project.pieces if p.place is not None)
    return as_it_stands(project.case), tuple(
        (p.id, p.shape, p.measure, p.details, p.worn, p.real_mm, p.shown_mm, p.place, p.role) for p in standing
    )


def _parts(project: Project) -> Key:
    """What is part of what."""
    return tuple(p.part_of for p in project.pieces)


@once
def _painted(project: Project) -> Key:
    """The scene with its colours."""
    from fondale.core.stage.paints import figure_paints

    return *_scene(project), tuple(p.paint for p in project.pieces if p.place is not None), tuple(figure_paints(project).items())


@once
def _eyes(project: Project) -> Key:
    from fondale.core.stage.cases import floor_over_shelf

    return _nameless(project.seats), project.brief.shelf_height_mm, floor_over_shelf(project.case)


def _wiring(project: Project) -> Key:
    lamps = tuple((m.id, m.led) for m in project.lamps)
    return lamps, _nameless(project.strings), _nameless(project.supplies)


@once
def _lamps(project: Project) -> Key:
    """Where lamps are and what they are, not how bright."""
    return tuple((m.id, m.led, m.x, m.y, m.z, m.ax, m.ay, m.az, m.angle_deg) for m in project.lamps)


@once
def _lit(project: Project) -> Key:
    return (
        *_painted(project),
        _lamps(project),
        tuple(m.level for m in project.lamps),
        tuple((m.id, m.levels) for m in project.moments),
        project.moment,
    )


def _printing(project: Project) -> Key:
    parts = tuple((p.shape, p.role) for p in project.pieces if getattr(p.shape, "file", ""))
    return _nameless(project.prints), parts, project.brief.machines, project.brief.rules.prints, project.brief.currency


def _bench(project: Project) -> Key:
    return project.brief.bench_c, project.brief.bench_rh


@once
def _estimates(project: Project) -> Key:
    """The minutes of all steps, typed or proposed."""
    from fondale.core.handwork import minutes_of

    return tuple((s.id, minutes_of(project, s)) for s in project.steps)


@once
def _order(project: Project) -> Key:
    """The steps, what they work on and shut in, and of which files, parts and machines that is made."""
    from fondale.core.coats.links import shut_by

    made_of = tuple((p.id, p.part_of, p.shape.file if isinstance(p.shape, Mesh) else "") for p in project.pieces)
    built_in = tuple((m.id, m.piece) for m in project.lamps if m.piece)
    shut = tuple(sorted(shut_by(project, s)) for s in project.steps if s.closes)
    proposed = _estimates(project)
    hung, joined = tuple((s.id, s.lamps) for s in project.strings), tuple((j.id, j.pieces) for j in project.joins)
    handed = {s.file for s in project.steps if s.file}
    lie = tuple(
        (f.name, f.printed, f.cuts, f.panels, f.up, f.tilt_deg, f.keyed, f.machine, f.ordered) for f in project.prints if f.id in handed
    )
    shop = tuple((f.id, f.beside) for f in project.prints), lie, tuple((m.id, m.row, m.own) for m in project.brief.machines)
    return project.steps, project.surfaces, made_of, built_in, shut, proposed, hung, joined, shop, project.brief.rules.order


# Bench and Brief.


def _readings(at: Reckoning) -> "dict[str, Reading]":
    from fondale.core.scale.pieces import read_piece

    return {p.id: r for p in at.project.pieces if (r := read_piece(p, at.project.brief.house_n)) is not None}


READINGS = Result("readings", "reading scales", "quick", _readings, lambda p, _l: (_sizes(p), p.brief.house_n))


def _ribbon(at: Reckoning) -> "Ribbon":
    from fondale.core.house_scale import ribbon

    return ribbon(at.project, at[READINGS])


def _at_hand(project: Project, _look: Look) -> Key:
    from fondale.core.house_scale import stock

    stands = tuple((p.id, p.stands, p.lost, p.origin, p.role, p.name if p.role == "piece" else "") for p in project.pieces)
    return _scene(project), stands, stock(project.bits), project.prints, tuple(s.distance for s in project.seats), project.brief.house_n


RIBBON = Result("ribbon", "weighing scales", "quick", _ribbon, _at_hand, (READINGS,))


def _photos(at: Reckoning) -> "dict[str, dict[str, ThreadReading]]":
    from fondale.core.photo.reading import read_photo

    return {p.id: read_photo(p) for p in at.project.photos}


PHOTO_READINGS = Result("photo_readings", "reading photographs", "quick", _photos, lambda p, _l: (p.photos,))


def _airs(at: Reckoning) -> "dict[str, Air]":
    from fondale.core.fits.air import air_of

    return {f.id: air_of(f, at.project.brief.rules.tolerance, at.project) for f in at.project.fits}


def _faces(project: Project) -> Key:
    """The fits, and the coats of the surfaces that they are on."""
    on = {s for f in project.fits for s in (f.hole_on, f.peg_on) if s}
    coats = tuple((s.coat, s.tool, s.film_um, s.surfaces) for s in project.steps if s.coat and on & set(s.surfaces)) if on else ()
    return project.fits, coats, tuple((s.id, s.name, s.piece) for s in project.surfaces if s.id in on)


AIRS = Result("airs", "measuring fits", "quick", _airs, lambda p, _l: (_faces(p), p.brief.rules.tolerance))


def _jobs(at: Reckoning) -> "dict[str, PrintJob]":
    from fondale.core.prints.jobs import job_of

    return {f.id: job_of(at.project, f) for f in at.project.prints}


JOBS = Result("jobs", "reckoning prints", "quick", _jobs, lambda p, _l: _printing(p))


def _heavy(project: Project) -> Key:
    """What says how heavy each piece is."""
    return tuple((p.id, p.weight_g, p.material, p.filled, p.measure, p.shown_mm, p.shape, p.details, p.part_of) for p in project.pieces)


def _pulls(at: Reckoning) -> "dict[str, Pull]":
    from fondale.core.fits.magnets import magnet_of

    jobs = at[JOBS]
    return {f.id: pull for f in at.project.fits if (pull := magnet_of(f, at.project, jobs)) is not None}


PULLS = Result("pulls", "weighing magnets", "quick", _pulls, lambda p, _l: (_faces(p), _heavy(p)), (JOBS,))


def _wears(at: Reckoning) -> "dict[str, Wear]":
    from fondale.core.prints.wear import wears

    return wears(at.project, at[JOBS])


WEARS = Result("wears", "counting hours", "quick", _wears, lambda p, _l: (), (JOBS,))


def _balances(at: Reckoning) -> "dict[str, Balance]":
    from fondale.core.prints.balance import balance

    return {f.id: balance(f) for f in at.project.prints}


BALANCES = Result("balances", "weighing prints", "quick", _balances, lambda p, _l: (_nameless(p.prints),))


def _bank(at: Reckoning) -> "Bank":
    from fondale.core.prints.jobs import bank

    return bank(at.project, at[JOBS])


BANK = Result("bank", "filling the printers", "quick", _bank, lambda p, _l: (), (JOBS,))


def _ledger(at: Reckoning) -> "Ledger":
    from fondale.core.diary.pace import ledger

    return ledger(at.project, at[JOBS])


LEDGER = Result(
    "ledger", "adding up", "quick", _ledger,
    lambda p, _l: (p.pages, _estimates(p), tuple(x.cost for x in p.pieces), p.brief.cap), (JOBS,),
)  # fmt: skip


# Stage.


def _clashes(at: Reckoning) -> "tuple[Clash, ...]":
    from fondale.core.stage.clearance import clashes

    return clashes(at.project)


CLASHES = Result("clashes", "looking for what touches", "quick", _clashes, lambda p, _l: (_scene(p), _parts(p)))


def _swings(at: Reckoning) -> "tuple[Swing, ...]":
    from fondale.core.stage.swings import swings

    return swings(at.project)


SWINGS = Result(
    "swings",
    "turning doors and cranes",
    "quick",
    _swings,
    lambda p, _l: (_scene(p), tuple((x.swing_deg, x.pivot, x.part_of) for x in p.pieces if x.swing_deg)),
)


def _seams(at: Reckoning) -> "tuple[Seam, ...]":
    from fondale.core.stage.seams import seams

    return seams(at.project)


# Beside the pictures: bodies of files may have very many faces, and no prompt waits for them.
SEAMS = Result(
    "seams", "looking where parts meet", "view", _seams, lambda p, _l: (_scene(p), _parts(p)) if any(_parts(p)) else (), slow=True
)


def _outside(at: Reckoning) -> "tuple[Outside, ...]":
    from fondale.core.stage.clearance import outside

    return outside(at.project)


OUTSIDE = Result("outside", "looking for what sticks out", "quick", _outside, lambda p, _l: _scene(p))


def _shut(at: Reckoning) -> "tuple[ShutIn, ...]":
    from fondale.core.stage.clearance import shut_in

    return shut_in(at.project)


SHUT = Result("shut", "looking for the way out", "quick", _shut, lambda p, _l: _scene(p))


def _cuts(at: Reckoning) -> "CutPlan":
    from fondale.core.stage.cutting import cut_plan

    return cut_plan(at.project.case)


CUTS = Result("cuts", "laying out the boards", "quick", _cuts, lambda p, _l: (p.case,))


def _weights(at: Reckoning) -> "Weights":
    from fondale.core.stage.weights import weights

    return weights(at.project, at[JOBS])


WEIGHTS = Result(
    "weights", "weighing everything", "quick", _weights,
    lambda p, _l: (_scene(p), p.case.boards, _heavy(p), tuple(x.slings for x in p.pieces)), (JOBS,),
)  # fmt: skip


def _views(at: Reckoning) -> "tuple[PieceView, ...]":
    from fondale.core.stage.scene import build_scene
    from fondale.core.views.sight import piece_views

    return piece_views(at.project, build_scene(at.project), at.project.seats)


VIEWS = Result("views", "looking from the seats", "quick", _views, lambda p, _l: (_scene(p), _eyes(p)))


def _backdrops(at: Reckoning) -> "tuple[BackdropView, ...]":
    from fondale.core.views.backdrops import backdrop_views

    return backdrop_views(at.project)


BACKDROPS = Result("backdrops", "looking for the backdrop’s edges", "quick", _backdrops, lambda p, _l: (_scene(p), _eyes(p)), slow=True)


def _bare(at: Reckoning) -> "tuple[BareLamp, ...]":
    from fondale.core.stage.scene import build_scene
    from fondale.core.views.sight import bare_lamps

    scene = build_scene(at.project)
    return tuple(b for s in at.project.seats for b in bare_lamps(at.project, scene, s))


BARE = Result("bare", "looking for bare bulbs", "quick", _bare, lambda p, _l: (_scene(p), _eyes(p), _lamps(p)))


def _hidings(at: Reckoning) -> "dict[str, Hiding]":
    from fondale.core.views.places import hidings

    return hidings(at.project, {b.lamp for b in at[BARE]})


HIDINGS = Result(
    "hidings",
    "looking for what hides bulbs",
    "quick",
    _hidings,
    lambda p, _l: (tuple(m.meant_to_be_seen for m in p.lamps),),
    (BARE,),
    slow=True,
)


def _stage(at: Reckoning) -> "StageView | None":
    from fondale.core.light.views import stage_view

    return stage_view(at.project, at.look.seat_of(at.project), at.look.width, at.look.head)


STAGE = Result(
    "stage",
    "looking from the seat",
    "view",
    _stage,
    lambda p, look: (_painted(p), _eyes(p), look.seat_of(p), look.width, look.head, _indices(p)),
)


def _indices(project: Project) -> Key:
    """The places of pieces in their list: pictures say by them who is seen."""
    return tuple(p.id for p in project.pieces)


def _outlines(at: Reckoning) -> "Outlines":
    from fondale.core.stage.outlines import outlines

    return outlines(at.project)


OUTLINES = Result(
    "outlines",
    "drawing outlines",
    "view",
    _outlines,
    lambda p, _l: (_sizes(p), tuple((x.role, x.place is None) for x in p.pieces), tuple((f.id, f.up, f.tilt_deg) for f in p.prints)),
    slow=True,
)


# Lamps.


def _supplies(at: Reckoning) -> "tuple[SupplyResult, ...]":
    from fondale.core.circuit.supply import solve_all

    return solve_all(at.project)


SUPPLIES_SOLVED = Result("supplies", "solving circuits", "quick", _supplies, lambda p, _l: _wiring(p))


def _amps(at: Reckoning) -> dict[str, float]:
    from fondale.core.circuit.supply import lamp_currents

    return lamp_currents(at[SUPPLIES_SOLVED])


AMPS = Result("amps", "solving circuits", "quick", _amps, lambda p, _l: (), (SUPPLIES_SOLVED,))


def _light(at: Reckoning) -> "LightResult | None":
    wanted = at.project.meters or at.project.areas
    return at.reckoner.fine_desk.first.meters(at.project, amps=at[AMPS], progress=at.progress, plain=False) if wanted else None


def _fine_light(at: Reckoning) -> "LightResult | None":
    wanted = at.project.meters or at.project.areas
    return at.reckoner.fine_desk.meters(at.project, amps=at[AMPS], progress=at.progress, plain=False) if wanted else None


def _metered(project: Project, _look: Look) -> Key:
    return (
        _lit(project), tuple((m.id, m.x, m.y, m.z, m.nx, m.ny, m.nz) for m in project.meters),
        tuple((a.id, a.x, a.y, a.z, a.width, a.depth) for a in project.areas), project.brief.house_n if project.areas else 0.0,
    )  # fmt: skip


FINE_LIGHT = Result("fine light", "refining the light", "light", _fine_light, _metered, (AMPS,), slow=True)
LIGHT = Result("light", "solving the light", "light", _light, _metered, (AMPS,), slow=True, finer=FINE_LIGHT)


def _picture(at: Reckoning) -> "LitView | None":
    from fondale.core.light.views import lit_view

    return lit_view(at.reckoner.fine_desk.first, at.project, at.look.seat_of(at.project), at.look.width, at[AMPS], at.progress)


def _fine_picture(at: Reckoning) -> "LitView | None":
    from fondale.core.light.views import lit_view

    return lit_view(at.reckoner.fine_desk, at.project, at.look.seat_of(at.project), at.look.width, at[AMPS], at.progress)


def _pictured(project: Project, look: Look) -> Key:
    return _lit(project), _eyes(project), look.seat_of(project), look.width


FINE_PICTURE = Result("fine picture", "refining the lit view", "light", _fine_picture, _pictured, (AMPS,), slow=True)
PICTURE = Result("picture", "drawing the lit view", "light", _picture, _pictured, (AMPS,), slow=True, finer=FINE_PICTURE)


# Coats and Diary.


def _access(at: Reckoning) -> "tuple[Access, ...]":
    from fondale.core.coats.conflicts import access_conflicts

    return access_conflicts(at.project)


ACCESS = Result("access", "rehearsing", "quick", _access, lambda p, _l: _order(p))


def _chemistry(at: Reckoning) -> "tuple[Chemistry, ...]":
    from fondale.core.coats.cures import with_cures

    return with_cures(at.project)


CHEMISTRY = Result("chemistry", "looking at the coats", "quick", _chemistry, lambda p, _l: (_order(p), p.brief.rules))


def _astray(at: Reckoning) -> "dict[str, Astray]":
    from fondale.core.coats.schools import astray

    rules = at.project.brief.rules
    found = {rule: astray(at.project, rule) for rule in (rules.ageing, rules.order)}
    return {rule: one for rule, one in found.items() if one is not None}


ASTRAY = Result("astray", "looking at the house rules", "quick", _astray, lambda p, _l: (_order(p), p.brief.rules))


def _effects(at: Reckoning) -> dict[str, str]:
    from fondale.core.rule_effects import effects

    return effects(at.project, at[ASTRAY])


EFFECTS = Result(
    "effects",
    "looking at the house rules",
    "quick",
    _effects,
    lambda p, _l: (_order(p), p.strings, p.supplies, p.fits, p.brief.rules, p.brief.machines),
    (ASTRAY,),
)


def _missing(at: Reckoning) -> "tuple[Missing, ...]":
    from fondale.core.coats.conflicts import missing

    return missing(at.project)


MISSING = Result("missing", "looking for what was forgotten", "quick", _missing, lambda p, _l: (_order(p), _scene(p), _lamps(p)))  # fmt: skip


def _plan(at: Reckoning) -> "Plan":
    from fondale.core.order.plan import make_plan

    return make_plan(at.project, at.look.today, progress=at.progress)


def _time(project: Project, look: Look) -> Key:
    brief = project.brief
    when = brief.start, brief.deadline, brief.evenings, brief.evening_from, brief.days_off, brief.airbrush, brief.spray_can
    tries = tuple((f.id, f.difficulty) for f in project.prints)
    return _order(project), when, _bench(project), project.pages, tries, look.today


def _draft(at: Reckoning) -> "Plan":
    from fondale.core.order.plan import make_plan

    return make_plan(at.project, at.look.today, draft=True)


# Shown until the best order is found; beside the pictures, so that it need not wait for that.
DRAFT = Result("draft", "a first running order", "view", _draft, _time, slow=True)
PLAN = Result("plan", "finding the running order", "plan", _plan, _time, slow=True)

# In an order in which each stands after what it needs.
RESULTS: tuple[Result[Any], ...] = (
    READINGS, RIBBON, PHOTO_READINGS, AIRS, JOBS, PULLS, WEARS, BALANCES, BANK, LEDGER, CLASHES, SWINGS, SEAMS, OUTSIDE, SHUT, CUTS, WEIGHTS, VIEWS, BACKDROPS, BARE, HIDINGS, STAGE, OUTLINES,
    SUPPLIES_SOLVED, AMPS, ACCESS, CHEMISTRY, ASTRAY, EFFECTS, MISSING, DRAFT, PLAN, LIGHT, PICTURE, FINE_LIGHT, FINE_PICTURE,
)  # fmt: skip
BY_NAME = {r.name: r for r in RESULTS}
QUICK = tuple(r for r in RESULTS if r.lane == "quick")
# What the window alone looks at.
FOR_SHOW = (STAGE, OUTLINES, EFFECTS, DRAFT, PICTURE, FINE_PICTURE)


def derive(project: Project, today: "date", progress: "Progress | None" = None) -> Derived:
    """All that papers and prompts ask of a project, the slow parts too. Raises whatever goes wrong."""
    return Reckoner().derive(project, Look(today), (r for r in RESULTS if r not in FOR_SHOW), progress)
