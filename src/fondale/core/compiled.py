"""Loops over numbers, compiled: once on a machine, where they are first loaded. They let go of the interpreter while they run."""

from collections.abc import Callable
from typing import Any, TypeVar

from numba import njit

F = TypeVar("F", bound=Callable[..., Any])
# What was compiled before stays as it was when this changes, until the files that hold it change.
_HOW: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy", "fastmath": {"contract", "nsz"}}


def compiled(types: str = "") -> Callable[[F], F]:
    """A function for arrays of these types, whose rows lie one after the other. All that it calls must stand in its own file: else it would go on calling what was there."""

    def made(function: F) -> F:
        out: F = njit(types, **_HOW)(function) if types else njit(**_HOW)(function)
        return out

    return made
