# SPDX-License-Identifier: MIT
"""Array work in parts on several threads: NumPy and the ray engine let go of the interpreter while they work, and small parts stay in the cache."""

import math
import os
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import TypeVar

T = TypeVar("T")
AT_ONCE = 65_536  # rows of a part at most; threads that hand short pieces of work to and fro are slower together than one of them
THREADS = min(4, os.cpu_count() or 1)
_here = threading.local()


def _enter() -> None:
    _here.inside = True


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(THREADS, thread_name_prefix="side", initializer=_enter)


def in_parts(work: Callable[[int, int], T], count: int, at_once: int = AT_ONCE, told: Callable[[float], object] | None = None) -> list[T]:
    """What ``work`` makes of the rows from and to, part by part, in their order; one part where there are few. Parts are alike, of ``at_once`` rows
    at most, and as many as keep all threads busy to the end. They do not split up again. ``told`` is called between parts with the share
    that is done, by the caller's own thread; if it raises, the parts that have not begun are left.
    """
    several = THREADS if count > at_once and not getattr(_here, "inside", False) else 1
    parts = several * max(1, math.ceil(count / at_once / several))
    edges = [count * k // parts for k in range(parts + 1)]
    found: Iterator[T] = map(work, edges[:-1], edges[1:]) if several == 1 else _pool().map(work, edges[:-1], edges[1:])
    out: list[T] = []
    for one in found:
        out.append(one)
        if told is not None:
            told(len(out) / parts)
    return out
