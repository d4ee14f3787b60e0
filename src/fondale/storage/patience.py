"""Reading takes no more memory and time than a file is worth."""

import contextlib
import resource
import signal
import threading
from collections.abc import Iterator
from types import FrameType

from fondale.storage.unfolded import Endless

MEMORY_BYTES = 2_500_000_000  # of one process
READING_S = 18.0
TOO_MUCH = f"takes more than {MEMORY_BYTES / 1e9:g} GB of memory: make the case smaller, or bring in fewer and lighter things"


def bound_memory() -> None:
    """This process never takes more than ``MEMORY_BYTES``: what would raises MemoryError."""
    with contextlib.suppress(OSError, ValueError):
        resource.setrlimit(resource.RLIMIT_DATA, (MEMORY_BYTES, resource.getrlimit(resource.RLIMIT_DATA)[1]))
        resource.setrlimit(resource.RLIMIT_CORE, (0, resource.getrlimit(resource.RLIMIT_CORE)[1]))


@contextlib.contextmanager
def patience(seconds: float = READING_S) -> Iterator[None]:
    """What is done inside ends with Endless when it takes longer; on the main thread of a process, elsewhere it may take its time."""

    def out_of_patience(_number: int, _frame: FrameType | None) -> None:
        raise Endless(f"it takes more than {seconds:.0f} s to read; thin it out in the program that made it")

    if threading.current_thread() is not threading.main_thread():
        yield
        return
    before = signal.signal(signal.SIGALRM, out_of_patience)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0.0)
        signal.signal(signal.SIGALRM, before)
