# SPDX-License-Identifier: MIT
"""Plan, silhouette and sections as open drawings in millimetres: SVG at true size, DXF on layers."""

from collections.abc import Sequence
from io import StringIO
from typing import Any
from xml.etree import ElementTree as Xml

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.model import Project
from fondale.core.stage.drawn import LAYERS, Line, View, lines
from fondale.core.stage.sections import Area, Plane, section

SVG = "http://www.w3.org/2000/svg"
STROKES = {"case": ("#26303A", "0.6"), "scenery": ("#5F6973", "0.35"), "pieces": ("#8E2F3C", "0.35"), "lamps": ("#B86E0C", "0.35")}
COLOURS = dict(zip(LAYERS, (7, 8, 1, 30), strict=True))
BEYOND, BEYOND_COLOUR = "beyond", 9
MARGIN_MM, HATCH_MM = 10.0, 3.0


def _drawn(project: Project, view: View | Plane) -> tuple[Sequence[Area], Sequence[Line], str]:
    """Areas that are cut, outlines, and what the drawing is called. Raises ValueError for a plane that cuts nothing."""
    if not isinstance(view, Plane):
        return (), lines(project, view), view
    areas, beyond = section(project, view)
    if not areas:
        raise ValueError(f"Nothing is {view.words}. Choose a plane that goes through something.")
    return areas, beyond, f"section, {view.words}"


def _rings(area: Area) -> list[Floats]:
    return [np.asarray(r.coords)[:-1] for r in (area.shape.exterior, *area.shape.interiors)]


def drawing_svg(project: Project, view: View | Plane) -> bytes:
    """A drawing whose unit is the millimetre; a group a layer, an outline a thing with its name; what is cut is hatched. Raises ValueError."""
    areas, every, called = _drawn(project, view)
    points = np.concatenate([*(line.ring for line in every), *(ring for a in areas for ring in _rings(a))])
    (x0, y0), (x1, y1) = (points.min(0) - MARGIN_MM).tolist(), (points.max(0) + MARGIN_MM).tolist()
    Xml.register_namespace("", SVG)
    root = Xml.Element(
        f"{{{SVG}}}svg", width=f"{x1 - x0:.3f}mm", height=f"{y1 - y0:.3f}mm", viewBox=f"{x0:.3f} {-y1:.3f} {x1 - x0:.3f} {y1 - y0:.3f}"
    )
    Xml.SubElement(root, f"{{{SVG}}}title").text = f"{project.name}, {called}"
    if areas:
        _svg_hatch(root)
        group = Xml.SubElement(root, f"{{{SVG}}}g", {"id": BEYOND, "fill": "none", "stroke": "#5F6973", "stroke-width": "0.18"})
        for line in every:
            _svg_outline(group, line)
    for layer in LAYERS:
        colour, broad = STROKES[layer]
        group = Xml.SubElement(root, f"{{{SVG}}}g", {"id": layer, "fill": "none", "stroke": colour, "stroke-width": broad})
        for line in every:
            if line.layer == layer and not areas:
                _svg_outline(group, line)
        for area in areas:
            if area.layer == layer:
                way = " ".join("M " + " L ".join(f"{x:.3f},{-y:.3f}" for x, y in ring.tolist()) + " Z" for ring in _rings(area))
                shape = Xml.SubElement(group, f"{{{SVG}}}path", {"d": way, "fill": "url(#cut)", "fill-rule": "evenodd"})
                Xml.SubElement(shape, f"{{{SVG}}}title").text = area.name
    return bytes(Xml.tostring(root, "utf-8", xml_declaration=True))


def _svg_hatch(root: Xml.Element) -> None:
    """Lines at 45 degrees, as draughtsmen have them."""
    defs = Xml.SubElement(root, f"{{{SVG}}}defs")
    told = {
        "id": "cut",
        "patternUnits": "userSpaceOnUse",
        "width": f"{HATCH_MM}",
        "height": f"{HATCH_MM}",
        "patternTransform": "rotate(-45)",
    }
    pattern = Xml.SubElement(defs, f"{{{SVG}}}pattern", told)
    Xml.SubElement(
        pattern, f"{{{SVG}}}line", {"x1": "0", "y1": "0", "x2": f"{HATCH_MM}", "y2": "0", "stroke": "#26303A", "stroke-width": "0.25"}
    )


def _svg_outline(group: Xml.Element, line: Line) -> None:
    shape = " ".join(f"{x:.3f},{-y:.3f}" for x, y in line.ring.tolist())
    outline = Xml.SubElement(group, f"{{{SVG}}}polygon", points=shape)
    Xml.SubElement(outline, f"{{{SVG}}}title").text = line.name


def drawing_dxf(project: Project, view: View | Plane) -> bytes:
    """A drawing in millimetres, each kind of thing on a layer of its name, names as text beside the outlines; what is cut is hatched. Raises
    ValueError.
    """
    import ezdxf  # slow to load

    areas, every, _called = _drawn(project, view)
    document = ezdxf.new("R2010", units=ezdxf.units.MM)
    space = document.modelspace()
    for layer, colour in COLOURS.items():
        document.layers.add(layer, color=colour)
    if areas:
        document.layers.add(BEYOND, color=BEYOND_COLOUR)
    for line in every:
        on = BEYOND if areas else line.layer
        space.add_lwpolyline(line.ring.tolist(), close=True, dxfattribs={"layer": on})
        _dxf_name(space, line.name, on, line.ring)
    for area in areas:
        hatch = space.add_hatch(dxfattribs={"layer": area.layer})
        hatch.set_pattern_fill("ANSI31", scale=HATCH_MM / 3.175)
        for k, ring in enumerate(_rings(area)):
            space.add_lwpolyline(ring.tolist(), close=True, dxfattribs={"layer": area.layer})
            hatch.paths.add_polyline_path(ring.tolist(), is_closed=True, flags=1 if k == 0 else 0)
        _dxf_name(space, area.name, area.layer, _rings(area)[0])
    out = StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


def _dxf_name(space: Any, name: str, layer: str, ring: Floats) -> None:
    low = ring.min(0).tolist()
    space.add_text(name, height=3.0, dxfattribs={"layer": layer, "insert": (low[0], low[1] - 4.0)})
