# SPDX-License-Identifier: MIT
"""Furniture of a scene: each piece is one module here and one row of the table."""

from collections.abc import Callable

from fondale.core.model.shapes import Furniture
from fondale.core.shapes.furniture import (
    barrel,
    bed,
    bench,
    cart,
    chair,
    crate,
    cupboard,
    desk,
    door,
    fence,
    ladder,
    lamp_post,
    shelf,
    steps,
    stove,
    table,
    tree,
    window,
)
from fondale.core.shapes.kind import ShapeKind
from fondale.core.shapes.solid import Solid
from fondale.knowledge import table as rows

BUILDERS: dict[str, Callable[[float, float, float], Solid]] = {
    "bench": bench.build, "table": table.build, "chair": chair.build, "ladder": ladder.build, "barrel": barrel.build, "crate": crate.build,
    "fence": fence.build, "tree": tree.build, "lamp_post": lamp_post.build, "door": door.build, "window": window.build, "bed": bed.build, "cupboard": cupboard.build,
    "shelf": shelf.build, "stove": stove.build, "steps": steps.build, "cart": cart.build, "desk": desk.build,
}  # fmt: skip


class FurnitureKind(ShapeKind[Furniture]):
    """One row of the table; what a shape is stands in the shape."""

    model, scenery, hollow = Furniture, True, True
    axes = {"width": 0, "depth": 1, "height": 2}  # noqa: RUF012

    def __init__(self, what: str = "bench") -> None:
        self.what = what
        self.words = str(rows("furniture")[what]["words"])

    def new(self) -> Furniture:
        return self.at(35.0)

    def at(self, house_n: float) -> Furniture:
        w, d, h = (float(r) / house_n for r in rows("furniture")[self.what]["real"])
        return Furniture(what=self.what, width=round(w, 2), depth=round(d, 2), height=round(h, 2))

    def solid(self, shape: Furniture, height: float) -> Solid:
        build = BUILDERS.get(shape.what, BUILDERS["crate"])
        return build(shape.width, shape.depth, shape.height)

    def top(self, shape: Furniture, x: float, y: float) -> float | None:
        carries = float(rows("furniture").get(shape.what, {}).get("carries", 0.0))
        return shape.height * carries if carries and abs(x) <= shape.width / 2 and abs(y) <= shape.depth / 2 else None
