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
from fondale.core.edits import apply, put
from fondale.core.light.desk import LightDesk, strengths
from fondale.core.light.emitters import emitter_of
from fondale.core.light.picture import compose, develop, look, picture_basis
from fondale.core.light.solver import prepare, solve
from fondale.core.order.plan import make_plan
from fondale.core.prompts import all_prompts
from fondale.core.stage.scene import build_scene
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


def light() -> None:
    """Solving, solving again, pictures: against the first solve of the demo."""
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
            develop(compose(picture_basis(lit, emitters, look(lit.scene, eye, width)), power), 0.1)

        row(f"light: eye picture, {width} wide", best(picture, 2), "first solve", base)
    basis = picture_basis(lit, emitters, look(lit.scene, eye, 480))
    row("light: picture again, a level changed", best(lambda: develop(compose(basis, power * 0.5), 0.1)), "first solve", base)


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


def stalls() -> None:
    """The longest gap between turns of the window's loop while everything is computed after edits."""
    import tempfile
    from pathlib import Path

    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    from fondale.app.document import Document
    from fondale.app.settings import Settings
    from fondale.app.workers import ProcessWorkers
    from fondale.qt.application import make_session, settle
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
    for station in window.stations:
        window.go(station)
        settle(session)
        gaps: list[float] = []
        last = time.perf_counter()

        def tick() -> None:
            nonlocal last
            now = time.perf_counter()
            gaps.append(now - last)
            last = now

        timer = QTimer()
        timer.timeout.connect(tick)
        timer.start(0)
        for k in range(3):
            session.do(put(("pieces", "boy", "place", "x"), 170.0 + k, "Move"), put(("brief", "cap"), 150.0 + k, "Cap"))
            settle(session)
        timer.stop()
        row(f"longest stall while computing, {station}", max(gaps), "50 ms", 0.050)
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
