# SPDX-License-Identifier: MIT
"""What is asked of one snapshot by many is made once, and never taken for that of another."""

from fondale.core.derived import RESULTS
from fondale.core.model.snapshots import once
from fondale.core.reckoning import Look
from tests.conftest import TODAY


def test_it_is_made_once_of_each_snapshot(heron):
    made = []
    asked = once(lambda project: made.append(project) or project.name)
    other = heron.but(name="Another")
    assert [asked(heron), asked(heron), asked(other), asked(heron)] == [heron.name, heron.name, "Another", heron.name]
    assert made == [heron, other, heron]
    assert heron.but() is not heron  # an equal one is another: it is told apart by what it is, not by what it holds


def test_keys_share_what_they_have_in_common(heron):
    """Ten results build on the same parts of the project: their keys are compared after each edit, and parts that are the same object are equal at once."""
    look = Look(TODAY)
    keys = {r.name: r.key(heron, look, {}) for r in RESULTS}
    again = {r.name: r.key(heron, look, {}) for r in RESULTS}
    assert keys == again
    assert keys["plan"][0] is again["plan"][0]
