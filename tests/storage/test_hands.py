# SPDX-License-Identifier: MIT
"""Files in many hands, on disks of many kinds: nothing is written over unseen, and nothing is lost."""

import errno
import json
import os
import shutil
import stat
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

from fondale.app.document import Document
from fondale.core.edits import put
from fondale.core.model import PROJECT
from fondale.storage import FileChanged, FileTrouble, Recovery, load, put_file, save
from fondale.storage.disk import _HOST, held, lock_folder, stamp
from fondale.storage.files import backups, load_all, to_json
from fondale.storage.recovery import left_behind


def test_a_link_stays_and_its_target_is_written(heron, hut, tmp_path):
    (tmp_path / "there").mkdir()
    real, link = tmp_path / "there" / "real.fondale", tmp_path / "link.fondale"
    save(heron, real)
    link.symlink_to(real)
    save(hut, link)
    assert link.is_symlink()
    assert load(real) == hut
    assert [load(b) for b in backups(real)] == [heron]


def test_the_mode_of_a_file_is_kept_and_private_ones_stay_private(heron, tmp_path):
    path = tmp_path / "a.fondale"
    save(heron, path)
    path.chmod(0o640)
    save(heron, path)
    assert stat.S_IMODE(path.stat().st_mode) == 0o640
    recovery = Recovery(tmp_path / "state" / "r")
    recovery.keep(heron, path, {"assets/photos/a.png": b"x"})
    kept = [p for p in recovery.folder.rglob("*") if p.is_file()]
    assert len(kept) == 4
    assert {stat.S_IMODE(p.stat().st_mode) for p in kept} == {0o600}
    os.close(recovery._lock)


def test_what_another_wrote_since_is_not_written_over(heron, tmp_path):
    path = tmp_path / "a.fondale"
    save(heron, path)
    mine, theirs = Document.opened(path), Document.opened(path)
    theirs.do(put(PROJECT.then(lambda p: p.brief.cap), 1.0, "Cap"))
    theirs.save()
    mine.do(put(PROJECT.then(lambda p: p.brief.cap), 2.0, "Cap"))
    with pytest.raises(FileChanged, match="another program or window"):
        mine.save()
    assert load(path).brief.cap == 1
    assert mine.modified
    mine.save(tmp_path / "mine.fondale")
    theirs.do(put(PROJECT.then(lambda p: p.brief.cap), 3.0, "Cap"))
    theirs.save()  # its own saves are no surprise to it
    mine = Document.opened(path)
    mine.do(put(PROJECT.then(lambda p: p.brief.cap), 4.0, "Cap"))
    theirs.do(put(PROJECT.then(lambda p: p.brief.cap), 5.0, "Cap"))
    theirs.save()
    mine.take(Document.opened(path))
    assert (mine.project.brief.cap, mine.modified) == (5, False)
    mine.undo()
    assert (mine.project.brief.cap, mine.modified) == (4, True)


def test_without_links_on_a_full_disk_the_backups_survive(heron, hut, tmp_path, monkeypatch):
    path = tmp_path / "a.fondale"
    for k in range(3):
        save(heron.but(name=f"Save {k}"), path)
    before = [load(b).name for b in backups(path)]
    monkeypatch.setattr("fondale.storage.disk.os.link", _refuses(errno.EPERM))
    monkeypatch.setattr("fondale.storage.disk.shutil.copy2", _refuses(errno.ENOSPC))
    with pytest.raises(FileTrouble, match="disk is full"):
        save(hut, path)
    assert load(path).name == "Save 2"
    assert [load(b).name for b in backups(path)] == before
    assert list(tmp_path.glob(".*")) == []
    monkeypatch.setattr("fondale.storage.disk.shutil.copy2", shutil.copyfile)
    save(hut, path)
    assert [load(b).name for b in backups(path)] == ["Save 2", *before]


def _refuses(number):
    def call(*_args, **_more):
        raise OSError(number, os.strerror(number))

    return call


@pytest.mark.parametrize("number", [errno.EROFS, errno.EACCES, errno.ENAMETOOLONG, errno.EDQUOT])
def test_what_stands_in_the_way_is_told_with_what_to_do(heron, tmp_path, monkeypatch, number):
    monkeypatch.setattr("fondale.storage.disk.os.open", _refuses(number))
    with pytest.raises(FileTrouble, match=r"; (choose|free|ask)"):
        save(heron, tmp_path / "a.fondale")


def test_a_name_of_any_length_that_the_disk_takes_is_saved(heron, tmp_path):
    path = tmp_path / ("n" * 247 + ".fondale")
    save(heron, path)
    assert load(path) == heron
    save(heron.but(name="Second"), path)
    assert [load(b) for b in backups(path)] == [heron]
    with pytest.raises(FileTrouble, match="name is too long; choose a shorter one"):
        save(heron, tmp_path / ("n" * 300 + ".fondale"))


def test_left_half_written_files_are_cleaned_and_others_left(heron, tmp_path):
    done = subprocess.run([sys.executable, "-c", "import os; print(os.getpid())"], capture_output=True, text=True, check=True)
    dead, alive = (tmp_path / f".fondale-{_HOST}-{pid}-0.writing" for pid in (done.stdout.strip(), os.getpid()))
    other = tmp_path / ".fondale-elsewhere-1-0.writing"
    for file in (dead, alive, other):
        file.write_bytes(b"half")
    save(heron, tmp_path / "a.fondale")
    assert [dead.exists(), alive.exists(), other.exists()] == [False, True, True]


