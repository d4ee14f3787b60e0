# SPDX-License-Identifier: MIT
"""What is declared is what is there: errors in the maker's words share one base, every setting is read somewhere."""

import importlib
import inspect
import pkgutil
import re
from pathlib import Path

import fondale
from fondale.app.settings import SETTINGS
from fondale.core import edits
from fondale.core.model.marks import Needed
from fondale.core.model.spots import Gone
from fondale.core.order.place import TooLate
from fondale.core.progress import Cancelled
from fondale.core.reckoning import NotKnown
from fondale.core.troubles import Trouble

SOURCE = Path(__file__).parents[2] / "src" / "fondale"
# Signals from one part of the program to another, which no maker reads.
SIGNALS = {Needed, Gone, Cancelled, NotKnown, TooLate}


def errors_of_ours() -> set[type[BaseException]]:
    names = [m.name for m in pkgutil.walk_packages(fondale.__path__, "fondale.") if m.name != "fondale.__main__"]
    found = {thing for name in names for _n, thing in inspect.getmembers(importlib.import_module(name), inspect.isclass)}
    return {t for t in found if issubclass(t, BaseException) and t.__module__.startswith("fondale.")}


def test_errors_in_the_makers_words_share_one_base():
    ours = errors_of_ours()
    assert len(ours) > 8
    assert {e for e in ours if not issubclass(e, Trouble | OSError)} == SIGNALS  # what the disk says, disk_words tells


def test_every_setting_is_read_somewhere():
    text = "\n".join(f.read_text("utf-8") for f in SOURCE.rglob("*.py"))
    read = set(re.findall(r"settings\.get\(\"(\w+)\"\)", text))
    assert read == {s.name for s in SETTINGS}


def test_every_function_that_makes_edits_raises_its_own_error():
    for info in pkgutil.iter_modules(edits.__path__):
        module = importlib.import_module(f"fondale.core.edits.{info.name}")
        for name, thing in vars(module).items():
            own = inspect.isfunction(thing) and thing.__module__ == module.__name__ and not name.startswith("_")
            if own and re.search(r"\b(Edit|Put|Add|Remove)\b", str(thing.__annotations__.get("return", ""))):
                assert name in ("put", "remove") or hasattr(thing, "__wrapped__"), f"{info.name}.{name}"
