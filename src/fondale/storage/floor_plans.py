# SPDX-License-Identifier: MIT
"""Floor plans of other programs: straight lines of an SVG or a DXF, in millimetres with y up."""

import io
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.troubles import Trouble
from fondale.storage.disk import ordinary
from fondale.storage.limits import PLAN_BYTES, PLAN_LINES
from fondale.storage.patience import patience
from fondale.storage.unfolded import Endless

DEEPEST = 12  # blocks in blocks
PPI = 96.0  # of an SVG's own units, as its standard has them
UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 10: 914.4, 14: 100.0}  # DXF $INSUNITS: in, ft, mm, cm, m, yd, dm
NAMED = {"mm": 1.0, "cm": 10.0, "dm": 100.0, "m": 1000.0, "in": 25.4, "ft": 304.8}


class PlanTrouble(Trouble):
    """A floor plan that cannot be read; the text says why."""


@dataclass(frozen=True)
class FloorPlan:
    """Straight lines (n, 2, 2) in mm; what is left out is counted: curves, what lies on layers that are off or frozen (``hidden``), and texts, hatches
    and the like (``others``). ``asks_unit``: the drawing states none, and none was given.
    """

    lines: Floats
    curves: int
    asks_unit: bool = False
    hidden: int = 0
    others: int = 0

    @property
    def left_out(self) -> str:
        """What was left out, in words; empty: nothing."""
        counts = (
            (self.curves, "curve", "curves"),
            (self.hidden, "thing on layers that are off", "things on layers that are off"),
            (self.others, "text or hatch", "texts and hatches"),
        )
        said = [f"{n} {one if n == 1 else many}" for n, one, many in counts if n]
        return f"{', '.join(said)} left out" if said else ""


def read_plan(path: Path, unit: str = "") -> FloorPlan:
    """The lines of a file. ``unit`` (mm, cm, dm, m, in, ft) is for a DXF that states none. Raises PlanTrouble."""
    try:
        ordinary(path, PLAN_BYTES)
        data = path.read_bytes()
    except OSError as error:
        raise PlanTrouble(f"“{path.name}” cannot be read: {error.strerror or error}.") from error
    try:
        with patience():
            return parse_plan(data, path.suffix.lower(), unit)
    except PlanTrouble as error:
        raise PlanTrouble(f"“{path.name}”: {error}") from error
    except Endless as error:
        raise PlanTrouble(f"“{path.name}”: {error}.") from error


def parse_plan(data: bytes, ending: str, unit: str = "") -> FloorPlan:
    """The lines of an SVG or a DXF. Raises PlanTrouble."""
    if ending not in (".svg", ".dxf"):
        raise PlanTrouble("a floor plan is an SVG or a DXF file.")
    try:
        found = _svg(data) if ending == ".svg" else _dxf(data, unit)
    except PlanTrouble:
        raise
    except (MemoryError, Endless):
        raise
    except Exception as error:  # the readers raise whatever trips them
        raise PlanTrouble(f"it is no {ending[1:].upper()} that can be read ({type(error).__name__}).") from error
    if not len(found.lines):
        raise PlanTrouble("there are no straight lines in it.")
    if len(found.lines) > PLAN_LINES:
        raise PlanTrouble(f"it has {len(found.lines)} lines; at most {PLAN_LINES} are brought. Leave out what is no wall.")
    if not np.isfinite(found.lines).all() or np.abs(found.lines).max() > 1e7:
        raise PlanTrouble("its numbers lie beyond any room.")
    return found


def _svg(data: bytes) -> FloorPlan:
    import svgelements as svg

    lines: list[list[list[float]]] = []
    curves = 0
    drawing = svg.SVG.parse(io.BytesIO(data), ppi=PPI)
    for element in drawing.elements():
        if not isinstance(element, svg.Shape):
            continue
        for segment in svg.Path(element):
            if isinstance(segment, svg.Line | svg.Close):
                if segment.start is not None and segment.end is not None:
                    lines.append([[segment.start.x, -segment.start.y], [segment.end.x, -segment.end.y]])
            elif not isinstance(segment, svg.Move):
                curves += 1
    return FloorPlan(np.array(lines, float).reshape(-1, 2, 2) * 25.4 / PPI, curves)


def _dxf(data: bytes, unit: str) -> FloorPlan:
    from ezdxf import recover

    document, _auditor = recover.read(io.BytesIO(data))
    stated = UNITS.get(int(document.header.get("$INSUNITS", 0)))
    times = stated or NAMED.get(unit, 1.0)
    off = {layer.dxf.name.lower() for layer in document.layers if layer.is_off() or layer.is_frozen()}
    found = _Found(off)
    found.walk(document.modelspace(), 0)
    lines = np.array(found.lines, float).reshape(-1, 2, 2) * times
    return FloorPlan(lines, found.curves, stated is None and not unit, found.hidden, found.others)


class _Found:
    """What a drawing holds, blocks of blocks as well."""

    def __init__(self, off: set[str]) -> None:
        self.off, self.lines, self.curves, self.hidden, self.others = off, list[list[list[float]]](), 0, 0, 0

    def walk(self, entities: Any, depth: int) -> None:
        """Take in entities; a block is what it is made of, where it stands."""
        for entity in entities:
            kind = entity.dxftype()
            if entity.dxf.get("layer", "0").lower() in self.off or entity.dxf.get("invisible", 0):
                self.hidden += 1
            elif kind == "INSERT" and depth < DEEPEST:
                for one in entity.multi_insert() if entity.mcount > 1 else (entity,):
                    self.walk(one.virtual_entities(), depth + 1)
            elif kind == "LINE":
                self.lines.append([list(entity.dxf.start)[:2], list(entity.dxf.end)[:2]])
            elif kind == "LWPOLYLINE":
                self._ring([(x, y, bulge) for x, y, bulge in entity.get_points("xyb")], entity.closed)
            elif kind == "POLYLINE":
                self._ring([(v.dxf.location.x, v.dxf.location.y, v.dxf.get("bulge", 0.0)) for v in entity.vertices], entity.is_closed)
            elif kind in ("ARC", "CIRCLE", "ELLIPSE", "SPLINE"):
                self.curves += 1
            else:
                self.others += 1
            if len(self.lines) > PLAN_LINES * 4:
                raise PlanTrouble(f"it has more than {PLAN_LINES} lines. Leave out what is no wall.")

    def _ring(self, points: list[tuple[float, float, float]], closed: bool) -> None:
        ends = [*points[1:], *(points[:1] if closed else [])]
        for a, b in zip(points, ends, strict=False):
            if abs(a[2]) > 1e-9:
                self.curves += 1
            else:
                self.lines.append([[a[0], a[1]], [b[0], b[1]]])