def test_what_is_no_ordinary_file_is_refused_at_once(heron, tmp_path):
    pipe = tmp_path / "pipe.fondale"
    os.mkfifo(pipe)
    with pytest.raises(FileTrouble, match="no ordinary file"):
        load(pipe)
    with pytest.raises(FileTrouble, match="no ordinary file"):
        save(heron, pipe)
    with pytest.raises(OSError, match=r"No space left|full"):
        put_file(Path("/dev/full"), b"x" * 100)
    assert stat.S_ISCHR(os.stat("/dev/full").st_mode)


def test_two_windows_never_swap_at_once(heron, tmp_path):
    path = tmp_path / "a.fondale"
    save(heron, path)
    with held(path):
        code = "import fcntl, os, sys; fcntl.flock(os.open(sys.argv[1], os.O_RDONLY), fcntl.LOCK_EX | fcntl.LOCK_NB)"
        assert subprocess.run([sys.executable, "-c", code, str(path)], capture_output=True, check=False).returncode
    assert stamp(path) == stamp(path)


def test_a_folder_is_somebodys_as_long_as_he_lives(heron, tmp_path):
    home = tmp_path / "state" / "1"  # the number of a process that always runs
    code = (
        "import sys\nfrom pathlib import Path\nfrom fondale.storage import Recovery, load\n"
        "r = Recovery(Path(sys.argv[1])); print(r.keep(load(Path(sys.argv[2])), None), flush=True); sys.stdin.read()"
    )
    save(heron, tmp_path / "a.fondale")
    args = [sys.executable, "-c", code, str(home), str(tmp_path / "a.fondale")]
    with subprocess.Popen(args, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as other:
        assert other.stdout.readline() == "\n"
        assert left_behind(tmp_path / "state") == ()
        other.kill()
    assert [x.name for x in left_behind(tmp_path / "state")] == [heron.name]
    handle = lock_folder(home)
    assert handle is not None
    os.close(handle)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda raw: raw.update(name="half \ud800 a character"), "half characters"),
        (lambda raw: raw.update(weather={"deep": [1e999, 10**400, 3]}), "beyond all range"),
        (lambda raw: raw["pieces"][0].update(mood=["\udfff"]), "half characters"),
    ],
)
def test_what_opens_can_be_saved(heron, tmp_path, change, says):
    raw = json.loads(to_json(heron))
    change(raw)
    path = tmp_path / "odd.fondale"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(raw).replace("Infinity", "1e999"))
    document = Document.opened(path)
    assert any(says in note for note in document.notes)
    document.save()
    again = Document.opened(path)
    assert again.project == document.project
    assert not again.notes


def test_what_is_nested_too_deep_is_refused(heron, tmp_path):
    raw = json.loads(to_json(heron))
    for _ in range(200):
        raw["weather"] = {"in": raw.get("weather")}
    path = tmp_path / "deep.fondale"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(raw))
    with pytest.raises(FileTrouble, match="nested"):
        load(path)


def test_assets_are_read_when_they_are_needed(heron, tmp_path, monkeypatch):
    path = tmp_path / "a.fondale"
    save(heron, path, {"assets/more/a.bin": b"a" * 100, "assets/more/b.bin": b"b" * 100})
    asked = []
    monkeypatch.setattr("fondale.storage.assets._Archive.read", _listening(asked))
    opened = load_all(path)
    assert asked == ["project.json"]
    save(heron, path)  # the file is another one now, and what was opened is still there
    assert opened.assets["assets/more/b.bin"] == b"b" * 100
    assert asked == ["project.json", "assets/more/b.bin"]


def _listening(asked):
    from fondale.storage.assets import _Archive

    read = _Archive.read

    def listening(self, name):
        asked.append(name)
        return read(self, name)

    return listening


def test_a_damaged_asset_never_keeps_the_project_from_being_saved(heron, tmp_path):
    path = tmp_path / "a.fondale"
    save(heron, path, {"assets/more/a.bin": b"the one that is hurt", "assets/more/b.bin": b"fine"})
    raw = path.read_bytes()
    path.write_bytes(raw.replace(b"the one that is hurt", b"the one that is HURT"))
    document = Document.opened(path)
    document.do(put(PROJECT.then(lambda p: p.brief.cap), 1.0, "Cap"))
    made = save(document.project, path, document.assets, document.stamp)
    assert [name for name in made.lost if "more" in name] == ["assets/more/a.bin"]  # and the photographs, which were never there
    assert dict(load_all(path).assets) == {"assets/more/b.bin": b"fine"}


def test_files_beyond_number_and_size_are_refused(heron, tmp_path, monkeypatch):
    path = tmp_path / "a.fondale"
    save(heron, path, {f"assets/more/{k}": b"x" * 50 for k in range(20)})
    for limit, value in (("ASSETS", 10), ("ASSETS_BYTES", 500), ("ASSET_BYTES", 40)):
        monkeypatch.setattr(f"fondale.storage.assets.{limit}", value)
        with pytest.raises(FileTrouble, match="too large"):
            load(path)
        monkeypatch.undo()
