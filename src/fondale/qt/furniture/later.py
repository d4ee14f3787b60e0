# SPDX-License-Identifier: MIT
"""Parts of the window that are made when they are first asked for."""

from collections.abc import Callable, Iterator, Mapping
from typing import TypeVar

T = TypeVar("T")


class Later(Mapping[str, T]):
    """Parts by name, each made the first time that it is looked up; going through the names alone makes none."""

    def __init__(self, makers: Mapping[str, Callable[[], T]]) -> None:
        self._makers, self._made = makers, dict[str, T]()

    def __getitem__(self, name: str) -> T:
        if name not in self._made:
            self._made[name] = self._makers[name]()
        return self._made[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._makers)

    def __len__(self) -> int:
        return len(self._makers)

    @property
    def made(self) -> dict[str, T]:
        """Those that stand already."""
        return self._made

    def make_one(self) -> bool:
        """Make the first that is not there yet; False when all stand."""
        missing = next((name for name in self if name not in self._made), None)
        return missing is not None and self[missing] is not None
