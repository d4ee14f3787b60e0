# SPDX-License-Identifier: MIT
"""Work in parts on several threads: all rows once, in their order."""

import threading
import time

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core import side_by_side
from fondale.core.arrays import rows, scaled
from fondale.core.side_by_side import in_parts


@pytest.fixture(autouse=True)
def several(monkeypatch):
    monkeypatch.setattr(side_by_side, "THREADS", max(2, side_by_side.THREADS))


@given(st.integers(0, 400), st.integers(1, 60))
def test_every_row_comes_once_and_in_its_place(count, at_once):
    parts = in_parts(lambda lo, hi: list(range(lo, hi)), count, at_once)
    assert [row for part in parts for row in part] == list(range(count))
    assert all(len(part) <= at_once for part in parts)
    assert max(map(len, parts)) - min(map(len, parts)) <= 1


def test_parts_do_not_wait_for_parts_of_their_own():
    def whole(lo: int, hi: int) -> int:
        me = threading.get_ident()
        assert in_parts(lambda _a, _b: threading.get_ident(), 10, 1) == [me] * 10
        return hi - lo

    assert in_parts(whole, 20, 1) == [1] * 20


def test_what_goes_wrong_in_a_part_goes_wrong():
    def work(lo: int, _hi: int) -> int:
        if lo == 7:
            raise ValueError("seven")
        return lo

    with pytest.raises(ValueError, match="seven"):
        in_parts(work, 10, 1)


def test_the_callers_thread_alone_is_told_and_may_stop_it():
    """What is told goes through one pipe: two threads at once would spoil it."""
    shares, told_by, begun = [], set(), []

    def told(share: float) -> None:
        shares.append(share)
        told_by.add(threading.get_ident())
        if share > 0.5:
            raise KeyboardInterrupt

    def work(lo: int, _hi: int) -> None:
        begun.append(lo)
        time.sleep(0.002)

    with pytest.raises(KeyboardInterrupt):
        in_parts(work, 200, 1, told)
    assert told_by == {threading.get_ident()}
    assert shares == sorted(shares)
    time.sleep(0.05)
    assert len(begun) < 190


@given(st.integers(0, 30), st.integers(0, 2**32 - 1))
def test_short_rows_are_taken_and_scaled_as_numpy_does(count, seed):
    rng = np.random.default_rng(seed)
    vectors, which = rng.random((count + 1, 3)), rng.integers(0, count + 1, 2 * count)
    assert np.array_equal(rows(vectors, which), vectors[which])
    by = rng.random((4, count + 1))
    assert np.array_equal(scaled(vectors, by), vectors * by[..., None])
