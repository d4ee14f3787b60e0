# SPDX-License-Identifier: MIT
"""The faults that are planted can be planted: each text that is turned into a fault stands in its file, once."""

import importlib.util
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_every_fault_finds_its_text():
    """A change of the code that forgot its fault was found out only after all tests had run."""
    spec = importlib.util.spec_from_file_location("plant", ROOT / "faults" / "plant.py")
    assert spec is not None
    plant = importlib.util.module_from_spec(spec)
    assert spec.loader is not None
    sys.modules["plant"] = plant
    try:
        spec.loader.exec_module(plant)
    finally:
        del sys.modules["plant"]
    lost = [f"{f.file}: {f.right!r}" for f in plant.FAULTS if (ROOT / "src" / "fondale" / f.file).read_text("utf-8").count(f.right) != 1]
    assert lost == []
    nameless = [test for f in plant.FAULTS for test in f.tests if not _there(test)]
    assert nameless == []


def _there(test: str) -> bool:
    """Whether a test that is to see a fault is there: a file, or one test of it."""
    file, _colons, name = test.partition("::")
    return (ROOT / file).is_file() and (not name or f"def {name}(" in (ROOT / file).read_text("utf-8"))
