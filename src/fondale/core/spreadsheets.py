# SPDX-License-Identifier: MIT
"""Tables as spreadsheets read them [rfc4180]: with a point and commas, or with the signs of the desktop."""

import csv
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from io import StringIO

from fondale.core.words import cell

_NUMBERS = re.compile(r"-?\d+(?:\.\d+)?(?: x -?\d+(?:\.\d+)?)*")


@dataclass(frozen=True)
class Signs:
    """What stands in a number, what stands between cells, and whether the text begins with the mark by which spreadsheets know UTF-8."""

    decimal: str = "."
    between: str = ","
    mark: bool = False


PLAIN = Signs()


def desktop_signs(decimal: str) -> Signs:
    """What spreadsheets on a desktop with this decimal sign expect."""
    return Signs(decimal, ";" if decimal == "," else ",", True)


def table_text(rows: Iterable[Sequence[str]], signs: Signs = PLAIN, end: str = "\r\n") -> str:
    """Rows of cells as CSV; what a spreadsheet would take for a formula gets a mark before it."""
    out = StringIO()
    table = csv.writer(out, delimiter=signs.between, lineterminator=end)
    table.writerows([_told(cell(c), signs.decimal) for c in row] for row in rows)
    return ("\ufeff" if signs.mark else "") + out.getvalue()


def _told(text: str, decimal: str) -> str:
    return text.replace(".", decimal) if decimal != "." and _NUMBERS.fullmatch(text) else text
