# SPDX-License-Identifier: MIT
"""Bodies as solids of [manifold], and back."""

from typing import Any

import numpy as np

from fondale.core.prints.body import Body, BodyError


def to_manifold(body: Body) -> Any:
    """The solid of a closed body. Raises BodyError for one that is not closed."""
    import manifold3d

    mesh = manifold3d.Mesh64(np.ascontiguousarray(body.vertices, np.float64), np.ascontiguousarray(body.faces, np.uint64))
    solid = manifold3d.Manifold(mesh)
    if solid.status() != manifold3d.Error.NoError or solid.is_empty():
        raise BodyError("The body is not closed, so it cannot be cut. Repair it in the program that made it, or print it whole.")
    return solid


def from_manifold(solid: Any) -> Body:
    """The body of a solid."""
    mesh = solid.to_mesh64()
    return Body(np.array(np.asarray(mesh.vert_properties)[:, :3], order="C"), np.array(mesh.tri_verts, np.int64, order="C"))
