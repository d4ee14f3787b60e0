# SPDX-License-Identifier: MIT
import contextlib
import json
import zipfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.app.document import Document
from fondale.core.cautions import cautions_of
from fondale.core.edits import put
from fondale.core.model import PIECES, PROJECT, SCHEMA_VERSION, Project
from fondale.core.model.references import loose_ends
from fondale.storage import FileTrouble, Recovery, load, save
from fondale.storage.files import BACKUPS, backup_path, backups, from_json, load_all, to_json
from fondale.storage.migrations import MIGRATIONS, migrate
from tests.conftest import tries

DATA = Path(__file__).parents[1] / "data" / "projects"


@pytest.mark.parametrize("sample", ["heron", "glass", "hut", "empty"])
def test_samples_come_back_as_they_were(sample, request, tmp_path):
    project = request.getfixturevalue(sample)
    save(project, tmp_path / "a.fondale")
    assert load(tmp_path / "a.fondale") == project


@tries(60)
@given(
    name=st.text(min_size=1, max_size=100).filter(lambda t: t.strip()),
    cap=st.floats(0, 1e7),
    house=st.floats(1, 2000),
    words=st.text(max_size=300),
)
def test_any_text_and_number_survives_a_round_trip(empty, name, cap, house, words):
    brief = empty.brief.model_copy(update={"cap": cap, "house_n": house, "occasion": words})
    project = Project.model_validate({**empty.model_dump(), "name": name, "brief": brief.model_dump()})
    assert from_json(to_json(project)) == project


def test_the_schema_version_comes_first(heron):
    assert to_json(heron).lstrip("{ \n").startswith(f'"schema_version": {SCHEMA_VERSION}')


def test_fields_of_a_newer_minor_survive(heron, tmp_path):
    raw = json.loads(to_json(heron))
    raw["weather"] = "rain"
    raw["pieces"][0]["mood"] = {"wet": True}
    again = json.loads(to_json(from_json(json.dumps(raw))))
    assert again["weather"] == "rain"
    assert again["pieces"][0]["mood"] == {"wet": True}


def test_assets_are_kept_from_save_to_save(heron, tmp_path):
    path = tmp_path / "a.fondale"
    save(heron, path, {"assets/photo.png": b"\x89PNG", "assets/deep/mesh.stl": b"solid"})
    document = Document.opened(path)
    document.do(put(PROJECT.then(lambda p: p.brief.cap), 1.0, "Cap"))
    document.save()
    opened = load_all(path)
    assert opened.project.brief.cap == 1.0
    assert opened.assets == {"assets/photo.png": b"\x89PNG", "assets/deep/mesh.stl": b"solid"}


def test_a_newer_file_is_refused_kindly(heron):
    raw = json.loads(to_json(heron)) | {"schema_version": SCHEMA_VERSION + 1}
    with pytest.raises(FileTrouble, match=r"newer Fondale.*not touched"):
        from_json(json.dumps(raw))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "not readable"),
        ("{", "not readable"),
        ("[]", "no Fondale project"),
        ("null", "no Fondale project"),
        ('{"schema_version": "x"}', "which version"),
        ('{"schema_version": -1}', "which version"),
        ('{"schema_version": 1}', "cannot be"),
        ('{"schema_version": 1, "id": "a", "name": "A", "brief": {"start": "soon"}}', "cannot be"),
        ('{"schema_version": 1, "id": "a", "name": "A", "brief": {"start": "2026-01-01", "cap": NaN}}', "not readable"),
        ('{"schema_version": 1, "id": "A b", "name": "A", "brief": {"start": "2026-01-01"}}', "cannot be"),
        ("[" * 100_000, "not readable"),
    ],
)
def test_damaged_projects_are_told_in_words(text, says):
    with pytest.raises(FileTrouble, match=says):
        from_json(text)


def test_missing_files_folders_and_other_files(tmp_path):
    with pytest.raises(FileTrouble, match="There is no file"):
        load(tmp_path / "none.fondale")
    with pytest.raises(FileTrouble, match="folder"):
        load(tmp_path)
    (tmp_path / "text.fondale").write_text("hello")
    with pytest.raises(FileTrouble, match="not a Fondale file"):
        load(tmp_path / "text.fondale")
    with zipfile.ZipFile(tmp_path / "other.fondale", "w") as archive:
        archive.writestr("letter.txt", "dear")
    with pytest.raises(FileTrouble, match="holds no Fondale project"):
        load(tmp_path / "other.fondale")
    (tmp_path / "empty.fondale").write_bytes(b"")
    with pytest.raises(FileTrouble):
        load(tmp_path / "empty.fondale")


@tries(80)
@given(st.data())
def test_no_damage_crashes_the_reader(heron, tmp_path_factory, data):
    path = tmp_path_factory.mktemp("damage") / "a.fondale"
    save(heron, path)
    raw = bytearray(path.read_bytes())
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(raw) - 1))
        raw[at] = data.draw(st.integers(0, 255))
    cut = data.draw(st.integers(0, len(raw)))
    path.write_bytes(bytes(raw[:cut]) if data.draw(st.booleans()) else bytes(raw))
    with contextlib.suppress(FileTrouble):
        assert load(path).id


