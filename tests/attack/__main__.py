# SPDX-License-Identifier: MIT
"""The long attacks: what is typed and kept, random edits, hostile files, kills, two programs on one file, a soak. Prints a table; exit 1 where one fails.

``python -m tests.attack [NAME ...] [--quick]``
"""

import platform
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from datetime import date
from itertools import repeat
from multiprocessing import get_context
from pathlib import Path

from fondale.demo import SAMPLES
from tests.attack.edits import TODAY, Found, of_seed
from tests.attack.hostile import Meeting, cases
from tests.attack.kills import SIDE_BY_SIDE, kill_all, two_programs
from tests.attack.soak import soak

Row = tuple[str, str, bool]


def edits(quick: bool) -> Row:
    """Random edits on an empty project and the samples, those of one seed in a process of their own."""
    found = Found()
    with ProcessPoolExecutor(SIDE_BY_SIDE, mp_context=get_context("spawn"), max_tasks_per_child=1) as pool:
        for seed, one in enumerate(pool.map(of_seed, range(1 if quick else 20), repeat(200 if quick else 1_250))):
            found.add(one)
            print(f"  seed {seed}: {found.edits} edits by now, {found.told() or 'nothing raised'}", flush=True)
    return (
        f"{found.edits} random edits, {found.refused} refused in words",
        found.told() or "nothing else raised; all saved and read back",
        not found.kinds,
    )


def hostile(quick: bool) -> Row:
    """Files of all kinds."""
    project, met = list(SAMPLES.values())[2](TODAY), []
    with tempfile.TemporaryDirectory() as folder, Meeting() as meeting:
        for case in cases(Path(folder), project, 1, quick):
            met.append(meeting.meet(case))
            if not met[-1].fine:
                print(
                    f"  {case.kind} {case.path.name}: exit {met[-1].code}, {met[-1].seconds:.1f} s, {met[-1].bytes // 1_000_000} MB: {met[-1].said.strip()[-200:]}"
                )
            if case.path.is_file() and not case.path.is_symlink():
                case.path.unlink()  # the large ones need not lie there all together
    bad = sum(not m.fine for m in met)
    said = f"worst {max(m.seconds for m in met):.1f} s and {max(m.bytes for m in met) // 1_000_000} MB; {bad} not met as they should"
    return f"{len(met)} hostile files of {len({m.case.kind for m in met})} kinds", said, not bad


KEPT = ("tests/storage/test_kept.py", "tests/qt/test_typed.py", "tests/app/test_apart.py", "tests/cli/test_commands.py")


def kept(_quick: bool) -> Row:
    """What is typed; a full disk; folders that go, modes, clocks; no display: each tried once, by its test."""
    done = subprocess.run([sys.executable, "-m", "pytest", *KEPT], capture_output=True, text=True, check=False)
    said = done.stdout.strip().splitlines() or [done.stderr.strip()[-200:]]
    if done.returncode:
        print("\n".join(line for line in said if line.startswith(("E ", "FAILED"))))
    return "what is typed, full disks, lost folders, no display", said[-1].strip("= "), done.returncode == 0


ATTACKS: dict[str, Callable[[bool], Row]] = {
    "kept": kept, "edits": edits, "hostile": hostile, "kills": kill_all, "programs": two_programs, "soak": soak,
}  # fmt: skip


def main() -> int:
    """Run what is asked for, or all."""
    quick = "--quick" in sys.argv
    names = [a for a in sys.argv[1:] if not a.startswith("-")] or list(ATTACKS)
    rows = []
    for name in names:
        since = time.monotonic()
        what, said, fine = ATTACKS[name](quick)
        rows.append(fine)
        print(f"| {name} | {what} | {said} | {'held' if fine else 'FAILED'} | {(time.monotonic() - since) / 60:.1f} min |", flush=True)
    print(f"{date.today()}, {platform.machine()}, Python {platform.python_version()}")
    return 0 if all(rows) else 1


if __name__ == "__main__":
    sys.exit(main())
