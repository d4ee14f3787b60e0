# SPDX-License-Identifier: MIT
"""Benchmarks, each as a ratio against a named baseline in the same run. `./dev bench` prints them; nothing is asserted."""

import argparse
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np

from fondale.app.document import Document
from fondale.app.results import Results
from fondale.app.workers import DirectWorkers
from fondale.core.bodies.measures import measures
from fondale.core.bodies.outline import figure_outline
from fondale.core.bodies.poses import lies, poses
from fondale.core.circuit.supply import lamp_currents, solve_all
from fondale.core.derived import QUICK
from fondale.core.edits import apply, new_project, put
from fondale.core.edits.boxes import bring_bits
from fondale.core.emitters import Emitter, emitter_of
from fondale.core.emitters.point import Point
from fondale.core.light.desk import LightDesk, strengths
from fondale.core.light.frames import look
from fondale.core.light.picture import Picture, develop
from fondale.core.light.solver import prepare, solve
from fondale.core.light.views import stage_view
from fondale.core.model import LAMPS, PIECES, PROJECT, Bit, Case, Lamp, Measure, Piece, Place, Project, Seat
from fondale.core.model.shapes import Figure, Opening, Wall
from fondale.core.order.evenings import calendar_of
from fondale.core.order.odds import odds
from fondale.core.order.plan import make_plan
from fondale.core.order.work import work_left
from fondale.core.prompts import all_prompts
from fondale.core.reckoning import Look, Reckoner
from fondale.core.shapes.figures import body_of
from fondale.core.stage.scene import Scene, build_scene
from fondale.core.views import sight
from fondale.core.views.sight import eye_of, hidden_floor, piece_views
from fondale.demo import heron_stairs, sample_assets
from fondale.knowledge import table
from judged_light import judged_light
from large_order import large_order

TODAY = date(2026, 11, 24)
BARE = """
import time, sys
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([]); w = QMainWindow(); w.resize(1280, 800); w.show(); app.processEvents()
"""
# As the command starts it, up to what is told by the last of these lines.
OURS = """
import os, sys, tempfile
from fondale import __main__ as entry
open_window = entry.open_window
def watched(window):
{watch}
    return open_window(window)
if __name__ == "__main__":
    os.environ["FONDALE_HOME"] = tempfile.mkdtemp()
    entry.open_window = watched
    sys.argv = ["fondale", "demo"]
    entry.main()
"""
PAINTED = """
    from fondale.qt.frame.footlights import Footlights
    paint = Footlights.paintEvent
    def last(self, e):  # they stand last in the window, and are painted last
        paint(self, e)
        os._exit(0)
    Footlights.paintEvent = last
"""
LIT = """
    from fondale.app.results import Results
    from fondale.core.derived import LIGHT, PICTURE
    take = Results.take
    def told(self, report):
        take(self, report)
        if self.fresh(LIGHT) and self.fresh(PICTURE):
            os._exit(0)
    Results.take = told
"""


def best(work: Callable[[], Any], times: int = 3) -> float:
    """The shortest of some runs, in seconds."""
    out = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        out.append(time.perf_counter() - start)
    return min(out)


def row(name: str, seconds: float, baseline: str, base: float) -> None:
    print(f"{name:46} {seconds * 1000:9.1f} ms   {seconds / base:7.3f} x {baseline}")


def reference_boxes() -> list[tuple[str, Scene, list[Emitter]]]:
    """A closed box, and one with a wall and a doorway."""
    grey = (0.5, 0.5, 0.5)
    case = Case(kind="closed box", width=420, depth=260, height=250, floor_paint=grey, wall_paint=grey, ceiling_paint=grey)
    plain = new_project("Box", TODAY).model_copy(update={"case": case})
    wall = Wall(length=420, height=250, thickness=8, openings=(Opening(x=180, width=60, height=90),))
    piece = Piece(id="wall", name="Wall", shape=wall, place=Place(x=210, y=180, z=0), role="scenery", paint=grey)
    lamps = [Point((210.0, 225.0, 249.0), (0.0, 0.0, -1.0), 1.0), Point((90.0, 60.0, 249.0), (0.0, 0.0, -1.0), 1.0)]
    return [
        ("closed box", build_scene(plain), lamps),
        ("box with a doorway", build_scene(plain.model_copy(update={"pieces": (piece,)})), lamps),
    ]


