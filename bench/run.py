"""Benchmarks, each as a ratio against a named baseline in the same run. `./dev bench` prints them; nothing is asserted."""

import argparse
import subprocess
import sys
import time
from collections.abc import Callable
from datetime import date
from typing import Any

import numpy as np

from fondale.core.derive import Derived, quick
from fondale.core.edits import apply, new_project, put
from fondale.core.light.desk import LightDesk, strengths
from fondale.core.light.emitters import Emitter, emitter_of
from fondale.core.light.picture import Picture, develop, look
from fondale.core.light.solver import prepare, solve
from fondale.core.model import Case, Piece, Place
from fondale.core.model.shapes import Opening, Wall
from fondale.core.order.plan import make_plan
from fondale.core.prompts import all_prompts
from fondale.core.stage.scene import Scene, build_scene
from fondale.core.views.sight import eye_of
from fondale.demo import heron_stairs

TODAY = date(2026, 11, 24)
BARE = """
import time, sys
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([]); w = QMainWindow(); w.resize(1280, 800); w.show(); app.processEvents()
"""
OURS = """
import tempfile, pathlib
from datetime import date
from PySide6.QtWidgets import QApplication
from fondale.app.document import Document
from fondale.app.settings import Settings
from fondale.demo import heron_stairs
from fondale.qt.application import make_session
from fondale.qt.frame.main_window import MainWindow
from fondale.qt.frame.projects import Projects
from fondale.qt.theme.palette import dress, load_fonts
from fondale.storage import Recovery
app = QApplication([]); load_fonts()
tmp = pathlib.Path(tempfile.mkdtemp())
s = make_session(Document(heron_stairs(date(2026, 11, 24))), Settings(tmp), date(2026, 11, 24))
dress(app, s.theme)
w = MainWindow(s, Projects(s, Recovery(tmp))); w.resize(1280, 800); w.show(); app.processEvents()
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
    lamps = [Emitter((210.0, 225.0, 249.0), (0.0, 0.0, -1.0), 1.0), Emitter((90.0, 60.0, 249.0), (0.0, 0.0, -1.0), 1.0)]
    return [
        ("closed box", build_scene(plain), lamps),
        ("box with a doorway", build_scene(plain.model_copy(update={"pieces": (piece,)})), lamps),
    ]


def light() -> None:
    """Solving, solving again, pictures: against the first solve of the demo."""
    for name, scene, lamps in reference_boxes():
        base = best(lambda scene=scene, lamps=lamps: solve(prepare(scene), lamps))
        row(f"light: first solve, {name}", base, "500 ms", 0.5)
    project = heron_stairs(TODAY)
    emitters = [emitter_of(m) for m in project.lamps]

    def first() -> None:
        solve(prepare(build_scene(project)), emitters)

    base = best(first)
    row("light: first solve, demo", base, "first solve", base)
    desk = LightDesk()
    desk.meters(project)
    amps = quick(project).amps
    row("light: meters again, a level changed", best(lambda: desk.meters(apply(project, put(("lamps", "sign", "level"), 0.4, "")), amps=amps)), "first solve", base)  # fmt: skip
    moved = iter(range(100, 160))

    def move() -> None:
        desk.lit(apply(project, put(("pieces", "boy", "place", "x"), float(next(moved)), "")))

    row("light: solve again, one figure moved", best(move), "first solve", base)
    lit = prepare(build_scene(project))
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


def edits() -> None:
    """From an edit to refreshed prompts: against one build of the scene."""
    project = heron_stairs(TODAY)
    quick(project)
    base = best(lambda: build_scene(project).rays)
    places = iter(np.linspace(120, 140, 40))

    def edit() -> None:
        changed = apply(project, put(("pieces", "woman", "place", "x"), float(next(places)), ""))
        all_prompts(changed, Derived(quick(changed)))

    row("edit to refreshed prompts, demo", best(edit, 8), "build of the scene", base)
    row("running order, demo", best(lambda: make_plan(project, TODAY), 1), "build of the scene", base)


def start_up() -> None:
    """Start to the first painted window: against a bare Qt window."""
    base = best(lambda: subprocess.run([sys.executable, "-c", BARE], check=True), 2)
    row("start: a bare Qt window", base, "bare window", base)
    row("start: Fondale on the demo", best(lambda: subprocess.run([sys.executable, "-c", OURS], check=True), 2), "bare window", base)


class Watch:
    """The longest time between two ticks."""

    def __init__(self) -> None:
        self.longest, self._last = 0.0, time.perf_counter()

    def tick(self) -> None:
        now = time.perf_counter()
        self.longest, self._last = max(self.longest, now - self._last), now


def stalls() -> None:
    """The longest gap between turns of the window's loop while everything is computed after edits."""
    import tempfile
    from pathlib import Path

    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    from fondale.app.document import Document
    from fondale.app.settings import Settings
    from fondale.app.workers import ProcessWorkers
    from fondale.qt.application import calm_collector, make_session, settle
    from fondale.qt.frame.main_window import MainWindow
    from fondale.qt.frame.projects import Projects
    from fondale.qt.theme.palette import dress, load_fonts
    from fondale.storage import Recovery

    app = QApplication.instance() or QApplication([])
    load_fonts()
    tmp = Path(tempfile.mkdtemp())
    session = make_session(Document(heron_stairs(TODAY)), Settings(tmp), TODAY)
    dress(app, session.theme)
    workers = session.connect_workers(lambda tell: ProcessWorkers(tell))
    window = MainWindow(session, Projects(session, Recovery(tmp)))
    window.resize(1280, 800)
    window.show()
    session.results.refresh()
    settle(session)
    for station in window.stations:
        window.go(station)
        settle(session)
    calm_collector()
    for station in window.stations:
        window.go(station)
        settle(session)
        watch = Watch()
        timer = QTimer()
        timer.timeout.connect(watch.tick)
        timer.start(0)
        for k in range(3):
            session.do(put(("pieces", "boy", "place", "x"), 170.0 + k, "Move"), put(("brief", "cap"), 150.0 + k, "Cap"))
            settle(session)
        timer.stop()
        row(f"longest stall while computing, {station}", watch.longest, "50 ms", 0.050)
    workers.close()


def main() -> None:
    """Run all, or those named."""
    parts = {"light": light, "edits": edits, "start": start_up, "stalls": stalls}
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("parts", nargs="*", choices=[*parts, []], help="which ones; all if none")
    for name in parser.parse_args().parts or parts:
        parts[name]()


if __name__ == "__main__":
    main()
