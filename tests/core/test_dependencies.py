# SPDX-License-Identifier: MIT
"""A judge of what results say they depend on: where the key of a result stays, its value stays, whatever was edited."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.derived import QUICK
from fondale.core.edits import apply, put
from fondale.core.model import LISTS, PROJECT, Model, Project
from fondale.core.reckoning import Look, Reckoner
from fondale.demo import heron_stairs
from tests.conftest import TODAY, tries

HERON = heron_stairs(TODAY)
PARTS = (PROJECT.then(lambda p: p.brief), PROJECT.then(lambda p: p.case), PROJECT.then(lambda p: p.brief.rules))


def another(value: Any) -> Any:
    """A value beside this one."""
    if isinstance(value, bool):
        return not value
    if isinstance(value, int | float):
        return value + 1
    return f"{value} again" if isinstance(value, str) else None


def edits() -> list[Project]:
    """The demo, with one plain value of one thing changed, in every way that the model takes."""
    places = [(part, part.read(HERON)) for part in PARTS]
    for listing in LISTS:
        members = listing.members(HERON)
        places += [(listing.at(m.id), m) for m in members[:2]]
    out = []
    for spot, thing in places:
        assert isinstance(thing, Model)
        for name in type(thing).model_fields:
            value = another(getattr(thing, name))
            if name != "id" and value is not None:
                try:
                    out.append(apply(HERON, put(spot.then(lambda t, n=name: getattr(t, n)), value, name)))
                except Exception:
                    continue
    return out


def same(a: Any, b: Any) -> bool:
    """Equal, arrays by their values."""
    if isinstance(a, np.ndarray):
        return bool(np.array_equal(a, b))
    if isinstance(a, dict):
        return a.keys() == b.keys() and all(same(a[k], b[k]) for k in a)
    if isinstance(a, tuple | list):
        return len(a) == len(b) and all(same(x, y) for x, y in zip(a, b, strict=True))
    if hasattr(a, "__dataclass_fields__"):
        return type(a) is type(b) and all(same(getattr(a, f), getattr(b, f)) for f in a.__dataclass_fields__)
    return bool(a == b)


EDITED = edits()


@pytest.fixture(scope="module")
def before():
    return Reckoner().derive(HERON, Look(TODAY), QUICK)


def test_there_is_much_to_edit():
    assert len(EDITED) > 80


@tries(40)
@given(st.sampled_from(range(len(EDITED))))
def test_an_equal_key_means_an_equal_result(before, at):
    look = Look(TODAY)
    kept = [r for r in QUICK if r.key(EDITED[at], look) == r.key(HERON, look)]
    after = Reckoner().derive(EDITED[at], look, kept)
    assert {r.name for r in kept if not same(after[r], before[r])} == set()