def light() -> None:
    """Solving, solving again, pictures: against the first solve of the demo."""
    for name, scene, lamps in reference_boxes():
        base = best(lambda scene=scene, lamps=lamps: solve(prepare(scene, lamps), lamps))
        row(f"light: first solve, {name}", base, "500 ms", 0.5)
    project = heron_stairs(TODAY)
    emitters = [emitter_of(m) for m in project.lamps]

    def first() -> None:
        solve(prepare(build_scene(project.but()), emitters), emitters)  # a copy: the scene of one project is kept

    base = best(first)
    row("light: first solve, demo", base, "first solve", base)
    desk = LightDesk()
    desk.meters(project)
    amps = lamp_currents(solve_all(project))
    row("light: meters again, a level changed", best(lambda: desk.meters(apply(project, put(LAMPS.at("sign").then(lambda m: m.level), 0.4, "")), amps=amps)), "first solve", base)  # fmt: skip
    moved = iter(range(100, 160))

    def move(*then: Callable[[Project], object]) -> float:
        """The shortest of some steps of a figure under the hand, the last of what is asked ``then``."""
        out = []
        for _ in range(5):
            step = apply(project, put(PIECES.at("boy").then(lambda p: p.place).narrowed(Place).then(lambda p: p.x), float(next(moved)), ""))
            for ask in then[:-1]:
                ask(step)
            out.append(best(lambda step=step: then[-1](step), 1))
        return min(out)

    def shown(step: Project) -> None:
        develop(desk.luminance(step, step.seats[0].id, 640, amps=amps), 0.1)

    row("light: figure moved, solve again", move(desk.lit), "first solve", base)
    row("light: figure moved, meters then", move(desk.lit, lambda step: desk.meters(step, amps=amps, plain=False)), "first solve", base)
    row("light: figure moved, all areas then", move(desk.lit, lambda step: desk.meters(step, amps=amps)), "first solve", base)
    row("light: figure moved, 640 wide picture then", move(desk.lit, shown), "first solve", base)
    lit = prepare(build_scene(project), emitters)
    solve(lit, emitters)
    power = strengths(project)
    eye = eye_of(project, project.seats[0])
    for width in (480, 960):

        def picture(width: int = width) -> None:
            develop(Picture(lit, look(lit.scene, eye, width)).luminance(emitters, power), 0.1)

        row(f"light: eye picture, {width} wide", best(picture, 2), "first solve", base)
    kept = Picture(lit, look(lit.scene, eye, 480))
    kept.luminance(emitters, power)
    row("light: picture again, a level changed", best(lambda: develop(kept.luminance(emitters, power * 0.5), 0.1)), "first solve", base)
    places = iter(range(200, 240))

    def move_lamp() -> None:
        lamp = project.lamps[0].model_copy(update={"x": float(next(places))})
        develop(kept.luminance([emitter_of(lamp), *emitters[1:]], power), 0.1)

    row("light: picture again, a lamp moved", best(move_lamp), "first solve", base)


_WORN: tuple[tuple[str, ...], ...] = (
    (),
    ("coat", "cap"),
    ("skirt",),
    ("apron",),
    ("long coat", "hat"),
    ("shorts", "cap"),
    ("pack",),
    ("boots",),
)


