# SPDX-License-Identifier: MIT
"""Boots to half way up the shank, over the trousers."""

from fondale.core.bodies.chain import TOES_BENT
from fondale.core.bodies.cloth import Wearer, X, skin_of
from fondale.core.bodies.garments.garment import Garment, Grips
from fondale.core.bodies.garments.plain import foot_axes
from fondale.core.bodies.hands import shoe
from fondale.core.bodies.parts import SHOES, Part
from fondale.core.bodies.volumes import Blend, Tube
from fondale.knowledge import table


def _boots(w: Wearer, _grips: Grips) -> list[Part]:
    out, shank, k = [], w.seg["shank"], w.thick("shanks")
    size = w.seg["foot_length"] * (1.0 if w.woman else 1.03)
    for leg in w.chain.legs:
        out.append(shoe(TOES_BENT.get(leg.contact, 0.0)).placed(foot_axes(leg), leg.ankle, size))
        rows = [(s * shank, a * k + 0.0110, b * k + 0.0110, 0, ahead) for s, a, b, ahead in table("body")["limb"]["shank"] if s > 0.5]
        top = (rows[0][0] - 0.006, rows[0][1] + 0.004, rows[0][2] + 0.004, 0, rows[0][4])
        out.append(skin_of(SHOES, [Blend(Tube(leg.knee, leg.shank, X, [top, *rows], (0.004, 0.010)))], 130))
    return out


BOOTS = Garment("boots", _boots, frozenset({"shoes"}), tucks=True)
