# SPDX-License-Identifier: MIT
"""Reading takes no more memory and no more of the processor than a file is worth, whatever it is made of."""

import contextlib
import os
import resource
import signal
import sys
import threading
from collections.abc import Iterator
from types import FrameType

from fondale.storage.limits import MEMORY_BYTES, READING_GRACE_S, READING_S
from fondale.storage.unfolded import Endless

OUT_OF_TIME = signal.SIGVTALRM  # what ends a process that read too long and does not hear
TOO_MUCH = f"takes more than {MEMORY_BYTES / 1e9:g} GB of memory: make the case smaller, or bring in fewer and lighter things"
_bound = False  # whether this process may be ended for what it reads


def too_long(seconds: float) -> str:
    """That so many seconds were not enough."""
    return f"it takes more than {seconds:.0f} s of the processor to read; thin it out in the program that made it"


def bound_memory() -> None:
    """This process never takes more than ``MEMORY_BYTES``: what would raises MemoryError. While it reads it may be ended, too."""
    global _bound
    _bound = True
    with contextlib.suppress(OSError, ValueError):
        resource.setrlimit(resource.RLIMIT_DATA, (MEMORY_BYTES, resource.getrlimit(resource.RLIMIT_DATA)[1]))
        resource.setrlimit(resource.RLIMIT_CORE, (0, resource.getrlimit(resource.RLIMIT_CORE)[1]))


@contextlib.contextmanager
def patience(seconds: float = READING_S) -> Iterator[None]:
    """What is done inside ends with Endless when it takes more seconds of the processor: on a busy machine it has its time all the same.

    A library that does not let Python speak meanwhile ends with its process, by ``OUT_OF_TIME``, where ``bound_memory`` was called: that
    counts its own time alone, without the system's for it. Inside another patience the outer one counts. On a thread that is not the process's first nothing is counted.
    """

    def out_of_patience(_number: int, _frame: FrameType | None) -> None:
        raise Endless(too_long(seconds))

    if threading.current_thread() is not threading.main_thread() or signal.getitimer(signal.ITIMER_PROF)[0] > 0:
        yield
        return
    before = signal.signal(signal.SIGPROF, out_of_patience)
    if _bound:
        # Counted from here. A limit (RLIMIT_CPU) counts from the process's first second, in ticks of the system that lead the time we can
        # read: after an hour beside other work by more than the whole bound, and who has hardly begun would be ended.
        signal.setitimer(signal.ITIMER_VIRTUAL, seconds + READING_GRACE_S)
    signal.setitimer(signal.ITIMER_PROF, seconds, 0.5)  # again and again: some readers swallow what is raised in them
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_PROF, 0.0)
        signal.setitimer(signal.ITIMER_VIRTUAL, 0.0)
        signal.signal(signal.SIGPROF, before)


@contextlib.contextmanager
def hushed() -> Iterator[None]:
    """What libraries below Python print of a damaged file does not reach the terminal of a process that was bound."""
    if not _bound:
        yield
        return
    sys.stderr.flush()
    kept, nowhere = os.dup(2), os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 2)
    try:
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)


def ended_words(code: int) -> str:
    """How a process ended that gave no answer, by its exit code (minus the signal)."""
    if code == -OUT_OF_TIME:
        return too_long(READING_S)
    return "the system ended it, perhaps for want of memory" if code == -signal.SIGKILL else f"it broke, with the code {code}"


def work_in_a_child(program: str) -> None:
    """From here on a child of this process goes on; this one waits, and says in one line where the system ended it. For a process of one thread."""
    for stream in (sys.stdout, sys.stderr):
        stream.flush()
    child = os.fork()
    if child == 0:
        return
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the terminal tells both, and the child answers
    signal.signal(signal.SIGTERM, lambda *_: os.kill(child, signal.SIGTERM))
    code = os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])
    if code in (-signal.SIGTERM, -signal.SIGINT, -signal.SIGPIPE, -signal.SIGHUP):
        os._exit(128 - code)
    if code < 0:
        said = ended_words(code)
        print(f"{program}: {said[0].upper()}{said[1:]}.", file=sys.stderr, flush=True)
    os._exit(2 if code < 0 else code)