def crowd(count: int) -> Project:
    """So many people in all poses that stand or sit, dressed, ten in a row, under two lamps."""
    keys, people = [k for k in poses() if not lies(k)], list(table("body")["people"])
    pieces = []
    for k in range(count):
        pose, person = keys[k % len(keys)], people[k % len(people)]
        place = Place(x=30.0 + k % 10 * 42, y=40.0 + k // 10 * 50, z=0, turn_deg=k * 17 % 360)
        shape = Figure(person=person, pose=pose, extras=_WORN[k % len(_WORN)])
        pieces.append(
            Piece(id=f"p{k}", name=f"P{k}", shape=shape, measure=Measure(mm=round(54 * measures(pose, person).crown, 1)), place=place)
        )
    lamps = tuple(Lamp(id=f"l{x}", name="L", x=x, y=60, z=140) for x in (150, 300))
    case, seat = Case(width=440, depth=240, height=150), Seat(id="v", name="V", distance=700)
    return new_project("Crowd", TODAY).but(pieces=tuple(pieces), case=case, seats=(seat,), lamps=lamps)


def figures() -> None:
    """Bodies, outlines, and what forty of them cost the seat's view and the first light, against ten."""
    forty = crowd(40)
    shapes = [p.shape for p in forty.pieces]

    def median(work: Callable[[Any], Any]) -> float:
        return float(np.median([best(lambda s=s: work(s), 1) for s in shapes]))

    body_of(shapes[0])
    row("figures: a body, median of forty", median(body_of), "150 ms", 0.15)
    row(
        "figures: an outline, median of forty",
        median(lambda s: figure_outline(s.pose, s.person, s.extras, s.heroic, s.build)),
        "5 ms",
        0.005,
    )
    base = 0.0
    for project in (crowd(10), forty):
        moved = iter(range(1, 20))

        def view(project: Project = project, moved: Any = moved) -> None:
            stage_view(
                apply(project, put(PIECES.at("p0").then(lambda p: p.place).narrowed(Place).then(lambda p: p.x), 30.0 + next(moved), "")),
                "v",
                480,
            )

        def lit(project: Project = project) -> None:
            desk = LightDesk()
            desk.meters(project)
            desk.luminance(project, "v", 480)

        view()
        row(f"figures: seat's view, one of {len(project.pieces)} moved", best(view, 4), "300 ms", 0.3)
        time_of_light = best(lit)
        base = base or time_of_light
        row(f"figures: first light, {len(project.pieces)}", time_of_light, "that of ten", base)


def stage() -> None:
    """Dragging in a scene of sixty pieces and 200,000 triangles: the drawings, what three seats of nine eyes see, the hidden floor by 5 mm."""
    project = crowd(60)
    seats = tuple(Seat(id=f"s{k}", name=f"Seat {k}", distance=600, offset=200.0 * (k - 1), range=200.0, rise=150.0) for k in range(3))
    project = project.but(seats=seats, brief=project.brief.but(shelf_height_mm=1300.0))
    scene, kept = build_scene(project), sight.EYE_STEPS
    sight.EYE_STEPS = 3  # three across and three up: nine
    print(f"stage: {len(project.pieces)} pieces, {len(scene.all_tris)} triangles")
    at = PIECES.at("p0").then(lambda p: p.place).narrowed(Place).then(lambda p: p.x)
    moved = iter(range(1, 60))

    def next_scene() -> tuple[Project, Scene]:
        dragged = apply(project, put(at, 30.0 + next(moved) * 0.5, ""))
        return dragged, build_scene(dragged)

    def seen() -> None:
        dragged, now = next_scene()
        piece_views(dragged, now, dragged.seats)

    def hidden() -> None:
        dragged, now = next_scene()
        hidden_floor(dragged, now, dragged.seats[0])

    seen()
    row("stage: what three seats see, one piece moved", best(seen, 4), "150 ms", 0.15)
    sight.EYE_STEPS, coarse, sight.GRID_MM = kept, sight.GRID_MM, 5.0
    row("stage: hidden floor by 5 mm, one piece moved", best(hidden, 4), "300 ms", 0.3)
    sight.GRID_MM = coarse
    document = Document(project)
    from PySide6.QtWidgets import QApplication

    from fondale.app.settings import Settings
    from fondale.instruments import simulated
    from fondale.qt.application import make_window

    app, folder = QApplication.instance() or QApplication([]), tempfile.TemporaryDirectory()
    window = make_window(document, Settings(Path(folder.name)), TODAY, simulated(), Path(folder.name) / "state", DirectWorkers)
    window.resize(1280, 800)
    window.show()
    window.session.results.refresh()
    window.go("stage")
    page = window.stations["stage"].page
    frames = iter(range(1, 200))

    def frame() -> None:
        window.session.document.do(put(at, 30.0 + next(frames) * 0.25, "", "drag"))
        page.plan.grab()
        page.section.grab()

    held = {"reckon": lambda _self, _names, *_rest: 7, "stop": lambda _self, _name: None, "close": lambda _self: None}
    window.session.results.connect(type("Held", (), held)())  # the drawings alone: what is reckoned comes from other processes
    window.session.results.dragging = True
    frame()
    row("stage: a frame of plan and section in a drag", best(frame, 8), "1/30 s", 1 / 30)
    window.session.document.mark_unsaved()
    folder.cleanup()
    del app


def edits() -> None:
    """From an edit to refreshed prompts: against one build of the scene."""
    project = heron_stairs(TODAY)
    reckoner, look_at = Reckoner(), Look(TODAY)
    reckoner.derive(project, look_at, QUICK)
    base = best(lambda: build_scene(project.but()).rays)
    places = iter(np.linspace(120, 140, 40))

    def edit() -> None:
        changed = apply(
            project, put(PIECES.at("woman").then(lambda p: p.place).narrowed(Place).then(lambda p: p.x), float(next(places)), "")
        )
        all_prompts(reckoner.derive(changed, look_at, QUICK))

    row("edit to refreshed prompts, demo", best(edit, 8), "build of the scene", base)
    results = Results(Document(project), TODAY)
    results.connect(DirectWorkers(results.take))
    results.refresh()
    names = iter(range(100))

    def rename() -> None:
        results.document.do(put(PROJECT.then(lambda p: p.name), f"Name {next(names)}", "Name"))
        results.refresh()

    row("edit of a name to fresh results and prompts", best(rename, 8), "20 ms", 0.020)
    row("running order, demo", best(lambda: make_plan(project, TODAY), 1), "build of the scene", base)


def orders() -> None:
    """120 steps, two printers, twelve plates: the first order, the best one, how much sooner another could be, and the odds."""
    for setups in (False, True):
        words = "with set-ups" if setups else "without set-ups"
        for seed in (1, 2, 3):
            project = large_order(TODAY, seed, setups)
            row(f"first order of 120 steps {words}, {seed}", best(lambda p=project: make_plan(p, TODAY, draft=True)), "1 s", 1.0)
            plans = []
            row(f"best order of 120 steps {words}, {seed}", best(lambda p=project, o=plans: o.append(make_plan(p, TODAY)), 1), "10 s", 10.0)
            print(f"    {plans[0].proof}")
    calendar = calendar_of(project.brief, TODAY)
    work = work_left(project, 1.0, calendar)
    row("odds of 120 steps, 2,000 runs", best(lambda: odds(work, range(len(work.tasks)), calendar, 10**6)), "1 s", 1.0)


def start_up() -> None:
    """Start to the first painted window, and to its first lit view: against a bare Qt window."""
    compiled = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}  # as for a maker: kept from the first start on

    def started(code: str) -> float:
        return best(lambda: subprocess.run([sys.executable, "-c", code], check=True, env=compiled), 4)

    base = started(BARE)
    row("start: a bare Qt window", base, "bare window", base)
    row("start: Fondale on the demo", started(OURS.format(watch=PAINTED)), "bare window", base)
    row("start: its first lit view", started(OURS.format(watch=LIT)), "bare window", base)


