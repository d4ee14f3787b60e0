# SPDX-License-Identifier: MIT
"""Files, cuts and photographs in the background: facts, troubles in words, nothing guessed."""

import io

import numpy as np
import pytest
import trimesh
from PIL import Image

from fondale.app.document import Document
from fondale.app.errands import PHOTO, Import, cut_task, mesh_task, photo_task, seek_task, with_data
from fondale.app.results import Results
from fondale.app.workers import DirectWorkers, Report
from fondale.core.edits import put
from fondale.core.model import PRINTS, PROJECT, Cut
from fondale.core.prints.body import measure
from fondale.core.prints.cutting import KeyRule
from fondale.core.progress import Quiet
from fondale.demo import sample_assets
from fondale.storage.assets import Assets
from fondale.storage.files import Saved, load_all, save, used_assets
from fondale.storage.meshes import in_mm, read_mesh
from tests.conftest import TODAY

HERON = "Heron Stairs, last boat"


def test_files_are_measured_and_their_units_asked_for(tmp_path):
    box = trimesh.creation.box((4, 2, 3))
    box.export(tmp_path / "a.stl")
    box.units = "mm"
    box.export(tmp_path / "b.3mf")
    box.export(tmp_path / "c.glb")
    (tmp_path / "d.stl").write_bytes(b"nothing")
    a, b, c, d = mesh_task(Quiet(), tuple(str(tmp_path / n) for n in ("a.stl", "b.3mf", "c.glb", "d.stl")), "")
    assert a.asks_unit
    assert a.facts.size == pytest.approx((4, 2, 3), rel=1e-5)
    assert not b.asks_unit
    assert b.facts.volume == pytest.approx(24, rel=1e-4)
    assert not c.asks_unit  # GLB is in metres by its standard
    assert max(c.facts.size) == pytest.approx(4000, rel=1e-5)
    assert "d.stl" in d.trouble
    known = mesh_task(Quiet(), (str(tmp_path / "a.stl"),), "in")[0]
    assert known.facts.size[0] == pytest.approx(4 * 25.4, rel=1e-5)


def test_the_bytes_come_on_this_side(tmp_path):
    path = tmp_path / "a.stl"
    trimesh.creation.box((4, 2, 3)).export(path)
    (found,) = with_data(mesh_task(Quiet(), (str(path),), "mm"))
    assert found.data == path.read_bytes()
    assert len(found.digest) == 64
    path.unlink()
    (gone,) = with_data((found,))
    assert "cannot be read" in gone.trouble
    assert with_data((Import("x.stl", trouble="bad"),))[0].trouble == "bad"


def test_cuts_are_sought_where_the_seam_is_short_and_parts_still_fit(heron, tmp_path):
    crane = heron.find(PRINTS, "quay-crane")
    data = sample_assets(HERON)[crane.asset]
    planned = (Cut(id="cut-1", axis="z", at=0.5),)
    (sought,) = seek_task(Quiet(), data, crane, planned, (130.0, 80.0, 160.0))
    assert abs(sought.at - 0.5) <= 0.081
    assert seek_task(Quiet(), b"nothing", crane, planned, (130.0, 80.0, 160.0)) == planned
    made = cut_task(Quiet(), data, crane.model_copy(update={"cuts": planned}), KeyRule(1.0, 0.1), str(tmp_path))
    assert len(made.written) == 2
    assert made.error < 1e-3
    total = sum(read_mesh(tmp_path / n).body.vertices.shape[0] for n in made.written)
    assert total > 100
    # Every format comes back as the same body in millimetres.
    for ending in (".stl", ".obj", ".ply", ".3mf", ".glb"):
        (name,) = cut_task(Quiet(), data, crane, None, str(tmp_path), ending).written
        back = read_mesh(tmp_path / name)
        assert measure(in_mm(back.body, back.unit or "mm")).size == pytest.approx(crane.printed, rel=1e-4)
    assert not list(tmp_path.glob(".*"))
    assert cut_task(Quiet(), data, crane, None, str(tmp_path / "none")).trouble.startswith("The folder cannot be written to")
    assert cut_task(Quiet(), b"", crane, None, "").trouble


def test_photographs_are_read_from_files_and_from_the_project(tmp_path):
    out = io.BytesIO()
    Image.new("RGB", (40, 30), (9, 99, 199)).save(out, "PNG")
    (tmp_path / "p.png").write_bytes(out.getvalue())
    for found in (photo_task(Quiet(), str(tmp_path / "p.png")), photo_task(Quiet(), "assets/photos/p.png", out.getvalue())):
        assert (found.picture.width, found.picture.height) == (40, 30)
        assert np.abs(found.picture.shown.astype(int) - [9, 99, 199]).max() <= 3
    assert photo_task(Quiet(), str(tmp_path / "none.png")).trouble


def test_what_the_project_names_is_saved_and_the_rest_is_not(heron, tmp_path):
    assets = {**sample_assets(HERON), "assets/prints/old.stl": b"1", "assets/photos/old.png": b"2", "assets/sounds/kept.ogg": b"3"}
    used = used_assets(heron, Assets(assets))
    assert set(used) == {*sample_assets(HERON), "assets/sounds/kept.ogg"}
    save(heron, tmp_path / "a.fondale", used)
    back = load_all(tmp_path / "a.fondale")
    assert (back.project, back.assets) == (heron, used)


def test_what_is_changed_while_it_is_saved_counts_as_not_saved(heron, tmp_path):
    document = Document(heron)
    document.do(put(PROJECT.then(lambda p: p.brief.cap), 1.0, "Cap"))
    snapshot = document.project
    document.do(put(PROJECT.then(lambda p: p.brief.cap), 2.0, "Cap"))
    document.saved(snapshot, tmp_path / "a.fondale", Saved(None))
    assert document.modified
    document.undo()
    assert not document.modified


def test_the_same_file_twice_is_kept_once(heron):
    document = Document(heron)
    first = document.keep_asset("prints", "Crate A.STL", b"abc")
    assert document.keep_asset("prints", "Crate A.STL", b"abc") == first
    assert document.keep_asset("prints", "Crate A.STL", b"abd") != first
    assert first.endswith(".stl")
    assert document.keep_asset("prints", "x", b"abc", "f" * 64).endswith("ffff")


def test_an_errand_that_breaks_is_told_and_one_of_another_document_is_dropped(heron, empty):
    held = []

    class Held(DirectWorkers):
        def ask(self, task, *args):
            held.append((task, args))
            return len(held)

    results = Results(Document(heron), TODAY)
    results.connect(Held(results.take))
    got = []
    assert results.errands.ask(PHOTO, ("a.png", b"x"), got.append)
    assert results.errands.doing(PHOTO)
    assert not results.errands.ask(PHOTO, ("b.png", b"x"), got.append)
    results.take(Report("done", 1, "photo", failures={"photo": "it broke"}))
    assert not got[0].good
    assert results.trouble == "it broke"
    assert not results.errands.doing(PHOTO)
    assert results.errands.ask(PHOTO, ("a.png", b"x"), got.append)
    results.open(Document(empty))
    results.take(Report("done", 2, "photo", results={"photo": "late"}))
    assert len(got) == 1
