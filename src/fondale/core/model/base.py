"""The base of every model: frozen, and keeping fields that a newer version may have written."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints


class Model(BaseModel):
    """Frozen; unknown fields survive a round trip; numbers must be finite."""

    model_config = ConfigDict(frozen=True, extra="allow", allow_inf_nan=False)


Id = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9_-]{0,63}$")]
NAME_MOST = 120
LARGEST_MM = 100_000.0
Name = Annotated[str, StringConstraints(min_length=1, max_length=NAME_MOST, strip_whitespace=True)]
Text = Annotated[str, StringConstraints(max_length=20_000)]
Mm = Annotated[float, Field(ge=-LARGEST_MM, le=LARGEST_MM)]
PositiveMm = Annotated[float, Field(gt=0, le=LARGEST_MM)]
Share = Annotated[float, Field(ge=0, le=1)]
Rgb = tuple[Share, Share, Share]
