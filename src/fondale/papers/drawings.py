"""Plan and section as open drawings in millimetres: SVG at true size, DXF on layers."""

from io import StringIO
from xml.etree import ElementTree as Xml

import numpy as np

from fondale.core.model import Project
from fondale.core.stage.drawn import LAYERS, View, lines

SVG = "http://www.w3.org/2000/svg"
STROKES = {"case": ("#26303A", "0.6"), "scenery": ("#5F6973", "0.35"), "pieces": ("#8E2F3C", "0.35"), "lamps": ("#B86E0C", "0.35")}
MARGIN_MM = 10.0


def drawing_svg(project: Project, view: View) -> bytes:
    """A drawing whose unit is the millimetre; a group a layer, an outline a thing with its name."""
    every = lines(project, view)
    points = np.concatenate([line.ring for line in every])
    (x0, y0), (x1, y1) = (points.min(0) - MARGIN_MM).tolist(), (points.max(0) + MARGIN_MM).tolist()
    Xml.register_namespace("", SVG)
    root = Xml.Element(
        f"{{{SVG}}}svg", width=f"{x1 - x0:.3f}mm", height=f"{y1 - y0:.3f}mm", viewBox=f"{x0:.3f} {-y1:.3f} {x1 - x0:.3f} {y1 - y0:.3f}"
    )
    Xml.SubElement(root, f"{{{SVG}}}title").text = f"{project.name}, {view}"
    for layer in LAYERS:
        colour, broad = STROKES[layer]
        group = Xml.SubElement(root, f"{{{SVG}}}g", {"id": layer, "fill": "none", "stroke": colour, "stroke-width": broad})
        for line in every:
            if line.layer == layer:
                shape = " ".join(f"{x:.3f},{-y:.3f}" for x, y in line.ring.tolist())
                outline = Xml.SubElement(group, f"{{{SVG}}}polygon", points=shape)
                Xml.SubElement(outline, f"{{{SVG}}}title").text = line.name
    return bytes(Xml.tostring(root, "utf-8", xml_declaration=True))


def drawing_dxf(project: Project, view: View) -> bytes:
    """A drawing in millimetres, each kind of thing on a layer of its name, names as text beside the outlines."""
    import ezdxf  # slow to load

    document = ezdxf.new("R2010", units=ezdxf.units.MM)
    space = document.modelspace()
    for k, layer in enumerate(LAYERS):
        document.layers.add(layer, color=(7, 8, 1, 30)[k])
    for line in lines(project, view):
        space.add_lwpolyline(line.ring.tolist(), close=True, dxfattribs={"layer": line.layer})
        low = line.ring.min(0).tolist()
        space.add_text(line.name, height=3.0, dxfattribs={"layer": line.layer, "insert": (low[0], low[1] - 4.0)})
    out = StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")
