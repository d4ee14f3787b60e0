"""Everything that follows from a project: never stored, always computed from a snapshot."""

from dataclasses import dataclass
from datetime import date

from fondale.core.circuit.supply import SupplyResult, lamp_currents, solve_all
from fondale.core.coats.conflicts import Access, Chemistry, Missing, access_conflicts, chemistry_conflicts, missing
from fondale.core.diary.pace import Ledger, ledger
from fondale.core.fits.air import Air, air_of
from fondale.core.light.desk import LightDesk, LightResult
from fondale.core.model import Project
from fondale.core.order.plan import Plan, make_plan
from fondale.core.photo.reading import ThreadReading, read_photo
from fondale.core.prints.balance import Balance, balance
from fondale.core.prints.jobs import Bank, PrintJob, bank, job_of
from fondale.core.scale.candidates import Ribbon, ribbon
from fondale.core.scale.reading import Reading, read_piece
from fondale.core.stage.clearance import Clash, Outside, clashes, outside
from fondale.core.stage.scene import build_scene
from fondale.core.views.sight import BareLamp, PieceView, bare_lamps, piece_views


@dataclass(frozen=True)
class Quick:
    """What is known within a blink of an edit."""

    readings: dict[str, Reading]
    ribbon: Ribbon
    photos: dict[str, dict[str, ThreadReading]]
    airs: dict[str, Air]
    jobs: dict[str, PrintJob]
    balances: dict[str, Balance]
    bank: Bank
    clashes: tuple[Clash, ...]
    outside: tuple[Outside, ...]
    views: tuple[PieceView, ...]
    bare: tuple[BareLamp, ...]
    supplies: tuple[SupplyResult, ...]
    access: tuple[Access, ...]
    chemistry: tuple[Chemistry, ...]
    missing: tuple[Missing, ...]
    ledger: Ledger

    @property
    def amps(self) -> dict[str, float]:
        """Current in A of every wired lamp."""
        return lamp_currents(self.supplies)


@dataclass(frozen=True)
class Derived:
    """Quick results, and the slow ones where they are ready."""

    quick: Quick
    plan: Plan | None = None
    light: LightResult | None = None


def quick(project: Project) -> Quick:
    """Scale, stage, views, circuits and order conflicts."""
    scene = build_scene(project)
    readings = {p.id: r for p in project.pieces if (r := read_piece(p, project.brief.house_n)) is not None}
    return Quick(
        readings,
        ribbon(project, readings),
        {p.id: read_photo(p) for p in project.photos},
        {f.id: air_of(f, project.brief.rules.tolerance) for f in project.fits},
        {f.id: job_of(project, f) for f in project.prints},
        {f.id: balance(f) for f in project.prints},
        bank(project),
        clashes(project),
        outside(project),
        piece_views(project, scene, project.seats),
        tuple(b for s in project.seats for b in bare_lamps(project, scene, s)),
        solve_all(project),
        access_conflicts(project),
        chemistry_conflicts(project),
        missing(project),
        ledger(project),
    )


def derive(project: Project, today: date, desk: LightDesk | None = None) -> Derived:
    """All of it, the slow parts too."""
    fast = quick(project)
    light = (desk or LightDesk()).meters(project, amps=fast.amps) if project.meters else None
    return Derived(fast, make_plan(project, today), light)