class Watch:
    """The longest time between two ticks."""

    def __init__(self) -> None:
        self.longest, self._last = 0.0, time.perf_counter()

    def tick(self) -> None:
        now = time.perf_counter()
        self.longest, self._last = max(self.longest, now - self._last), now


def many_bits() -> tuple[Bit, ...]:
    """5,000 bits of all outlines."""
    rng = np.random.default_rng(1)
    outlines = ("cylinder", "rod", "dome", "box", "plate")
    return tuple(
        Bit(id=f"b{k}", name=f"Bit {k}", outline=outlines[k % 5], sizes=tuple(rng.uniform(1, 60, 3).tolist()), drawer=f"B{k % 90}")
        for k in range(5000)
    )


def stalls() -> None:
    """The longest gap between turns of the window's loop while everything is computed after edits."""
    import tempfile
    from pathlib import Path

    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    from fondale.app.document import Document
    from fondale.app.settings import Settings
    from fondale.instruments import simulated
    from fondale.qt.application import make_window, settle
    from fondale.qt.frame.collector import Collector
    from fondale.qt.furniture.pages import PagedStation

    app = QApplication.instance() or QApplication([])
    tmp = Path(tempfile.mkdtemp())
    project = heron_stairs(TODAY)
    window = make_window(Document(project, assets=sample_assets(project.name)), Settings(tmp), TODAY, simulated(), tmp / "state")
    session = window.session
    watch, timer = Watch(), QTimer()
    window.show()
    app.processEvents()
    Collector(window)
    watch.tick()
    watch.longest = 0.0
    timer.timeout.connect(watch.tick)
    timer.start(0)
    session.results.refresh()
    window.growth.start()
    settle(session)
    timer.stop()
    row("longest stall while the rest is made", watch.longest, "50 ms", 0.050)
    places = [(s, t) for s, station in window.stations.items() for t in (station.pages if isinstance(station, PagedStation) else ("",))]

    def turn(name: str, title: str) -> None:
        window.go(name)
        if title:
            window.stations[name].turn_to(title)
        settle(session)

    for place in places:
        turn(*place)
    odd = iter(range(1000))

    def move_and_pay() -> None:
        k = next(odd)
        assert session.do(
            put(PIECES.at("boy").then(lambda p: p.place).narrowed(Place).then(lambda p: p.x), 170.0 + k / 100, "Move"),
            put(PROJECT.then(lambda p: p.brief.cap), 150.0 + k, "Cap"),
        )

    def longest(name: str, *works: Callable[[], Any]) -> None:
        watch = Watch()
        timer = QTimer()
        timer.timeout.connect(watch.tick)
        timer.start(0)
        for work in works:
            work()
            settle(session)
            app.processEvents()
        timer.stop()
        row(f"longest stall while computing, {name}", watch.longest, "50 ms", 0.050)

    for station, title in places:
        turn(station, title)
        longest(title or station, move_and_pay)  # once: each waits for the running order and the refined light
    turn("bench", "Bits box")
    page = window.stations["bench"].page
    more = many_bits()
    longest("5,000 bits come into the box", lambda: session.do(bring_bits(session.project, more)))
    asked = "drum, 300 mm across, 420 long"
    longest("a need is typed, 5,000 bits", *(lambda k=k: page.line.setText(asked[:k]) for k in range(1, len(asked) + 1)))
    longest("a bit is used and comes back, 5,000 bits", page.use.click, window.undo)
    window.shut()


