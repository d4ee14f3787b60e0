# SPDX-License-Identifier: MIT
"""Windows that are killed at any moment, while they are typed into and saved; and two programs on one file."""

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from fondale.core.model import Project
from fondale.demo import SAMPLES
from fondale.storage import load, save
from fondale.storage.files import FileTrouble, backups, load_all
from fondale.storage.recovery import left_behind

TODAY = date(2026, 11, 24)
SIDE_BY_SIDE = 2
MOST_LOST_S = 1.5

# A window with real workers: keys pressed in a field that is never left, every PACE seconds; a save by its key now and then, and a photograph
# that no file has yet; what was done is told on a pipe, with the time.
WINDOW = """
import os, sys, time, traceback
from datetime import date
from pathlib import Path
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from fondale.app.apart import opened_apart
from fondale.app.settings import Settings
from fondale.app.workers import DirectWorkers, ProcessWorkers
from fondale.core.edits.boxes import add_photo
from fondale.instruments import simulated
from fondale.qt.application import make_window
from fondale.qt.frame.ending import Ending
from fondale.qt.furniture.fields import Field

class NoWorkers(DirectWorkers):
    def fulfil(self, request):
        self._ticket = request.ticket
        return request.ticket

def main():
    home, path, pace, save_each, real = Path(sys.argv[1]), Path(sys.argv[2]), float(sys.argv[3]), int(sys.argv[4]), sys.argv[5] == "1"
    app = QApplication([])
    main = make_window(opened_apart(path), Settings(home), date(2026, 11, 24), simulated(), home / "state", ProcessWorkers if real else NoWorkers)
    main.show()
    QTest.qWaitForWindowExposed(main)
    main.activateWindow()
    field = next(f for f in main.stations["brief"].findChildren(Field) if f.caption == "occasion")
    count = [int(main.session.project.brief.occasion or 0)]
    def edit():
        count[0] += 1
        if count[0] % 8 == 0:
            document, data = main.session.document, os.urandom(2_000_000)
            asset = document.keep_asset("photos", f"{count[0]}.png", data)
            main.session.do(add_photo(main.session.project, "Photo", asset, 40, 30)[0])
        field.edit.setFocus()
        field.edit.selectAll()
        QTest.keyClicks(field.edit, str(count[0]))
        print(f"{count[0]} {time.time()}", flush=True)
        if save_each and count[0] % save_each == 0:
            QTest.keyClick(field.edit, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    timer = QTimer()
    timer.timeout.connect(edit)
    timer.start(int(pace * 1000))
    with Ending(main.projects, lambda: app.exit(0)):
        app.exec()
    main.shut()

def broken(*error):
    traceback.print_exception(*error, file=sys.stdout)
    os._exit(3)

if __name__ == "__main__":
    sys.excepthook = broken
    main()
"""


@dataclass(frozen=True)
class Killed:
    """What one kill left: whether the file can be read, how many backups cannot, the seconds of work that are gone, and how many photographs are."""

    readable: bool
    broken: int
    lost_s: float
    missing: int


def _number(project: Project) -> int:
    return int(project.brief.occasion or 0)


def _named(project: Project) -> set[str]:
    return {p.asset for p in project.photos} | {p.asset for p in project.prints}


