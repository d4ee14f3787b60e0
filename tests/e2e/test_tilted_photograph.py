# SPDX-License-Identifier: MIT
"""A photograph taken by hand: the demo's quay by a camera that is tilted and rolled, brought into the window and read there.

The camera turns about its own eye, which moves every pixel of the known picture by K R K^-1 ([hartley2004], 8.4); everything is then set with the mouse,
to a pixel of the screen.
"""

import io
import math

import numpy as np
import pytest
from PIL import Image

from fondale.core.derived import PHOTO_READINGS
from fondale.core.light.frames import front_window
from fondale.demo.landing_photo import eye, on_wall, photograph, pixel, scene_project
from tests.qt.conftest import answers, desk  # noqa: F401

WIDE, HIGH = 1600, 1200
# What was built, in real millimetres: both ends in the scene, where it lies, and how long it is.
MAN = ((150, 170, 0), (150, 170, 175.3))
THINGS = {
    "bollard": (((60, 47, 0), (60, 47, 55)), 550),
    "post": (((20, 260, 0), (20, 260, 290)), 2900),
    "drum": (((235, 215, 0), (235, 215, 88)), 880),
}


def tilted(pitch: float, roll: float):
    """The picture by the turned camera, and where it sees a point of the scene."""
    data, *_size = photograph()
    x0, x1, _z0, z1 = front_window(scene_project().case)
    k = Image.open(io.BytesIO(data)).width / (x1 - x0)
    at = eye()
    f = -at[1] * k
    old = np.array([[f, 0, (at[0] - x0) * k], [0, f, (z1 - at[2]) * k], [0, 0, 1]])
    p, r = math.radians(pitch), math.radians(roll)
    nod = np.array([[1, 0, 0], [0, math.cos(p), -math.sin(p)], [0, math.sin(p), math.cos(p)]])
    turn = np.array([[math.cos(r), -math.sin(r), 0], [math.sin(r), math.cos(r), 0], [0, 0, 1]])
    new = np.array([[f, 0, WIDE / 2], [0, f, HIGH / 2], [0, 0, 1]])
    h = new @ turn @ nod @ np.linalg.inv(old)
    back = np.linalg.inv(h)
    back /= back[2, 2]
    image = (
        Image.open(io.BytesIO(data))
        .convert("RGB")
        .transform((WIDE, HIGH), Image.Transform.PERSPECTIVE, back.ravel()[:8], Image.Resampling.BICUBIC)
    )

    def seen(point):
        q = h @ [*pixel(point), 1.0]
        return float(q[0] / q[2]), float(q[1] / q[2])

    down = turn @ nod @ np.array([0, 1.0, 0])
    horizon = [(-down[2] * f - down[0] * (x - WIDE / 2)) / down[1] + HIGH / 2 for x in (0.0, float(WIDE))]
    return image, seen, horizon, f / math.hypot(WIDE, HIGH) * 43.27


@pytest.mark.parametrize(("pitch", "roll", "told"), [(9.0, 2.0, True), (-6.0, -3.0, True), (12.0, 1.0, False)])
def test_what_is_read_in_the_window_holds_the_truth(desk, empty, tmp_path, pitch, roll, told):  # noqa: F811
    image, seen, horizon, f35 = tilted(pitch, roll)
    exif = Image.Exif()
    if told:
        exif.get_ifd(0x8769)[0xA405] = round(f35)
    image.save(tmp_path / "quay.jpg", quality=95, exif=exif)
    d = desk(empty, width=1280, height=800)
    brief = d.station("brief")
    brief.turn_to("Photographs")
    page = brief.page
    page.bring(str(tmp_path / "quay.jpg"))
    d.settle()
    (photo,) = d.project.photos
    assert (photo.f35_mm == pytest.approx(f35, abs=0.6)) if told else photo.f35_mm == 0
    view = page.view

    def stretch(tool, a, b, name):
        page._take_tool(tool)
        d.drag(view, view.to_screen(a), view.to_screen(b))
        if tool not in ("horizon", "frame"):
            d.type(page.name.edit, name)

    assert "Nothing" not in page._assumed.text()
    d.click(page.tools["horizon"])
    slope = (horizon[1] - horizon[0]) / WIDE
    stretch("horizon", (200, horizon[0] + 200 * slope), (1400, horizon[0] + 1400 * slope), "")
    stretch("upright", seen(on_wall(120, 0)), seen(on_wall(120, 203)), "Jamb")
    stretch("upright", seen((20, 260, 70)), seen((20, 260, 230)), "Post edge")
    stretch("ground", seen(MAN[0]), seen(MAN[1]), "Man")
    d.type(page.known.edit, "1.753 m ± 3 %")
    for name, (ends, _real) in THINGS.items():
        stretch("ground", seen(ends[0]), seen(ends[1]), name.capitalize())
    d.settle("quick")
    photo = d.project.photos[0]
    assert all(t.hand_px > 1.0 for t in photo.threads)  # the picture is shown smaller than it is
    found = d.session.results[PHOTO_READINGS][photo.id]
    names = {t.name.lower(): t.id for t in photo.threads}
    for name, (_ends, real) in THINGS.items():
        reading = found[names[name]]
        assert reading.real_mm is not None, (name, reading.trouble)
        assert abs(reading.real_mm - real) <= 1.645 * reading.give_mm, (name, reading)
        assert reading.real_mm == pytest.approx(real, rel=0.08)
    assert "Tilted" in page._assumed.text()