def test_the_last_five_saves_are_kept(heron, tmp_path):
    path = tmp_path / "a.fondale"
    for k in range(BACKUPS + 3):
        save(heron.model_copy(update={"name": f"Save {k}"}), path)
    assert load(path).name == f"Save {BACKUPS + 2}"
    assert [load(b).name for b in backups(path)] == [f"Save {BACKUPS + 1 - k}" for k in range(BACKUPS)]
    assert not backup_path(path, BACKUPS + 1).exists()
    assert sorted(p.name for p in tmp_path.iterdir() if p.name.startswith(".")) == []


def test_a_failing_save_leaves_the_old_file_alone(heron, tmp_path, monkeypatch):
    path = tmp_path / "a.fondale"
    save(heron, path)

    def full(*_args: object, **_more: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("fondale.storage.disk.os.replace", full)
    with pytest.raises(FileTrouble, match="disk is full"):
        save(heron.model_copy(update={"name": "New"}), path)
    monkeypatch.undo()
    assert load(path) == heron
    assert [p.name for p in tmp_path.iterdir() if "writing" in p.name] == []


def test_saving_where_nobody_may_write(heron, tmp_path):
    with pytest.raises(FileTrouble, match="could not be written"):
        save(heron, tmp_path / "no" / "such" / "a.fondale")


def test_old_projects_are_brought_up_to_date():
    project = from_json((DATA / "v0" / "lip.json").read_text())
    assert project.case.lip_top == 12
    assert project.schema_version == SCHEMA_VERSION


def test_one_that_lies_was_measured_by_its_thickness():
    project = from_json((DATA / "v2" / "lying.json").read_text())
    assert project.get(PIECES, "sleeper").measure.mm == pytest.approx(50.0, rel=0.01)
    assert project.get(PIECES, "porter").measure.mm == 50.0


def test_an_opening_was_an_arch_or_not():
    project = from_json((DATA / "v3" / "arch.json").read_text())
    assert [o.form for o in project.get(PIECES, "wall").shape.openings] == ["arch", "lintel"]


def test_a_caution_that_was_typed_makes_way_for_those_of_the_work():
    project = from_json((DATA / "v5" / "caution.json").read_text())
    (step,) = project.steps
    assert "caution" not in json.loads(to_json(project))["steps"][0]
    assert json.loads(to_json(project))["steps"][0]["added_by_hand"] == "kept"
    assert {"etch"} <= set(cautions_of(project, step))
    assert project.lamps[0].package == "five"  # as bright as it was


def test_minutes_that_stood_in_a_file_stay():
    project = from_json((DATA / "v4" / "minutes.json").read_text())
    assert [s.minutes for s in project.steps] == [(6, 9, 14), (10, 15, 25)]


def test_the_chain_of_migrations_has_no_gap_and_each_has_a_sample():
    assert sorted(MIGRATIONS) == list(range(SCHEMA_VERSION))
    for version in MIGRATIONS:
        assert list((DATA / f"v{version}").glob("*.json")), f"no sample of version {version}"
    with pytest.raises(KeyError):
        migrate({"schema_version": SCHEMA_VERSION + 5}, SCHEMA_VERSION + 9)


def test_recovery_keeps_finds_and_forgets(heron, tmp_path):
    recovery = Recovery(tmp_path / "state")
    assert recovery.found() is None
    assert recovery.keep(heron, tmp_path / "a.fondale") == ""
    project, path = Recovery(tmp_path / "state").found()
    assert project == heron
    assert path == tmp_path / "a.fondale"
    recovery.drop()
    assert recovery.found() is None


def test_recovery_never_stands_in_the_way(heron, tmp_path):
    blocked = tmp_path / "file"
    blocked.write_text("x")
    recovery = Recovery(blocked)
    assert recovery.keep(heron, None)
    assert recovery.found() is None
    recovery.drop()
    state = tmp_path / "state"
    Recovery(state).keep(heron, None)
    (state / "unsaved-from.json").write_text("broken")
    assert Recovery(state).found() == (heron, None)
    (state / "unsaved.json").write_bytes(b"\xff\xfe")
    with pytest.raises(FileTrouble, match="damaged"):
        Recovery(state).found()


def test_pieces_that_stood_apart_stand_alone():
    project = from_json((DATA / "v1" / "apart.json").read_text())
    assert [p.stands for p in project.pieces] == ["alone", "beside"]
    assert project.brief.rules.sizes == "eyes"
    assert project.pieces[1].model_extra == {"from_a_later_page": {"kept": True}}


def test_what_is_wrong_in_a_file_is_mended_and_told(heron, tmp_path):
    raw = json.loads(to_json(heron))
    raw["pieces"][1]["id"] = raw["pieces"][0]["id"]
    raw["dictating"] = "nobody"
    raw["steps"][0]["after"] = ["no_step"]
    path = tmp_path / "hurt.fondale"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(raw))
    document = Document.opened(path)
    assert not loose_ends(document.project)
    assert len({p.id for p in document.project.pieces}) == len(heron.pieces)
    assert any("got a new one" in note for note in document.notes)
    assert any("let go" in note for note in document.notes)
    document.do(put(PROJECT.then(lambda p: p.name), "Mended", "Name"))
    document.save()
    again = Document.opened(path)
    assert not again.notes
    assert again.project == document.project
