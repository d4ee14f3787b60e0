# SPDX-License-Identifier: MIT
"""Everything that can be worn or carried, by the key that a project keeps. A new one: its entry in a module here, and its line below."""

from fondale.core.bodies.garments.boots import BOOTS
from fondale.core.bodies.garments.carried import LANTERN, PACK, UMBRELLA
from fondale.core.bodies.garments.coats import COAT, LONG_COAT
from fondale.core.bodies.garments.garment import Garment, Grip, Grips
from fondale.core.bodies.garments.hats import CAP, HAT, HELMET
from fondale.core.bodies.garments.plain import SHIRT_ON, SHOES_ON, SHORTS, TROUSERS_ON
from fondale.core.bodies.garments.skirts import APRON, SKIRT

__all__ = ["PLAIN", "WORN", "Garment", "Grip", "Grips"]

PLAIN: dict[str, Garment] = {"shirt": SHIRT_ON, "trousers": TROUSERS_ON, "shoes": SHOES_ON}
WORN: dict[str, Garment] = {
    "coat": COAT, "long coat": LONG_COAT, "skirt": SKIRT, "shorts": SHORTS, "apron": APRON, "boots": BOOTS,
    "cap": CAP, "hat": HAT, "helmet": HELMET, "pack": PACK, "umbrella": UMBRELLA, "lantern": LANTERN,
}  # fmt: skip
