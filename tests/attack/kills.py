"""Windows that are killed at any moment, while they are typed into and saved; and two programs on one file."""

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from pathlib import Path

from fondale.storage import load
from fondale.storage.files import FileTrouble, backups
from fondale.storage.recovery import left_behind

TODAY = date(2026, 11, 24)
SIDE_BY_SIDE = 2

# A window with real workers: an edit every PACE seconds, a save now and then; what was done is told on a pipe, with the time.
WINDOW = """
import os, sys, time
from datetime import date
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from fondale.app.document import Document
from fondale.app.settings import Settings
from fondale.app.workers import DirectWorkers, ProcessWorkers
from fondale.core.edits import put
from fondale.core.model import PROJECT
from fondale.instruments import simulated
from fondale.qt.application import make_window

class NoWorkers(DirectWorkers):
    def fulfil(self, request):
        self._ticket = request.ticket
        return request.ticket

def main():
    home, path, pace, save_each, real = Path(sys.argv[1]), Path(sys.argv[2]), float(sys.argv[3]), int(sys.argv[4]), sys.argv[5] == "1"
    app = QApplication([])
    main = make_window(Document.opened(path), Settings(home), date(2026, 11, 24), simulated(), home / "state", ProcessWorkers if real else NoWorkers)
    main.show()
    count = [int(main.session.project.brief.cap)]
    def edit():
        count[0] += 1
        main.session.do(put(PROJECT.then(lambda p: p.brief.cap), float(count[0]), "Cap"))
        print(f"{count[0]} {time.time()}", flush=True)
        if save_each and count[0] % save_each == 0:
            main.projects.save()
    timer = QTimer()
    timer.timeout.connect(edit)
    timer.start(int(pace * 1000))
    app.exec()

if __name__ == "__main__":
    main()
"""


def _kill_one(folder: Path, pace: float, save_each: int, real: bool, after_s: float) -> tuple[bool, int, float]:
    """Whether the file and its backups can be read, how many backups cannot, and the seconds of edits that were lost."""
    from fondale.demo import SAMPLES
    from fondale.storage import save

    path = folder / "a.fondale"
    if not path.exists():
        save(list(SAMPLES.values())[2](TODAY), path)
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
    edits = [(int(n), float(t)) for n, t in (line.split() for line in told if len(line.split()) == 2)]
    readable, broken = True, 0
    try:
        kept = int(load(path).brief.cap)
    except FileTrouble:
        readable, kept = False, -1
    for backup in backups(path):
        try:
            load(backup)
        except FileTrouble:
            broken += 1
    for left in left_behind(folder / "home" / "state"):
        found = left.recovery.found()
        kept = max(kept, int(found[0].brief.cap) if found else -1)
        left.recovery.drop()
        left.recovery.end()
    lost = [at - t for n, t in edits if n > kept]
    return readable, broken, max(lost, default=0.0)


def kill_all(quick: bool) -> tuple[str, str, bool]:
    """Windows killed at random moments: edits at 0.1, 0.7 and 2.6 s, with saves between and without."""
    rng, count = random.Random(1), 12 if quick else 1000
    unreadable = broken = 0
    worst = 0.0
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(SIDE_BY_SIDE) as hands:

        def some(hand: int, moments: list[float]) -> list[tuple[bool, int, float]]:
            out, mine = [], Path(folder) / str(hand)
            mine.mkdir()
            for k, moment in enumerate(moments, start=hand * len(moments)):
                pace, save_each = (0.1, 0.7, 2.6)[k % 3], (0, 3)[(k // 3) % 2]
                real = k % (4 if quick else 50) == 0
                out.append(_kill_one(mine, pace, save_each, real, moment * (4.0 if pace < 1 else 6.0)))
            return out

        each = count // SIDE_BY_SIDE
        moments = [[rng.random() for _ in range(each)] for _ in range(SIDE_BY_SIDE)]
        for readable, bad, lost in (one for found in hands.map(some, range(SIDE_BY_SIDE), moments) for one in found):
            unreadable, broken, worst = unreadable + (not readable), broken + bad, max(worst, lost)
    said = f"{unreadable} unreadable projects, {broken} broken backups, at most {worst:.2f} s of edits lost"
    return f"{each * SIDE_BY_SIDE} windows killed", said, not unreadable and not broken and worst <= 2.0


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
    from fondale.demo import SAMPLES
    from fondale.storage import save

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
