"""The whole scene as a mesh with the names kept: GLB and OBJ, in millimetres."""

import numpy as np

from fondale.core.colours import shown
from fondale.core.model import Project
from fondale.core.stage.scene import CASE, build_scene

ENDINGS = (".glb", ".obj")


def write_scene(project: Project, ending: str) -> bytes:
    """Every piece and the case, each a mesh of its name and paint, z up and in millimetres.

    A GLB has metres and y up by its standard: its root node turns and shrinks what lies below it. Raises KeyError for another ending.
    """
    import trimesh

    if ending not in ENDINGS:
        raise KeyError(ending)
    scene = build_scene(project)
    out, taken = trimesh.Scene(), set[str]()
    for owner in np.unique(scene.owner).tolist():
        mine = scene.owner == owner
        piece = None if owner == CASE else project.pieces[owner]
        name = _unique("Case" if piece is None else piece.name, taken)
        tris = scene.all_tris[mine]
        mesh = trimesh.Trimesh(tris.reshape(-1, 3), np.arange(3 * len(tris)).reshape(-1, 3), process=False)
        mesh.merge_vertices()
        paint = project.case.wall_paint if piece is None else piece.paint
        colour = [round(255 * c) for c in shown(paint)] + [255]
        mesh.visual = trimesh.visual.TextureVisuals(
            material=trimesh.visual.material.PBRMaterial(name=name, baseColorFactor=colour, doubleSided=True)
        )
        out.add_geometry(mesh, node_name=name, geom_name=name, transform=_UPRIGHT if ending == ".glb" else None)
    data = out.export(file_type=ending[1:])
    return data.encode() if isinstance(data, str) else bytes(data)


# z up in mm to y up in m.
_UPRIGHT = np.array([[0.001, 0, 0, 0], [0, 0, 0.001, 0], [0, -0.001, 0, 0], [0, 0, 0, 1.0]])


def _unique(name: str, taken: set[str]) -> str:
    out, k = name, 2
    while out in taken:
        out, k = f"{name} {k}", k + 1
    taken.add(out)
    return out
