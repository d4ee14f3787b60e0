# SPDX-License-Identifier: MIT
"""The bodies of the demo's print shop, made in code. Their files lie in ``assets``; ``benchmarks/demo_files.py`` writes them anew."""

from typing import Any

import numpy as np

from fondale.core.bodies.figure import figure
from fondale.core.bodies.measures import measures
from fondale.core.prints.body import Body

BOY_MM = 39.4  # as the maker measured the print


def _solid(tris: np.ndarray) -> Any:
    """The union of the closed shells among triangles (k, 3, 3)."""
    import manifold3d
    import trimesh

    flat = np.asarray(tris, float).reshape(-1, 3)
    soup = trimesh.Trimesh(flat, np.arange(len(flat)).reshape(-1, 3))
    soup.merge_vertices()
    whole = manifold3d.Manifold()
    for shell in soup.split(only_watertight=True):
        mesh = manifold3d.Mesh64(
            np.ascontiguousarray(np.array(shell.vertices), np.float64), np.ascontiguousarray(np.array(shell.faces), np.uint64)
        )
        whole += manifold3d.Manifold(mesh)
    return whole


def _body(solid: Any) -> Body:
    mesh = solid.to_mesh64()
    return Body(np.array(np.asarray(mesh.vert_properties)[:, :3], order="C"), np.array(mesh.tri_verts, np.int64, order="C"))


def boy() -> Body:
    """A boy kneeling over a creel, 39.4 mm from floor to cap."""
    import manifold3d as m3

    crown = measures("kneeling_one", "boy_12").crown
    body = _solid(figure("kneeling_one", "boy_12", ("cap", "shorts")).tris * (BOY_MM / crown))
    creel = m3.Manifold.cylinder(8.5, 5.2, 6.4, 24) - m3.Manifold.cylinder(8.5, 4.2, 5.4, 24).translate([0, 0, 1.2])
    return _body(body + creel.translate([12.0, -9.0, 0]))


def crate() -> Body:
    """A crate of slats, of the same set: 0.60 m wide at the boy’s scale."""
    import manifold3d as m3

    w, d, h, t = 21.1, 14.0, 15.8, 1.2
    out = m3.Manifold.cube([w, d, t]) + m3.Manifold.cube([t, d, h]) + m3.Manifold.cube([t, d, h]).translate([w - t, 0, 0])
    for k in range(4):
        z = 1.6 + k * 3.7
        for y in (0.0, d - t):
            out += m3.Manifold.cube([w, t, 2.8]).translate([0, y, z])
    for x in (0.0, w - 2.2):
        for y in (0.0, d - 2.2):
            out += m3.Manifold.cube([2.2, 2.2, h]).translate([x, y, 0])
    return _body(out)


def crane() -> Body:
    """The quay crane at 1:35: a tub, a post and a jib, 214 mm tall."""
    import manifold3d as m3

    tub = m3.Manifold.cylinder(46, 34, 30, 48)
    rim = m3.Manifold.cylinder(5, 38, 38, 48)
    post = m3.Manifold.cylinder(150, 11, 7, 32).translate([0, 0, 44])
    house = m3.Manifold.cube([52, 40, 44]).translate([-38, -20, 50])
    roof = m3.Manifold.cube([60, 46, 4]).translate([-42, -23, 94])
    jib = m3.Manifold.cube([150, 9, 9]).translate([0, -4.5, -4.5]).rotate([0, -42, 0]).translate([6, 0, 100])
    brace = m3.Manifold.cube([96, 5, 5]).translate([0, -2.5, -2.5]).rotate([0, -14, 0]).translate([0, 0, 180])
    head = m3.Manifold.cylinder(12, 9, 9, 24).rotate([90, 0, 0]).translate([114, 6, 202])
    return _body(tub + rim + post + house + roof + jib + brace + head)


BODIES = {"boy-with-creel.stl": boy, "landing-crate.stl": crate, "quay-crane.stl": crane}
