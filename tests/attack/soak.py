# SPDX-License-Identifier: MIT
"""A window that is used for an hour: stations, pages, keys in fields, edits, undo, saves; memory, handles and the longest turn are sampled."""

import contextlib
import os
import random
import tempfile
import time
from collections.abc import Callable
from datetime import date
from pathlib import Path

LONG_S = 0.03  # of turns above this it is asked whether the host had a part in them


def soak(quick: bool) -> tuple[str, str, bool]:
    """Actions one after the other, first visits of all pages among them; memory after the first five minutes against the end, both with the
    sample as it was opened, at rest: what was edited meanwhile is of no account; and the longest turn of processor time. In small the minutes before the measuring are as many as it takes to have been everywhere.
    """
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    import numpy as np
    from PySide6.QtCore import QCoreApplication, QEvent, Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication
    from shiboken6 import isValid

    from fondale.app.document import Document
    from fondale.app.settings import Settings
    from fondale.app.workers import ProcessWorkers
    from fondale.core.edits import apply
    from fondale.core.troubles import Trouble
    from fondale.demo import SAMPLES, sample_assets
    from fondale.instruments import simulated
    from fondale.qt.application import make_window
    from fondale.qt.frame.collector import Collector
    from fondale.qt.frame.footlights import STATIONS
    from fondale.qt.furniture.fields import Field
    from fondale.qt.furniture.pages import PagedStation
    from tests.attack.edits import a_put

    app = QApplication.instance() or QApplication([])
    name = next(iter(SAMPLES))
    rng, numbers = random.Random(1), np.random.default_rng(1)
    minutes, warm = (5.0, 2.5) if quick else (60.0, 5.0)
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        start = SAMPLES[name](date(2026, 11, 24))
        main = make_window(
            Document(start, assets=sample_assets(name)), Settings(home), date(2026, 11, 24), simulated(), home / "state", ProcessWorkers
        )
        main.show()
        main.session.results.refresh()
        main.growth.start()
        Collector(main)
        # The longest of each sort, and when: half a million of them would count as the window’s memory.
        turns: dict[str, tuple[float, float]] = {}
        born = time.monotonic()

        def timed(what: str, do: Callable[[], object]) -> None:
            taken, before = stolen_s(), time.thread_time()
            do()
            gone = time.thread_time() - before
            own = gone - (stolen_s() - taken if gone > LONG_S else 0.0)
            turns[what] = max(turns.get(what, (0.0, 0.0)), (own, time.monotonic() - born))

        def loop() -> None:
            app.processEvents()
            QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)  # as the window's own loop does

        def turn(what: str, do: Callable[[], object] | None = None) -> None:
            """What is done is one turn, what comes of it (timers, layout, painting) the next: between them input is heard."""
            if do is not None:
                timed(what, do)
            timed(f"after {what}", loop)

        def rest(seconds: float) -> None:
            until = time.monotonic() + seconds
            while time.monotonic() < until:
                turn("wait")
                time.sleep(0.005)

        def an_edit() -> Callable[[], object] | None:
            put = a_put(numbers, main.session.project)
            with contextlib.suppress(Trouble):
                apply(main.session.project, put)
                return lambda: main.session.do(put)
            return None

        def way(what: str, do: Callable[[], object]) -> None:
            """What is asked for, and all turns that it takes."""
            turn(what, do)
            while main.session.turns.busy:
                turn(what)

        def visit(station: str) -> None:
            way(f"go {station}", lambda: main.visit(station))

        def turn_to(station: str, page: str) -> None:
            way(f"page {page}", lambda: main.stations[station].visit(page))

        def keys() -> Callable[[], object] | None:
            """Something typed into a field on show, key by key; now and then it is not left."""
            fields = [f for f in main.stations[main.station].findChildren(Field) if f.edit.isVisible() and f.edit.isEnabled()]
            if not fields:
                return None
            field = rng.choice(fields)
            field.edit.setFocus()
            field.edit.selectAll()
            for letter in rng.choice(("12", "35 mm", "Pale oak", "1:32", "x", "")):
                turn("key", lambda c=letter: QTest.keyClick(field.edit, c) if isValid(field) else None)
            return lambda: (
                QTest.keyClick(field.edit, rng.choice((Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape))) if isValid(field) else None
            )

        kinds = {"edit": an_edit, "keys": keys, "undo": lambda: main.undo, "redo": lambda: main.redo, "lights": lambda: main.switch_lights}
        while main.session.results.answers == 0:  # it is settled once the first answer is there
            loop()
            time.sleep(0.01)
        for station in STATIONS:
            visit(station)
            place = main.stations[station]
            for page in place.pages if isinstance(place, PagedStation) else ():
                turn_to(station, page)
                rest(0.3)

        def reopen() -> None:
            main.session.open(Document(start, assets=sample_assets(name)))

        def memory_at_rest() -> int:
            turn("open", reopen)
            visit(next(iter(STATIONS)))
            while not main.session.results.settled:
                rest(0.1)
            rest(5.0)
            with open("/proc/self/statm") as file:
                return int(file.read().split()[1]) * os.sysconf("SC_PAGE_SIZE")

        begun, kept, handles, actions = time.monotonic(), 0, 0, 0
        while (gone := time.monotonic() - begun) < minutes * 60:
            station = rng.choice(list(STATIONS))
            visit(station)
            place = main.stations[station]
            if isinstance(place, PagedStation):
                turn_to(station, rng.choice(list(place.pages)))
            for kind in rng.choices(list(kinds), (6, 4, 4, 1, 0.2), k=3):
                rest(0.05)  # nobody's fingers are faster
                if (do := kinds[kind]()) is not None:
                    turn(kind, do)
            if rng.random() < 0.05:
                main.projects.save_to(home / "a.fondale")  # it waits for the disk in a loop of its own
            if rng.random() < 0.02:
                turn("open", reopen)
            actions += 5
            rest(rng.uniform(0.02, 0.3))
            if gone > warm * 60 and not kept:
                kept, handles = memory_at_rest(), len(os.listdir("/proc/self/fd"))
        grown, more = memory_at_rest() / kept - 1, len(os.listdir("/proc/self/fd")) - handles
        main.shut()
    longest = sorted(((t, when, what) for what, (t, when) in turns.items()), reverse=True)
    worst = ", ".join(f"{t * 1000:.0f} ms {what} (minute {when / 60:.0f})" for t, when, what in longest[:6])
    said = f"memory {grown:+.1%} after the first {warm:g} min, handles {more:+d}, longest turns {worst}"
    return f"{minutes:g} min soak, {actions} actions", said, grown < 0.05 and more < 20 and longest[0][0] < 0.05


def stolen_s() -> float:
    """Seconds of all processors that the host of a virtual machine has taken: the clock of a thread runs on while its processor is away."""
    with open("/proc/stat") as file:
        return int(file.readline().split()[8]) / float(os.sysconf("SC_CLK_TCK"))