def dense_stl(path: Path, parts: int = 8) -> int:
    """A bumpy ball of about 1.3 million triangles as binary STL; returns the number."""
    import trimesh

    ball = trimesh.creation.icosphere(subdivisions=parts, radius=30.0)
    ball.vertices *= 1 + 0.03 * np.sin(9 * ball.vertices / 30.0).prod(axis=1)[:, None]
    ball.export(path)
    return len(ball.faces)


def meshes() -> None:
    """A dense body: load, scale and measure against the load of [trimesh] alone; memory against the arrays; cutting; the bits box."""
    import tempfile
    import tracemalloc

    import trimesh

    from fondale.core.bits.search import pack, rank
    from fondale.core.model import Need
    from fondale.core.photo.wall import Wall
    from fondale.core.prints.body import Body, measure, scaled
    from fondale.core.prints.cutting import KeyRule, cut
    from fondale.storage.meshes import read_mesh

    path = Path(tempfile.mkdtemp()) / "ball.stl"
    count = dense_stl(path)

    def ours() -> Body:
        body = scaled(read_mesh(path).body, (0.812,) * 3)
        measure(body)
        return body

    row(f"load, scale and measure {count} triangles", best(ours), "trimesh.load alone", best(lambda: trimesh.load(path)))
    tracemalloc.start()
    body = ours()
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    loaded = trimesh.load(path)
    arrays = loaded.vertices.nbytes + loaded.faces.nbytes
    print(
        f"{'peak memory of the same':52} {peak / 1e6:9.1f} MB  {peak / arrays:7.2f} of trimesh's arrays, {peak / body.nbytes:.2f} of our own"
    )
    smaller = trimesh.creation.icosphere(subdivisions=7, radius=30.0)
    block = Body(np.asarray(smaller.vertices), np.asarray(smaller.faces, np.int64))
    start = time.perf_counter()
    made = cut(block, (("x", 30.0), ("z", 30.0)), KeyRule(1.0, 0.1))
    seconds = time.perf_counter() - start
    row(f"cut {len(block.faces)} triangles into {len(made.bodies)} keyed parts", seconds, "10 s", 10.0)
    print(f"{'  volume missed, and all parts watertight':52} {made.error * 100:9.5f} %   {all(measure(b).watertight for b in made.bodies)}")
    rng = np.random.default_rng(5)
    box = pack(many_bits())
    need = Need(id="n", name="drum", outline="cylinder", real=(300, 420))
    row("rank 5,000 bits for a need", best(lambda: rank(box, need, 35.0, 48), 9), "16 ms, one frame", 0.016)
    off = []
    for _ in range(200):
        h = np.array([[1.6, 0.2, 300], [0.1, 1.5, 200], [2e-4 * rng.uniform(0.3, 1), 1e-4, 1]])

        def see(points: np.ndarray, h: np.ndarray = h) -> np.ndarray:
            q = np.column_stack([points, np.ones(len(points))]) @ h.T
            return q[:, :2] / q[:, 2:]

        seen = see(np.array([[0.0, 0], [950, 0], [950, 2030], [0, 2030], [100, 300], [800, 1700]])) + rng.normal(0, 0.5, (6, 2))
        length, _sigma = Wall(seen[:4], 950, 2030).length(tuple(seen[4]), tuple(seen[5]))
        off.append(abs(length / np.hypot(700, 1400) - 1))
    print(f"{'length on a wall, 0.5 px noise: mean and worst error':52} {np.mean(off) * 100:9.3f} %   {max(off) * 100:.3f} %")


