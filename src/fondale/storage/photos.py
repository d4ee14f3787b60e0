# SPDX-License-Identifier: MIT
"""Photographs in and for show: PNG, JPEG, WebP, TIFF; turned upright by their EXIF; originals are kept as they came."""

import io
import re
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fondale.core.troubles import Trouble
from fondale.storage.disk import ordinary
from fondale.storage.limits import PHOTO_BYTES, PHOTO_CLEAR_PIXELS, PHOTO_PIXELS, PHOTO_ROUNDS, PHOTO_ROUNDS_PIXELS, PHOTO_WEBP_PIXELS
from fondale.storage.patience import hushed, patience
from fondale.storage.unfolded import Endless

ENDINGS = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff")
FORMATS = ("PNG", "JPEG", "WEBP", "TIFF")
SHOWN_PX = 2000


class PhotoTrouble(Trouble):
    """A picture that cannot be read; the text says what is wrong and what to do."""


@dataclass(frozen=True)
class Picture:
    """The original bytes, the upright size in pixels, a picture for show no longer than SHOWN_PX as (height, width, 3), and the focal length of the
    lens as a 35 mm equivalent, where the file tells it (0: not).
    """

    data: bytes
    ending: str
    width: int
    height: int
    shown: NDArray[np.uint8]
    f35_mm: float = 0.0


def read_picture(path: Path) -> Picture:
    """Read a picture file. Raises PhotoTrouble in words for anything that is wrong with it."""
    name, ending = f"“{path.name}”", path.suffix.lower()
    if ending not in ENDINGS:
        raise PhotoTrouble(f"{name} is no picture that Fondale reads. It reads PNG, JPEG, WebP and TIFF.")
    try:
        ordinary(path, PHOTO_BYTES)
        data = path.read_bytes()
    except OSError as error:
        raise PhotoTrouble(f"{name} cannot be read: {error.strerror or error}.") from error
    return parse_picture(data, ending, name)


def parse_picture(data: bytes, ending: str, name: str = "The picture", longest: int = SHOWN_PX) -> Picture:
    """A picture from the bytes of a file. Raises PhotoTrouble."""
    from PIL import Image, ImageOps, UnidentifiedImageError

    if not data:
        raise PhotoTrouble(f"{name} is empty.")
    try:
        with patience(), hushed(), warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of large pictures: they are limited here, in words
            image: Any = _opened(data, name)
            f35 = _lens(image)
            turned = image.getexif().get(0x0112, 1) in (5, 6, 7, 8)
            width, height = (image.height, image.width) if turned else (image.width, image.height)
            image.draft("RGB", (longest, longest))
            image.thumbnail((longest, longest), reducing_gap=2.0)
            image = ImageOps.exif_transpose(image)
            shown = np.asarray(_flat(image), np.uint8)
    except PhotoTrouble:
        raise
    except Endless as error:
        raise PhotoTrouble(f"{name} cannot be read: {error}.") from error
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError, EOFError, MemoryError) as error:
        raise PhotoTrouble(f"{name} is damaged, or no picture: {re.sub(' ?<.*?>', '', str(error))[:100]}. Save it again.") from error
    except Exception as error:  # decoders meet any kind of damage; the maker hears it in words
        raise PhotoTrouble(f"{name} is damaged: {type(error).__name__}. Save it again.") from error
    return Picture(data, ending, width, height, shown, f35)


def _lens(image: Any) -> float:
    """The 35 mm equivalent that a file tells (EXIF 41989), or 0."""
    try:
        found = float(image.getexif().get_ifd(0x8769).get(0xA405, 0))
    except (TypeError, ValueError, OverflowError, ZeroDivisionError):
        return 0.0
    return found if 5 <= found <= 2000 else 0.0


def _opened(data: bytes, name: str) -> Any:
    from PIL import Image

    limit, Image.MAX_IMAGE_PIXELS = Image.MAX_IMAGE_PIXELS, None
    try:
        image = Image.open(io.BytesIO(data), formats=FORMATS)
    finally:
        Image.MAX_IMAGE_PIXELS = limit
    drawn_in_rounds = "progression" in image.info
    clear = image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info
    most = (
        PHOTO_WEBP_PIXELS
        if image.format == "WEBP"
        else PHOTO_CLEAR_PIXELS
        if clear
        else PHOTO_ROUNDS_PIXELS
        if drawn_in_rounds
        else PHOTO_PIXELS
    )
    if image.width * image.height > most:
        raise PhotoTrouble(f"{name} has {image.width} × {image.height} pixels. Save it smaller: {most // 1_000_000} million do.")
    if drawn_in_rounds and (rounds := data.count(b"\xff\xda")) > PHOTO_ROUNDS:
        raise PhotoTrouble(f"{name} is drawn in {rounds} rounds, and {PHOTO_ROUNDS} are the most. Save it again, as a plain JPEG.")
    return image


def _flat(image: Any) -> Any:
    """RGB on white, whatever it was: grey, palette, sixteen bits, with transparency."""
    from PIL import Image

    if image.mode in ("I;16", "I", "F"):
        low, high = image.getextrema()
        span = (high - low) or 1
        image = image.convert("F").point(lambda v: (v - low) * (255.0 / span)).convert("L")
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        rgba = image.convert("RGBA")
        white = Image.new("RGBA", rgba.size, (255, 255, 255, 255))
        return Image.alpha_composite(white, rgba).convert("RGB")
    return image.convert("RGB")
