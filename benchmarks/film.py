# SPDX-License-Identifier: MIT
"""A lamp of the demo that is dragged through its case, as a short moving picture for the README: ``film.py PATH``."""

import sys
import tempfile
from datetime import date
from io import BytesIO
from itertools import pairwise
from pathlib import Path

from PIL import Image
from PySide6.QtCore import QBuffer, QEvent, QIODevice, QPointF, Qt
from PySide6.QtGui import QMouseEvent, QPixmap
from PySide6.QtWidgets import QApplication, QWidget

from fondale.app.document import Document
from fondale.app.settings import Settings
from fondale.core.model import LAMPS
from fondale.demo import SAMPLES, SHORT, sample_assets
from fondale.instruments import simulated
from fondale.qt.application import make_window, settle
from fondale.qt.stations.lamps.lit_picture import LitPicture

DAY = date(2026, 11, 24)
LAMP, WAY = "post", ((0.0, 0.0), (-60.0, 10.0), (-150.0, 30.0), (-40.0, -10.0), (0.0, 0.0))  # corners of the way, in pixels from its place
STEPS, SHOWN_MS, WIDE = 7, 110, 720  # between two corners; of a picture; pixels


def _image(shot: QPixmap) -> Image.Image:
    kept = QBuffer()
    kept.open(QIODevice.OpenModeFlag.WriteOnly)
    shot.save(kept, "PNG")
    return Image.open(BytesIO(kept.data().data())).convert("RGB")


def _mouse(widget: QWidget, kind: QEvent.Type, at: QPointF) -> None:
    left = Qt.MouseButton.LeftButton
    QApplication.sendEvent(widget, QMouseEvent(kind, at, widget.mapToGlobal(at), left, left, Qt.KeyboardModifier.NoModifier))


def main() -> None:
    """Drag, and write what shows at each step."""
    app = QApplication.instance() or QApplication([])
    with tempfile.TemporaryDirectory() as home:
        window = make_window(
            Document(SAMPLES[SHORT["heron"]](DAY), assets=sample_assets(SHORT["heron"])), Settings(Path(home)), DAY, simulated(), Path(home)
        )
        window.resize(1100, 700)
        window.prompts.hide()
        window.show()
        window.session.results.refresh()
        window.light("down")
        window.visit("lamps")
        settle(window.session)
        view = window.stations["lamps"].findChild(LitPicture)
        assert view is not None
        lamp = window.session.project.find(LAMPS, LAMP)
        assert lamp is not None, [x.id for x in window.session.project.lamps]
        shots: list[Image.Image] = []
        start = view.project_point(lamp.x, lamp.y, lamp.z)
        assert start is not None
        _mouse(view, QEvent.Type.MouseButtonPress, start)
        settle(window.session)
        start = view.project_point(lamp.x, lamp.y, lamp.z) or start
        for (x0, y0), (x1, y1) in pairwise(WAY):
            for k in range(STEPS):
                share = (1 - (1 - 2 * k / STEPS) * abs(1 - 2 * k / STEPS)) / 2  # slowly off, slowly on
                _mouse(view, QEvent.Type.MouseMove, start + QPointF(x0 + (x1 - x0) * share, y0 + (y1 - y0) * share))
                settle(window.session)
                shots.append(_image(window.grab()))
        _mouse(view, QEvent.Type.MouseButtonRelease, start)
        high = round(shots[0].height * WIDE / shots[0].width)
        small = [shot.resize((WIDE, high), Image.Resampling.LANCZOS) for shot in shots]
        small[0].save(sys.argv[1], save_all=True, append_images=small[1:], duration=SHOWN_MS, loop=0, quality=70, method=6)
        window.shut()
    app.quit()


if __name__ == "__main__":
    main()
