# SPDX-License-Identifier: MIT
"""What is known: values of results with what they depended on, and what could not be computed."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, TypeVar, cast

from fondale.core.reckoning import Key, Result

T = TypeVar("T")


@dataclass(frozen=True)
class _Value:
    key: Key
    value: Any


class Known:
    """``key`` tells what a result depends on in the present snapshot."""

    def __init__(self, key: Callable[[Result[Any]], Key]) -> None:
        self._key = key
        self._values: dict[str, _Value] = {}
        self._failed: dict[str, Key] = {}
        self._compared: dict[str, tuple[Key, Key, bool]] = {}  # keys are large, and many ask after each edit

    def get(self, result: Result[T]) -> T | None:
        """The last value of a result itself, of whatever snapshot."""
        known = self._values.get(result.name)
        return cast(T, known.value) if known is not None else None

    def fresh(self, result: Result[Any]) -> bool:
        """Whether its value is of the present snapshot."""
        known = self._values.get(result.name)
        if known is None:
            return False
        now, last = self._key(result), self._compared.get(result.name)
        if last is None or last[0] is not known.key or last[1] is not now:
            last = self._compared[result.name] = known.key, now, known.key == now
        return last[2]

    def failed(self, result: Result[Any]) -> bool:
        """Whether it could not be computed of the present snapshot."""
        return self._failed.get(result.name) == self._key(result)

    def done(self, result: Result[Any]) -> bool:
        """Whether there is nothing to compute."""
        return self.fresh(result) or self.failed(result)

    def values(self, results: Iterable[Result[Any]]) -> dict[str, Any]:
        """The last values of these results by name."""
        return {r.name: self._values[r.name].value for r in results}

    def held(self, results: Iterable[Result[Any]]) -> tuple[object, ...]:
        """Something of each of these results that is another object once it is computed again, though the value may be equal."""
        return tuple(self._values[r.name] for r in results)

    def take(self, result: Result[Any], key: Key, value: Any) -> None:
        """A value that was computed of what ``key`` tells; one of the present snapshot does not give way to one of before."""
        if not self.fresh(result) or key == self._key(result):  # else it was undone meanwhile
            self._values[result.name] = _Value(key, value)
            self._failed.pop(result.name, None)

    def fail(self, result: Result[Any], key: Key) -> None:
        """It could not be computed of what ``key`` tells."""
        self._failed[result.name] = key