def _kill_one(folder: Path, pace: float, save_each: int, real: bool, after_s: float) -> Killed:
    """Start a window, kill it after so many seconds, and look at what is left."""
    path = folder / "a.fondale"
    if not path.exists():
        start = list(SAMPLES.values())[2](TODAY)
        save(start.but(brief=start.brief.but(occasion="0")), path)
    script = folder / "window.py"
    script.write_text(WINDOW)
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    args = [sys.executable, str(script), str(folder / "home"), str(path), str(pace), str(save_each), "1" if real else "0"]
    with subprocess.Popen(args, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=env) as window:
        first = window.stdout.readline() if window.stdout else ""
        time.sleep(after_s)
        window.send_signal(signal.SIGKILL)
        at = time.time()
        told = [first, *(window.stdout.readlines() if window.stdout else [])]
    if window.returncode != -signal.SIGKILL:
        raise AssertionError("".join(told))
    typed = [(int(n), float(t)) for n, t in (line.split() for line in told if line[:1].isdigit() and len(line.split()) == 2)]
    readable, broken, kept, missing = True, 0, -1, 0
    try:
        there = load_all(path)
        kept, missing = _number(there.project), len(_named(there.project) - set(there.assets))
    except FileTrouble:
        readable = False
    for backup in backups(path):
        try:
            load(backup)
        except FileTrouble:
            broken += 1
    for left in left_behind(folder / "home" / "state"):
        found = left.recovery.found()
        if found is not None:
            kept = max(kept, _number(found[0]))
            missing += len(_named(found[0]) - set(left.recovery.read(path).assets))
        left.recovery.drop()
        left.recovery.end()
    lost = [at - t for n, t in typed if n > kept]
    if path.stat().st_size > 60_000_000:
        path.unlink()  # a new one is begun: disks are not endless
    return Killed(readable, broken, max(lost, default=0.0), missing)


def kill_all(quick: bool) -> tuple[str, str, bool]:
    """Windows killed at random moments: keys at 0.1, 0.7 and 2.6 s, with saves between and without."""
    rng, count = random.Random(1), 12 if quick else 1000
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(SIDE_BY_SIDE) as hands:

        def some(hand: int, moments: list[float]) -> list[Killed]:
            out, mine = [], Path(folder) / str(hand)
            mine.mkdir()
            for k, moment in enumerate(moments, start=hand * len(moments)):
                pace, save_each = (0.1, 0.7, 2.6)[k % 3], (0, 3)[(k // 3) % 2]
                real = k % (4 if quick else 50) == 0
                out.append(_kill_one(mine, pace, save_each, real, moment * (4.0 if pace < 1 else 6.0)))
            return out

        each = count // SIDE_BY_SIDE
        moments = [[rng.random() for _ in range(each)] for _ in range(SIDE_BY_SIDE)]
        found = [one for each_hand in hands.map(some, range(SIDE_BY_SIDE), moments) for one in each_hand]
    unreadable, broken, missing = sum(not k.readable for k in found), sum(k.broken for k in found), sum(k.missing for k in found)
    worst = max(k.lost_s for k in found)
    said = f"{unreadable} unreadable projects, {broken} broken backups, {missing} photographs missing, at most {worst:.2f} s of work lost"
    return f"{len(found)} windows killed", said, not unreadable and not broken and not missing and worst <= MOST_LOST_S


SAVER = """
import sys
from pathlib import Path
from fondale.app.document import Document
from fondale.core.edits import put
from fondale.core.model import PROJECT
from fondale.storage import FileChanged
path, me, count = Path(sys.argv[1]), float(sys.argv[2]), int(sys.argv[3])
done = refused = 0
for k in range(count):
    document = Document.opened(path)
    document.do(put(PROJECT.then(lambda p: p.brief.cap), document.project.brief.cap + 1, "Add"))
    try:
        document.save()
        done += 1
    except FileChanged:
        refused += 1
print(done, refused)
"""


def two_programs(quick: bool) -> tuple[str, str, bool]:
    """Two programs that each count one file up: no count is lost, as whoever comes second is told."""
    count = 20 if quick else 200
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.fondale"
        start = list(SAMPLES.values())[2](TODAY)
        save(start, path)
        both = [
            subprocess.Popen([sys.executable, "-c", SAVER, str(path), str(me), str(count)], stdout=subprocess.PIPE, text=True)
            for me in (1, 2)
        ]
        told = [p.communicate()[0].split() for p in both]
        done, refused = sum(int(t[0]) for t in told), sum(int(t[1]) for t in told)
        got = load(path).brief.cap - start.brief.cap
        left = [p.name for p in Path(folder).iterdir() if p.name.endswith(".writing")]
    said = f"{done} saves done, {refused} told that the file had changed, {got:.0f} in the file, {len(left)} half-written files left"
    return f"two programs, {2 * count} saves of one file", said, got == done and not left
