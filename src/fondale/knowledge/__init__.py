"""Facts of the trade as data: every table names its source."""

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any


@cache
def table(name: str) -> dict[str, Any]:
    """The knowledge file ``name`` (without its ending) as nested dictionaries; do not change them."""
    return tomllib.loads((files(__name__) / f"{name}.toml").read_text("utf-8"))
