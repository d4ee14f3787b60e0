"""Array work in parts on several threads: NumPy and the ray engine let go of the interpreter while they work, and small parts stay in the cache."""

import os
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import TypeVar

T = TypeVar("T")
AT_ONCE = 16_384  # rows of a part
THREADS = min(4, os.cpu_count() or 1)
_here = threading.local()


def _enter() -> None:
    _here.inside = True


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(THREADS, thread_name_prefix="side", initializer=_enter)


def in_parts(work: Callable[[int, int], T], count: int, at_once: int = AT_ONCE) -> list[T]:
    """What ``work`` makes of the rows from and to, part by part, in their order; one part where there are none. Parts do not split up again."""
    parts = [(lo, min(lo + at_once, count)) for lo in range(0, count, at_once)] or [(0, 0)]
    if len(parts) == 1 or THREADS == 1 or getattr(_here, "inside", False):
        return [work(lo, hi) for lo, hi in parts]
    return list(_pool().map(work, *zip(*parts, strict=True)))
