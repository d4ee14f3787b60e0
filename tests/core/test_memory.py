# SPDX-License-Identifier: MIT
"""What a process may have is what it takes: a native library that breaks where it gets nothing is not asked there."""

import subprocess
import sys

import pytest

PROCESS = """
import resource
import numpy as np
from fondale.core.rays import FastRays

rng = np.random.default_rng(1)
tris = rng.uniform(0, 300, ({triangles}, 1, 3)) + rng.normal(0, 2, ({triangles}, 3, 3))
taken = next(int(line.split()[1]) for line in open("/proc/self/status") if line.startswith("VmData")) * 1024
resource.setrlimit(resource.RLIMIT_DATA, (taken + {megabytes} * 1_000_000, resource.RLIM_INFINITY))
try:
    engines = [FastRays(tris) for _ in range({engines})]
    prim, _far = engines[-1].hit(rng.uniform(0, 300, (2000, 3)), rng.normal(size=(2000, 3)))
    print("hits" if (prim >= 0).any() else "nothing hit")
except MemoryError:
    print("no room")
"""


def said(megabytes: int, triangles: int, engines: int = 1) -> str:
    code = PROCESS.format(megabytes=megabytes, triangles=triangles, engines=engines)
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    return done.stdout.strip() or f"ended with {done.returncode}: {done.stderr[-200:]}"


@pytest.mark.parametrize("megabytes", [60, 100, 180])
def test_an_engine_that_has_no_room_says_so_and_the_process_lives(megabytes):
    assert said(megabytes, 400_000) == "no room"


@pytest.mark.parametrize("engines", [1, 16])
def test_engines_at_the_edge_of_the_room_answer_or_say_so(engines):
    answers = {said(megabytes, 60_000, engines) for megabytes in range(120, 400, 70)}
    assert answers <= {"hits", "no room"}
