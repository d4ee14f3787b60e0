# SPDX-License-Identifier: MIT
"""Words in any script on paper: what the shipped faces lack comes from a wider one, from the readers' own Asian faces, or from the system; what is
read from the right is joined and turned.
"""

import os
import sys
import unicodedata
from collections.abc import Iterator
from functools import cache, lru_cache
from importlib.resources import files
from io import BytesIO
from itertools import groupby
from pathlib import Path
from xml.sax.saxutils import escape

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.cidfonts import UnicodeCIDFont
from reportlab.pdfbase.ttfonts import TTFError, TTFont

FACES = {"Plex": "IBMPlexSans_400Regular", "PlexBold": "IBMPlexSans_600SemiBold", "Display": "Fraunces_600SemiBold"}
WIDE = "Wide"
# Faces that readers of PDF bring themselves, by what is written with them.
ASIAN = (("HANGUL", "HYSMyeongJo-Medium"), ("HIRAGANA", "HeiseiMin-W3"), ("KATAKANA", "HeiseiMin-W3"), ("CJK", "STSong-Light"))
FOLDERS = ("/usr/share/fonts", "/usr/local/share/fonts", "~/.local/share/fonts", "~/.fonts")
MOST_FILES = 2_000


def register() -> None:
    """Make the shipped faces known to the PDF library."""
    theme, own = files("fondale") / "qt" / "theme" / "fonts", files("fondale") / "papers" / "fonts"
    for name, file in (*((n, theme / f"{f}.ttf") for n, f in FACES.items()), (WIDE, own / "DejaVuSans.ttf")):
        if name not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(name, BytesIO(file.read_bytes())))


def runs(text: str, face: str) -> list[tuple[str, str]]:
    """The text in the order in which it is set, part by part with the face that has its letters; ``face`` wherever it does."""
    seen = _from_the_right(text)
    out: list[tuple[str, str]] = []
    for found, letters in groupby(seen, lambda c: _face_of(c, face)):
        out.append((found, "".join(letters)))
    return out


def marked_up(text: str, face: str) -> str:
    """The text for a paragraph of the PDF library, other faces named where they are needed."""
    return "".join(escape(part) if found == face else f'<font name="{found}">{escape(part)}</font>' for found, part in runs(text, face))


def width(text: str, face: str, size: float) -> float:
    """How wide a line is, in points."""
    return float(sum(pdfmetrics.stringWidth(part, found, size) for found, part in runs(text, face)))


def _has(face: str, letter: str) -> bool:
    font = pdfmetrics.getFont(face)
    return ord(letter) in font.face.charToGlyph if isinstance(font, TTFont) else True


@lru_cache(maxsize=4096)
def _face_of(letter: str, face: str) -> str:
    """The first face that has a letter; the given one where none has."""
    if letter.isspace() or unicodedata.category(letter) in ("Cf", "Cc") or _has(face, letter):
        return face
    if _has(WIDE, letter):
        return WIDE
    name = unicodedata.name(letter, "")
    for word, asian in ASIAN:
        if word in name or (word == "CJK" and unicodedata.east_asian_width(letter) in ("W", "F") and not _is_pictorial(letter)):
            if asian not in pdfmetrics.getRegisteredFontNames():
                pdfmetrics.registerFont(UnicodeCIDFont(asian))
            return asian
    return _of_the_system(letter) or face


def _is_pictorial(letter: str) -> bool:
    return unicodedata.category(letter) == "So"


def _of_the_system(letter: str) -> str:
    """The name of a face of the system that has a letter, or nothing. Only outlines that a PDF can hold are asked."""
    for path in _system_files():
        if ord(letter) in _letters_of(path):
            name = f"System {path.stem}"
            try:
                if name not in pdfmetrics.getRegisteredFontNames():
                    pdfmetrics.registerFont(TTFont(name, str(path)))
            except (TTFError, OSError, ValueError):
                continue
            return name
    return ""


@cache
def _system_files() -> tuple[Path, ...]:
    roots = [Path(f).expanduser() for f in FOLDERS] if sys.platform != "win32" else [Path(os.environ.get("WINDIR", "C:/Windows")) / "Fonts"]
    found = (p for root in roots if root.is_dir() for p in sorted(root.rglob("*.ttf")))
    return tuple(p for p, _k in zip(found, range(MOST_FILES), strict=False))


@cache
def _letters_of(path: Path) -> frozenset[int]:
    from fontTools.ttLib import TTFont as File
    from fontTools.ttLib import TTLibError

    try:
        with File(path, lazy=True) as file:
            return frozenset(file.getBestCmap() or ())
    except (TTLibError, OSError, KeyError, ValueError, AssertionError):
        return frozenset()


def _from_the_right(text: str) -> str:
    """Letters that are read from the right, joined as their script joins them and in the order in which they are set; all others as they stand."""
    if not any(unicodedata.bidirectional(c) in ("R", "AL") for c in text):
        return text
    return "".join(_turned(part) if right else part for right, part in _parts(text))


def _parts(text: str) -> Iterator[tuple[bool, str]]:
    """The text in parts that are read from the right, with what lies between their words, and others."""
    strong = [unicodedata.bidirectional(c) for c in text]
    right = [s in ("R", "AL", "NSM", "AN") for s in strong]
    last = -1
    for k, is_right in enumerate(right):
        if is_right:
            if last >= 0 and all(s in ("WS", "ON", "CS", "ES", "EN", "ET") for s in strong[last + 1 : k]):
                right[last + 1 : k] = [True] * (k - last - 1)
            last = k
    for is_right, letters in groupby(zip(right, text, strict=True), lambda pair: pair[0]):
        yield is_right, "".join(c for _r, c in letters)


def _turned(text: str) -> str:
    import arabic_reshaper
    from bidi.algorithm import get_display

    return str(get_display(arabic_reshaper.reshape(text)))
