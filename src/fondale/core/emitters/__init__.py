# SPDX-License-Identifier: MIT
"""Kinds of lamp as light, one module a kind: a new one is a module, and ``emitter`` in its row of the table of LEDs."""

from collections.abc import Callable

from fondale.core.emitters.emitter import Emitter
from fondale.core.emitters.point import point_of
from fondale.core.model import Lamp
from fondale.knowledge import table

EMITTERS: dict[str, Callable[[Lamp], Emitter]] = {"point": point_of}


def emitter_of(lamp: Lamp) -> Emitter:
    """The emitter of a lamp, by its row."""
    return EMITTERS[table("electric")["led"][lamp.led].get("emitter", "point")](lamp)


__all__ = ["EMITTERS", "Emitter", "emitter_of"]
