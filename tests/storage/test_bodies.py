# SPDX-License-Identifier: MIT
"""Bodies that are kept: the same when they come back, built again where that cannot be."""

import numpy as np
import pytest

from fondale.core.bodies import animals, kept
from fondale.core.bodies import figure as figures
from fondale.core.bodies.animals import animal
from fondale.core.bodies.figure import figure
from fondale.core.bodies.kept import keep_on
from fondale.storage import bodies
from fondale.storage.bodies import BodyShelf

ASKED = ("standing", "man", ("cap",), False, "plain")
WANTED = ("person", *ASKED)


@pytest.fixture
def shelf(tmp_path):
    yield BodyShelf(tmp_path / "bodies")
    kept._shelves.clear()
    figure.cache_clear()
    animal.cache_clear()


def test_a_body_comes_back_as_it_was_built(shelf, monkeypatch):
    figure.cache_clear()
    keep_on(shelf)
    built = figure(*ASKED)
    figure.cache_clear()
    monkeypatch.setattr(figures, "parts_of", lambda *_a: pytest.fail("it is built again"))
    kept = figure(*ASKED)
    assert np.array_equal(built.tris, kept.tris)
    assert np.array_equal(built.normals, kept.normals)
    assert np.array_equal(built.part, kept.part)


def test_an_animal_comes_back_too(shelf, monkeypatch):
    animal.cache_clear()
    keep_on(shelf)
    built = animal("cat", True)
    animal.cache_clear()
    monkeypatch.setattr(animals, "joined", lambda *_a: pytest.fail("it is built again"))
    assert np.array_equal(built.tris, animal("cat", True).tris)
    assert np.array_equal(built.normals, animal("cat", True).normals)


def test_damaged_files_and_folders_that_cannot_be_written_are_no_trouble(shelf, tmp_path):
    figure.cache_clear()
    body = figure(*ASKED)
    shelf.put(WANTED, body)
    file = next((tmp_path / "bodies").glob("*.npz"))
    whole = file.read_bytes()
    for damage in (b"", b"nonsense", whole[: len(whole) // 2], whole[:200] + b"x" * 50 + whole[250:]):
        file.write_bytes(damage)
        kept = shelf.get(WANTED)
        assert kept is None or np.isfinite(kept.tris).all()
    (tmp_path / "flat").write_text("no folder")
    nowhere = BodyShelf(tmp_path / "flat")
    nowhere.put(WANTED, body)
    assert nowhere.get(WANTED) is None


def test_the_oldest_go(shelf, tmp_path, monkeypatch):
    monkeypatch.setattr(bodies, "MOST", 3)
    body = figure(*ASKED)
    for k in range(5):
        shelf.put(("person", f"pose {k}"), body)
    assert len(list((tmp_path / "bodies").glob("*.npz"))) == 3
    assert shelf.get(("person", "pose 4")) is not None
