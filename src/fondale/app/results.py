"""Derived results of the open document: asked for in the background, kept until fresher ones arrive."""

import traceback
from collections.abc import Callable
from datetime import date
from typing import Any

from fondale.app.document import Document
from fondale.app.errands import ERRANDS
from fondale.app.tasks import LitView, StageView
from fondale.app.workers import Report, Workers
from fondale.core.derive import Derived, Quick
from fondale.core.light.desk import LightResult
from fondale.core.model import Project
from fondale.core.order.plan import Plan
from fondale.core.prompts import Finding, judge
from fondale.core.scale.candidates import counted
from fondale.core.stage.outlines import Outlines

WORDS = {"quick": "checking", "stage": "looking from the seat", "outlines": "drawing outlines", "plan": "finding the running order", "light": "solving the light", "picture": "drawing the lit view", "mesh": "reading files", "cut": "cutting", "seek": "looking for short seams", "photo": "reading the photograph", "count": "counting seats", "table": "reading the table"}  # fmt: skip
VIEW_WIDTH, DRAG_WIDTH = 640, 320
Listener = Callable[[], None]


class Results:
    """``quick``, ``plan``, ``light``, ``stage``, ``picture`` and ``outlines`` of the document; None until first known."""

    def __init__(self, document: Document, today: date) -> None:
        self.document = document
        self.today = today
        self.quick: Quick | None = None
        self.plan: Plan | None = None
        self.light: LightResult | None = None
        self.stage: StageView | None = None
        self.picture: LitView | None = None
        self.outlines: Outlines | None = None
        self.prompts: tuple[Finding, ...] = ()
        self.left: tuple[tuple[Finding, str], ...] = ()
        self.seat = ""
        self.view_width = VIEW_WIDTH
        self.dragging = False
        self.busy: dict[str, tuple[float, str]] = {}
        self.trouble = ""
        self._workers: Workers | None = None
        self._tickets: dict[str, int] = {}
        self._asked: dict[str, tuple[Any, ...]] = {}
        self._errands: dict[str, Callable[[Report], None]] = {}
        self._listeners: list[Listener] = []
        self._busy_listeners: list[Listener] = []

    def connect(self, workers: Workers) -> None:
        """Where to send requests."""
        self._workers = workers

    def listen(self, listener: Listener) -> None:
        """Call ``listener`` whenever a result or the prompts change."""
        self._listeners.append(listener)

    def listen_busy(self, listener: Listener) -> None:
        """Call ``listener`` when work under way gets on; nothing else has changed then."""
        self._busy_listeners.append(listener)

    def open(self, document: Document) -> None:
        """Begin anew with another document."""
        self.document = document
        self.quick = self.plan = self.light = self.stage = self.picture = self.outlines = None
        self.prompts, self.left, self.seat = (), (), ""
        self._asked.clear()
        self._errands.clear()
        self.busy.clear()

    def seat_of(self, project: Project) -> str:
        """The chosen seat, or the first one."""
        ids = [s.id for s in project.seats]
        return self.seat if self.seat in ids else (ids[0] if ids else "")

    def refresh(self, slow: bool = True) -> None:
        """Ask for whatever the present snapshot makes stale. ``slow`` False leaves out the plan and the light."""
        project = self.document.project
        seat = self.seat_of(project)
        self._ask("quick", project)
        self._ask("stage", project.pieces, project.case, project.seats, project.brief.shelf_height_mm, seat, self.view_width)
        if not self.dragging:
            self._ask("outlines", project.pieces)
        if slow:
            self._ask("plan", *self._plan_depends(project))
            self.refresh_light()

    @staticmethod
    def _plan_depends(project: Project) -> tuple[Any, ...]:
        brief = project.brief
        return project.steps, brief.start, brief.deadline, brief.evenings, brief.evening_from, brief.days_off, brief.bench_c, brief.bench_rh, project.pages  # fmt: skip

    def refresh_light(self) -> None:
        """Ask for the meters and the lit view, once the currents are known."""
        if self.quick is None:
            return
        project = self.document.project
        parts = (project.case, project.pieces, project.lamps, project.strings, project.supplies, project.moments, project.moment)
        amps = tuple(self.quick.amps.items())
        self._ask("picture", *parts, amps, project.seats, project.brief.shelf_height_mm, self.seat_of(project), self.view_width)
        if project.meters:
            self._ask("light", *parts, amps, project.meters)
        else:
            self.light = None

    def _ask(self, task: str, *depends: Any) -> None:
        """Request ``task`` unless the same has been asked for already."""
        if self._workers is None or self._asked.get(task) == depends:
            return
        self._asked[task] = depends
        # A box of thousands of bits is not packed and sent with every request.
        project, seat = counted(self.document.project), self.seat_of(self.document.project)
        amps = self.quick.amps if self.quick else {}
        args: dict[str, tuple[Any, ...]] = {
            "quick": (project,),
            "stage": (project, seat, self.view_width),
            "outlines": (project,),
            "plan": (project, self.today),
            "light": (project, amps),
            "picture": (project, seat, self.view_width, amps),
        }
        self.busy[task] = (0.0, WORDS[task])
        self._tickets[task] = -1
        self._tickets[task] = self._workers.ask(task, *args[task])

    def errand(self, task: str, args: tuple[Any, ...], then: Callable[[Report], None]) -> bool:
        """Have something done once; ``then`` gets the report. False while the same is still under way."""
        if self._workers is None or task in self._errands:
            return False
        self._errands[task] = then
        self.busy[task] = (0.0, WORDS[task])
        self._tickets[task] = -1
        for listener in self._busy_listeners:
            listener()
        self._tickets[task] = self._workers.ask(task, *args)
        return True

    def doing(self, task: str) -> bool:
        """Whether an errand of this kind is under way."""
        return task in self._errands

    def stop(self, task: str) -> None:
        """The maker stops a running task; it is asked for again after the next edit."""
        if self._workers is not None:
            self._workers.stop(task)
        self.busy.pop(task, None)
        self._asked.pop(task, None)
        self._errands.pop(task, None)
        self._tell()

    def take(self, report: Report) -> None:
        """Take what a worker reports (on the thread that owns this object)."""
        ticket = self._tickets.get(report.task, -1)
        if ticket not in (-1, report.ticket):
            return
        if report.kind == "progress":
            self.busy[report.task] = (report.share, report.words or WORDS[report.task])
            for listener in self._busy_listeners:
                listener()
            return
        self.busy.pop(report.task, None)
        if report.task in ERRANDS:
            then = self._errands.pop(report.task, None)
            if report.kind == "failed":
                self.trouble = report.words
            if then is not None:  # otherwise it was stopped, or another document is open
                then(report)
                # Whatever it changed in the project tells itself; only trouble and the end of the work are news.
                for listener in self._listeners if report.kind == "failed" else self._busy_listeners:
                    listener()
            return
        if report.kind == "done":
            setattr(self, report.task, report.result)
            self.trouble = ""
            if report.task == "quick" and not self.dragging:
                self.refresh_light()
        elif report.kind == "failed":
            self.trouble = report.words
            self._asked.pop(report.task, None)
        if report.task in ("quick", "plan", "light"):
            self._judge()
        self._tell()

    def fresh(self, task: str) -> bool:
        """Whether a result belongs to the present snapshot."""
        return task not in self.busy and getattr(self, task) is not None

    @property
    def settled(self) -> bool:
        """Whether all that is judged and printed belongs to the present snapshot, and nothing of it is under way."""
        known = self.quick is not None and self._asked.get("plan") == self._plan_depends(self.document.project)
        return known and not self.dragging and not {"quick", "plan", "light"} & self.busy.keys()

    def _judge(self) -> None:
        if self.quick is not None:
            trips: list[Exception] = []
            project = self.document.project
            self.prompts, self.left = judge(project, Derived(self.quick, self.plan, self.light), trips)
            # Until fresher results are here, some of these may speak of what is gone.
            if trips and self.settled:
                self.trouble = "".join(traceback.format_exception(trips[0]))

    def _tell(self) -> None:
        for listener in self._listeners:
            listener()
