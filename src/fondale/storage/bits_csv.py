# SPDX-License-Identifier: MIT
"""The bits box as a table: one row a bit, the header names the columns, separators and decimal signs as they come."""

import csv
import io
import itertools
import re
from dataclasses import dataclass
from pathlib import Path
from typing import get_args

from fondale.core.bits.search import ROUND_ONES
from fondale.core.edits import new_id
from fondale.core.lengths import LengthError, parse_length, parse_scale
from fondale.core.materials import materials_by_name
from fondale.core.model import Bit
from fondale.core.model.bench import Outline
from fondale.core.spreadsheets import PLAIN, Signs, table_text
from fondale.core.troubles import Trouble
from fondale.core.words import uncell
from fondale.storage.disk import ordinary
from fondale.storage.limits import TABLE_BYTES, TABLE_ROWS
from fondale.storage.patience import patience
from fondale.storage.unfolded import Endless

COLUMNS = ("name", "outline", "size 1", "size 2", "size 3", "scale", "material", "source", "drawer", "count", "state", "note", "id")
_PLAIN, _COMMA = re.compile(r"\d+\.\d+"), re.compile(r"\d+,\d+")


class TableTrouble(Trouble):
    """A table that holds no bits; the text says what is expected."""


@dataclass(frozen=True)
class Table:
    """The bits that could be read, the id that each row names itself, and what is wrong with the other rows, by line."""

    bits: tuple[Bit, ...]
    ids: tuple[str, ...]
    troubles: tuple[str, ...]


def write_bits(bits: tuple[Bit, ...], signs: Signs = PLAIN) -> str:
    """The box as CSV: sizes in mm."""
    rows = [COLUMNS]
    for b in bits:
        sizes = [_told(s, signs) for s in b.sizes] + [""] * (3 - len(b.sizes))
        scale = f"1:{b.native_n:g}" if b.native_n else ""
        rows.append((b.name, b.outline, *sizes, scale, b.material, b.source, b.drawer, str(b.count), b.state, b.note, b.id))  # type: ignore[arg-type]
    return table_text(rows, signs, "\n")


def _told(size: float, signs: Signs) -> str:
    """A size; with a comma never in three places, which could be thousands."""
    text = f"{size:g}"
    return text + "0" if signs.decimal != "." and len(text.partition(".")[2]) == 3 else text


def read_table(path: Path, taken: tuple[str, ...] = ()) -> Table:
    """Bits of a CSV file as spreadsheets write it: UTF-8, UTF-16 with its mark, or Western European. Raises TableTrouble."""
    try:
        ordinary(path, TABLE_BYTES)
        data = path.read_bytes()
    except OSError as error:
        raise TableTrouble(f"“{path.name}” cannot be read: {error.strerror or error}.") from error
    try:
        with patience():
            return read_bits(_decoded(data), taken)
    except Endless as error:
        raise TableTrouble(f"“{path.name}” cannot be read: {error}.") from error


def _decoded(data: bytes) -> str:
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", errors="replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")


def read_bits(text: str, taken: tuple[str, ...] = ()) -> Table:
    """Bits of a CSV table. Rows that cannot be read are told by line and left out; nothing else is lost. Raises TableTrouble."""
    text = text.lstrip("\ufeff").replace("\0", "").replace("\r\n", "\n").replace("\r", "\n")
    if not text.strip():
        raise TableTrouble("The table is empty.")
    head = text[: text.find("\n")] if "\n" in text else text
    separator = max(",;\t", key=head.count)
    try:
        rows = list(itertools.islice(csv.reader(io.StringIO(text), delimiter=separator), TABLE_ROWS + 2))
    except csv.Error as error:
        raise TableTrouble(f"The table cannot be read: {error}.") from error
    names = [c.strip().lower() for c in rows[0]]
    if "name" not in names or "size 1" not in names:
        raise TableTrouble(f"The first line must name the columns: {', '.join(COLUMNS)}. At least name and size 1.")
    bits: list[Bit] = []
    ids: list[str] = []
    troubles: list[str] = []
    used = set(taken)
    for number, row in enumerate(rows[1 : TABLE_ROWS + 1], 2):
        if not any(c.strip() for c in row):
            continue
        cells = dict(zip(names, (uncell(c.strip()) for c in row), strict=False))
        try:
            bit = _bit(cells, separator, new_id(cells.get("name", "") or "bit", used))
        except (LengthError, ValueError) as error:
            troubles.append(f"Line {number}: {_short(error)}")
            continue
        used.add(bit.id)
        bits.append(bit)
        ids.append(cells.get("id", ""))
    if len(rows) > TABLE_ROWS + 1:
        troubles.append(f"Only the first {TABLE_ROWS} rows were read.")
    return Table(tuple(bits), tuple(ids), tuple(troubles))


def _short(error: Exception) -> str:
    text = str(error)
    if "validation error" in text:
        return text.splitlines()[1] + ": " + text.splitlines()[2].strip().split(" [")[0]
    return text


def _size(text: str, separator: str) -> float:
    """A size in mm: in a table a plain number with a point is what a program wrote, and no thousand; so is one with a comma, where commas part
    no cells.
    """
    if separator != "," and _COMMA.fullmatch(text):
        return float(text.replace(",", "."))
    return float(text) if _PLAIN.fullmatch(text) else parse_length(text)


def _bit(cells: dict[str, str], separator: str, ident: str) -> Bit:
    name = cells.get("name", "")
    if not name:
        raise LengthError("the name is missing.")
    sizes = tuple(_size(cells[k], separator) for k in ("size 1", "size 2", "size 3") if cells.get(k))
    if not sizes:
        raise LengthError("size 1 is missing.")
    outline = cells.get("outline", "").lower() or "box"
    if outline not in get_args(Outline):
        raise LengthError(f"“{outline}” is no outline: {', '.join(get_args(Outline))}.")
    material = cells.get("material", "").lower() or "styrene"
    known = {called.lower(): key for key, name in materials_by_name() for called in (key, name)}
    if material not in known:
        raise LengthError(f"“{material}” is no material: {', '.join(key for key, _name in materials_by_name())}.")
    if len(sizes) == 1:
        sizes = (sizes[0], sizes[0])
    if outline in ROUND_ONES:
        sizes = sizes[:2]
    scale = cells.get("scale", "")
    count = cells.get("count", "") or "1"
    if not count.isdigit() or len(count) > 6:
        raise LengthError(f"“{count}” is no count.")
    return Bit(
        id=ident, name=name, outline=outline, sizes=sizes, native_n=parse_scale(scale) if scale else 0.0, material=known[material],  # type: ignore[arg-type]
        source=cells.get("source", ""), drawer=cells.get("drawer", ""), count=int(count), state=cells.get("state", "") or "in the box",  # type: ignore[arg-type]
        note=cells.get("note", ""),
    )  # fmt: skip
