# SPDX-License-Identifier: MIT
"""The attacks in small, as they run with every change; ``./dev attack`` runs them long."""

import pytest

from fondale.core.edits import new_project
from fondale.demo import SAMPLES
from tests.attack.edits import TODAY, Found, attack
from tests.attack.hostile import Meeting, cases


@pytest.mark.parametrize("name", ["", *SAMPLES])
def test_random_edits_raise_only_our_own_errors_and_can_be_saved_and_judged(name):
    start = SAMPLES[name](TODAY) if name else new_project("Empty", TODAY)
    found = Found()
    for _project in attack(start, 60, 7, found, plan_each=20):
        pass
    assert not found.kinds, found.told()
    assert found.edits == 60
    assert found.refused < 40


@pytest.mark.slow
def test_hostile_files_are_met_with_one_clear_line(hut, tmp_path):
    kinds = set()
    with Meeting() as meeting:
        for case in cases(tmp_path, hut, 1, True):
            kinds.add(case.kind)
            met = meeting.meet(case)
            assert met.fine, (case, met)
    assert len(kinds) >= 14
