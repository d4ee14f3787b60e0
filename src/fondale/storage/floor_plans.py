"""Floor plans of other programs: straight lines of an SVG or a DXF, in millimetres with y up."""

import io
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.troubles import Trouble
from fondale.storage.disk import ordinary
from fondale.storage.patience import patience
from fondale.storage.unfolded import Endless

LARGEST_BYTES, MOST_LINES = 20_000_000, 5_000
PPI = 96.0  # of an SVG's own units, as its standard has them
UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}  # DXF $INSUNITS: in, ft, mm, cm, m
NAMED = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}


class PlanTrouble(Trouble):
    """A floor plan that cannot be read; the text says why."""


@dataclass(frozen=True)
class FloorPlan:
    """Straight lines (n, 2, 2) in mm; curves are left out and counted. ``asks_unit``: the drawing states none, and none was given."""

    lines: Floats
    curves: int
    asks_unit: bool = False


def read_plan(path: Path, unit: str = "") -> FloorPlan:
    """The lines of a file. ``unit`` (mm, cm, m, in, ft) is for a DXF that states none. Raises PlanTrouble."""
    try:
        ordinary(path, LARGEST_BYTES)
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
    if len(found.lines) > MOST_LINES:
        raise PlanTrouble(f"it has {len(found.lines)} lines; at most {MOST_LINES} are brought. Leave out what is no wall.")
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
    lines: list[list[list[float]]] = []
    curves = 0
    for entity in document.modelspace():
        kind: Any = entity.dxftype()
        if kind == "LINE":
            lines.append([list(entity.dxf.start)[:2], list(entity.dxf.end)[:2]])
        elif kind == "LWPOLYLINE":
            points = [(x, y, bulge) for x, y, bulge in entity.get_points("xyb")]
            ends = [*points[1:], *(points[:1] if entity.closed else [])]
            for a, b in zip(points, ends, strict=False):
                if abs(a[2]) > 1e-9:
                    curves += 1
                else:
                    lines.append([[a[0], a[1]], [b[0], b[1]]])
        elif kind in ("ARC", "CIRCLE", "ELLIPSE", "SPLINE"):
            curves += 1
    return FloorPlan(np.array(lines, float).reshape(-1, 2, 2) * times, curves, stated is None and not unit)
