# SPDX-License-Identifier: MIT
"""What an order is made of: tasks, links between them, and what a search finds."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from fondale.core.troubles import Trouble

Window = tuple[int, int]


class NoPlan(Trouble):
    """No order keeps all the rules; the text says which."""


@dataclass(frozen=True)
class Task:
    """``minutes`` of work; ``uses`` amounts of resources; ``windowed`` tasks lie wholly inside one window.

    ``tail`` minutes pass after the work until the task counts as finished. ``setup`` names a tool that has to
    be brought out in a window. It starts at minute ``release`` at the earliest and ``latest`` at the latest, in no window that opens in
    one of the spans ``barred``.
    A task that ``holds`` a machine, one of those named, takes it from its start on: until the task that ``clears`` it is done, or else
    for ``held`` minutes after it. Tasks that are ``together`` with one name lie in one window.
    """

    id: str
    minutes: int
    uses: Mapping[str, int] = field(default_factory=dict)
    windowed: bool = False
    tail: int = 0
    setup: str = ""
    release: int = 0
    latest: int | None = None
    holds: tuple[str, ...] = ()
    held: int = 0
    clears: str = ""
    together: str = ""
    barred: tuple[Window, ...] = ()

    def may_in(self, window: Window) -> bool:
        """Whether a window may hold it."""
        return self.minutes <= window[1] - window[0] and not any(a <= window[0] < b for a, b in self.barred)


@dataclass(frozen=True)
class Link:
    """``after`` starts at least ``lag`` minutes after ``before`` ends, and at ``most`` so many (None: whenever); 0 and 0: at once."""

    before: str
    after: str
    lag: int = 0
    most: int | None = None

    @property
    def at_once(self) -> bool:
        """Whether the one begins when the other ends."""
        return self.most == 0


@dataclass(frozen=True)
class Bench:
    """What tasks are placed in: evenings, and the minutes that bringing out and cleaning a tool takes in each that it is used in.

    ``free`` tells until when machines still run, and ``open_on`` which task has to clear what is on one already.
    """

    windows: Sequence[Window] = ()
    setups: Mapping[str, tuple[int, int]] = field(default_factory=dict)
    free: Mapping[str, int] = field(default_factory=dict)
    open_on: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Schedule:
    """Start minute of each task, the finish, the lower bound of the finish, whether it is proven best, and the machines that were taken."""

    starts: dict[str, int]
    finish: int
    bound: int
    proven: bool
    machines: dict[str, str] = field(default_factory=dict)


def ends_of(tasks: Sequence[Task], starts: Mapping[str, int]) -> int:
    """When all is finished, tails and all."""
    return max((starts[t.id] + t.minutes + t.tail for t in tasks), default=0)
