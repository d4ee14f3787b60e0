# SPDX-License-Identifier: MIT
"""The base of every model: frozen, keeping fields that a newer version may have written; and the marks that fields bear."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime
from typing import Annotated, Any, Self

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, NaiveDatetime, StringConstraints

from fondale.core.limits import LARGEST_MM, NAME_MOST, SMALLEST
from fondale.core.troubles import printable


class Model(BaseModel):
    """Frozen; unknown fields survive a round trip; numbers must be finite. No copy gets round the limits of the fields."""

    # A greatest length has every text looked through for half characters too, which no file can hold.
    model_config = ConfigDict(frozen=True, extra="allow", allow_inf_nan=False, str_max_length=20_000)

    def but(self, **changes: Any) -> Self:
        """The same with other values in these fields. Raises ValidationError, and AttributeError for a field that is not there."""
        fields = type(self).model_fields
        for name in changes:
            if name not in fields:
                raise AttributeError(f"{type(self).__name__} has no field “{name}”")
        values = {name: getattr(self, name) for name in fields}
        return type(self).model_validate({**values, **(self.model_extra or {}), **changes})

    def model_copy(self, *, update: Any = None, deep: bool = False) -> Self:
        """As ``but``: the base's own copy would not look at what it is given."""
        return self.but(**update) if update else self


@dataclass(frozen=True)
class Names:
    """Marks a field that names a member of a list of the project by its id; an empty text names none.

    ``needed``: what names it cannot be without it, and goes when it goes.
    """

    listing: str
    needed: bool = False


@dataclass(frozen=True)
class Row:
    """Marks a field that names a row of a table of the knowledge; an empty text names none.

    ``places`` are (table, section) pairs in any of which it may stand; a function finds the section by the owner.
    """

    places: tuple[tuple[str, str | Callable[[Any], str]], ...]


def key_of(table: str, section: str | Callable[[Any], str] = "") -> Row:
    """The mark of a field that names a row of one section of a table."""
    return Row(((table, section),))


Id = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9_-]{0,63}$")]
OrNone = AfterValidator(lambda v: v if v >= SMALLEST else 0.0)  # 0 says nothing was told, and less than the smallest is nothing
Day = Annotated[date, Field(ge=date(1900, 1, 1), le=date(2200, 1, 1))]
Instant = Annotated[NaiveDatetime, Field(ge=datetime(1900, 1, 1), le=datetime(2200, 1, 1))]
# A name of nothing else becomes a mark: it was one.
_Printable = BeforeValidator(lambda v: (printable(v) or (v and "\ufffd")) if isinstance(v, str) else v)
Name = Annotated[str, StringConstraints(min_length=1, max_length=NAME_MOST, strip_whitespace=True), _Printable]
Text = Annotated[str, StringConstraints(max_length=20_000), _Printable]
Mm = Annotated[float, Field(ge=-LARGEST_MM, le=LARGEST_MM)]
PositiveMm = Annotated[float, Field(ge=SMALLEST, le=LARGEST_MM)]
Key = Annotated[str, StringConstraints(max_length=2_000), _Printable]
Share = Annotated[float, Field(ge=0, le=1)]
Rgb = tuple[Share, Share, Share]
CoatKey = Annotated[str, key_of("coats", "coat")]
MaterialKey = Annotated[str, key_of("materials", "material")]
ToolKey = Annotated[str, key_of("tools", "tool")]
PoseKey = Annotated[str, key_of("body", "poses")]