def bringing() -> None:
    """Stalls of the window while a dense body is read, brought and shown on the Bench."""
    import tempfile

    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    from fondale.app.document import Document
    from fondale.app.settings import Settings
    from fondale.instruments import simulated
    from fondale.qt.application import make_window, settle
    from fondale.qt.frame.collector import Collector
    from fondale.qt.stations.bench.print_page import PrintPage

    _app = QApplication.instance() or QApplication([])
    tmp = Path(tempfile.mkdtemp())
    dense_stl(tmp / "ball.stl")
    window = make_window(Document(heron_stairs(TODAY)), Settings(tmp), TODAY, simulated(), tmp / "state")
    session = window.session
    window.show()
    session.results.refresh()
    window.go("bench")
    bench = window.stations["bench"]
    page = bench.page_of(PrintPage)
    page.files.ask_unit = lambda first, count: "mm"
    bench.turn_to(page.title)
    settle(session)
    page.files.bring((str(tmp / "ball.stl"),))
    settle(session)
    Collector(window)
    watch = Watch()
    timer = QTimer()
    timer.timeout.connect(watch.tick)
    timer.start(0)
    page.files.bring((str(tmp / "ball.stl"),))
    settle(session)
    row("longest stall while a dense body is brought", watch.longest, "50 ms", 0.050)
    watch.longest = 0.0
    window.projects.save_to(tmp / "large.fondale")
    settle(session)
    row("longest stall while it is saved", watch.longest, "50 ms", 0.050)
    timer.stop()
    window.shut()


def main() -> None:
    """Run all, or those named."""
    parts = {
        "light": light,
        "judged": judged_light,
        "figures": figures,
        "stage": stage,
        "edits": edits,
        "orders": orders,
        "start": start_up,
        "stalls": stalls,
        "meshes": meshes,
        "bringing": bringing,
    }
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("parts", nargs="*", choices=[*parts, []], help="which ones; all if none")
    for name in parser.parse_args().parts or parts:
        parts[name]()


if __name__ == "__main__":
    main()
