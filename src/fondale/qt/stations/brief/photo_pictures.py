# SPDX-License-Identifier: MIT
"""Photographs as pictures that can be painted, decoded in the background."""

from collections.abc import Callable

import numpy as np
from PySide6.QtGui import QPixmap

from fondale.app.errands import PHOTO
from fondale.app.workers import Report
from fondale.core.model import Photo
from fondale.qt.furniture.seat_picture import to_image
from fondale.qt.session import Session


class PhotoPictures:
    """The pictures of the project's photographs, by their assets."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._shown: dict[str, QPixmap] = {}

    def keep(self, asset: str, shown: np.ndarray) -> None:
        """Keep the pixels (h, w, 3) of one that was just read."""
        self._shown[asset] = QPixmap.fromImage(to_image(shown))

    def of(self, photo: Photo, then: Callable[[], None]) -> QPixmap | None:
        """The picture of a photograph. None until it is decoded; ``then`` is called when it is."""
        data = self._session.document.assets.get(photo.asset)
        if data is None or photo.asset in self._shown or self._session.results.errands.doing(PHOTO):
            return self._shown.get(photo.asset)

        def show(report: Report) -> None:
            found = report.found if report.good else None
            if found is not None and found.picture is not None:
                self.keep(photo.asset, found.picture.shown)
            else:
                self._shown[photo.asset] = QPixmap(1, 1)  # it cannot be shown; it is not asked for again
            then()

        self._session.results.errands.ask(PHOTO, (photo.asset, data), show)
        return self._shown.get(photo.asset)
