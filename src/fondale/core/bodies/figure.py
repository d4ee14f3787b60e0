# SPDX-License-Identifier: MIT
"""A whole person: chain, head, hands, clothes, joined into one closed skin with smooth normals, each triangle with its part."""

from functools import lru_cache

import numpy as np

from fondale.core.arrays import Floats
from fondale.core.bodies.chain import Arm, Chain, posed
from fondale.core.bodies.cloth import Wearer
from fondale.core.bodies.garments import PLAIN, WORN, Grip, Grips
from fondale.core.bodies.garments.plain import neck_line
from fondale.core.bodies.hands import hand
from fondale.core.bodies.heads import head
from fondale.core.bodies.kept import Body, Wanted, kept
from fondale.core.bodies.measures import head_axes
from fondale.core.bodies.parts import EXTRA, FACE, SKIN, Part
from fondale.core.bodies.volumes import corner_normals, lathe, thinned, turned, unit
from fondale.knowledge import table

MOST_TRIS = 4000  # of a body
# Parts have this many together, less what the seams of each are expected to add; those of fewer than the last are left as they are.
_PARTS_TRIS, _SEAM_TRIS, _LEAST_TRIS = 3300, 26, 200
# How far a hand is turned from the handshake, degrees: palm down, or up where it carries.
_TURNS = {"flat": 80.0, "oar": 80.0, "carry": -35.0, "grip": 25.0, "reach": 60.0, "point": 60.0}
_HANGING = 20.0


def _hand_axes(arm: Arm) -> Floats:
    """Columns: the ways of the thumb, of the palm's face and along the hand."""
    along = arm.fore
    if arm.rests is not None:
        along, out = arm.rests
        palm = unit(along * (along @ out) - out)
        thumb = np.cross(palm, along) * arm.side
        return np.column_stack([thumb, palm, along])
    if arm.hand == "push":
        along = unit(arm.fore * 0.25 + np.array([0, 0, 1.0]))
        palm = unit(np.array([0, -1.0, 0]) + along * along[1])
        thumb = np.cross(palm, along)
        return np.column_stack([thumb if thumb[0] * arm.side < 0 else -thumb, palm, along])
    inner = np.array([-arm.side, 0, 0.0])
    palm = unit(inner - along * (inner @ along))
    thumb = np.cross(palm, along)
    thumb = thumb if thumb @ np.array([0, -1.0, 0.6]) > 0 else -thumb
    turn = _HANGING if along[2] < -0.8 else _TURNS.get(arm.hand, _HANGING)
    way = 1.0 if np.cross(thumb, palm) @ along > 0 else -1.0
    spin = turned(along, turn * way)
    return np.column_stack([spin @ thumb, spin @ palm, along])


def _joined(parts: list[Part], chain: Chain) -> Body:
    """One closed skin of many: what lies inside another goes."""
    import manifold3d as m3

    if chain.lying is not None:
        parts = [Part(p.code, p.points @ chain.lying.T, p.tris) for p in parts]
    floor = min(float(p.points[:, 2].min()) for p in parts if p.code != EXTRA)
    solids, codes = [], {}
    for code, points, tris in parts:
        both = np.hstack([points - [0, 0, floor], corner_normals(points, tris)])
        solid = m3.Manifold(m3.Mesh(np.ascontiguousarray(both, np.float32), np.ascontiguousarray(tris, np.uint32))).as_original()
        codes[solid.original_id()] = code
        solids.append(solid)
    mesh = m3.Manifold.batch_boolean(solids, m3.OpType.Add).to_mesh()
    vertices, corners = np.asarray(mesh.vert_properties, float), np.asarray(mesh.tri_verts, np.int64)
    part = np.zeros(len(corners), np.int64)
    runs = np.asarray(mesh.run_index) // 3
    for i, origin in enumerate(mesh.run_original_id):
        part[runs[i] : runs[i + 1]] = codes[origin]
    normals = vertices[:, 3:6] / (np.linalg.norm(vertices[:, 3:6], axis=1, keepdims=True) + 1e-12)
    normals = normals.astype(np.float32).astype(float)  # as it is kept, so that a body is the same whoever built it
    return Body(vertices[:, :3][corners], normals[corners], part)


def _light_enough(parts: list[Part], most: int) -> list[Part]:
    """At most about ``most`` triangles: clothes and what is carried have fewer the more there are; faces and hands keep theirs."""
    over = sum(len(p.tris) for p in parts) - most
    large = [p for p in parts if p.code not in (FACE, SKIN) and len(p.tris) >= _LEAST_TRIS]
    share = 1 - max(0, over) / sum(len(p.tris) for p in large)
    return [Part(p.code, *thinned(p.points, p.tris, int(len(p.tris) * share))) if any(p is q for q in large) else p for p in parts]


def _built(wanted: Wanted) -> Body:
    parts, chain = parts_of(*wanted)
    most = _PARTS_TRIS - _SEAM_TRIS * len(parts)
    while True:
        body = _joined(_light_enough(parts, most), chain)
        over = len(body.tris) - MOST_TRIS
        if over <= 0 or most < MOST_TRIS / 2:
            return body
        most -= over + 20


def parts_of(pose: str, person: str, extras: tuple[str, ...], heroic: bool, build: str) -> tuple[list[Part], Chain]:
    """The closed parts of a dressed person, not yet joined. Raises PoseError."""
    worn = [WORN[e] for e in extras if e in WORN]
    holds = {i: arm for garment in worn for i, arm in garment.holds.items()}
    stout = float(table("body")["stocky"]["thick"]) if build == "stocky" else 1.0
    chain = posed(pose, person, heroic, stout, holds)
    who = table("body")["people"][person]
    w = Wearer(chain, person, stout, any(g.tucks for g in worn), any(g.skirts for g in worn))
    axes = head_axes(chain)
    parts = [p.placed(axes, chain.low, chain.head) for p in head(float(who["youth"]), w.woman, who["hair"])]
    root, top = neck_line(w)
    long, r = float(np.linalg.norm(top - root)), w.neck
    parts.append(
        Part(SKIN, *lathe(root, top - root, [(-0.004, 0.0), (0.0, r * 1.16), (long * 0.45, r), (long, r * 0.98), (long + 0.01, 0.0)], 14))
    )
    grips = []
    for arm in chain.arms:
        own = _hand_axes(arm)
        parts.append(hand(arm.hand).placed(own, arm.wrist - arm.fore * 0.004, chain.hand))
        thumb, palm, along = own.T
        grips.append(Grip(arm.wrist + along * (chain.hand * 0.55) + palm * (chain.hand * 0.165), thumb, palm, along))
    pair: Grips = (grips[0], grips[1])
    instead = frozenset().union(*(g.instead for g in worn))
    for garment in [*(g for key, g in PLAIN.items() if key not in instead), *worn]:
        parts += garment.make(w, pair)
    return parts, chain


@lru_cache(maxsize=128)
def figure(pose: str, person: str = "man", extras: tuple[str, ...] = (), heroic: bool = False, build: str = "plain") -> Body:
    """The body of a person in a pose, with what is worn. Takes a tenth of a second; kept. Raises PoseError."""
    wanted = (pose, person, extras, heroic, build)
    return kept(("person", *wanted), lambda: _built(wanted))
