# SPDX-License-Identifier: MIT
"""The progress and cancel protocol that long core functions take."""

from typing import Protocol


class Cancelled(Exception):
    """The maker stopped the work, or a newer request replaced it."""


class Progress(Protocol):
    """What a long computation reports to. ``step`` raises Cancelled when it should stop."""

    def step(self, share: float, words: str) -> None: ...


class Quiet:
    """A job that nobody watches."""

    def step(self, share: float, words: str) -> None:
        return None
