# SPDX-License-Identifier: MIT
"""Facts of the trade as data: every table names its source. The maker's own rows lie over them."""

import tomllib
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from typing import Any

Rows = Mapping[tuple[str, str], Mapping[str, dict[str, Any]]]  # by table and section, then by key

_own: Rows = {}
_merged: dict[str, dict[str, Any]] = {}


@cache
def shipped(name: str) -> dict[str, Any]:
    """The knowledge file ``name`` (without its ending) as nested dictionaries; do not change them."""
    return tomllib.loads((files(__name__) / f"{name}.toml").read_text("utf-8"))


def table(name: str) -> dict[str, Any]:
    """The knowledge file ``name`` with the maker's own rows in it; do not change it."""
    found = _merged.get(name)
    return found if found is not None else _merge(name)


def hold(own: Rows) -> None:
    """These are the maker's own rows from now on, in this process. A key stands for one content for good: who asks for it later finds it
    unknown or the same.
    """
    global _own
    if own != _own:
        _own = own
        _merged.clear()


def held() -> Rows:
    """The maker's own rows."""
    return _own


def _merge(name: str) -> dict[str, Any]:
    out = shipped(name)
    for (of, section), rows in _own.items():
        if of == name and rows:
            out = {**out, **rows} if not section else {**out, section: {**out[section], **rows}}
    _merged[name] = out
    return out
