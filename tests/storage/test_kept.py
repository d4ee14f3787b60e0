# SPDX-License-Identifier: MIT
"""What is kept: after a crash, on a full disk, of others' eyes; and what of a file is stripped, refused, bounded."""

import errno
import json
import os
import re
import shutil
import stat
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import pytest

from fondale.app.document import Document
from fondale.core.edits import put
from fondale.core.edits.boxes import add_photo
from fondale.core.model import PROJECT
from fondale.core.troubles import Trouble, printable
from fondale.storage import FileReadOnly, FileTrouble, Recovery, disk, left_behind, limits, load, put_file, save
from fondale.storage.files import BACKUPS, backup_path, from_json, load_all, to_json
from fondale.storage.patience import patience
from fondale.storage.unfolded import Endless

DOCS = Path(__file__).parents[2] / "docs"


def pictured(empty, data=b"the one photograph"):
    """A document with a photograph that no file has yet."""
    document = Document(empty)
    asset = document.keep_asset("photos", "quay.png", data)
    document.do(add_photo(empty, "Quay", asset, 40, 30)[0])
    return document, asset


def test_assets_are_written_before_the_project_that_names_them(empty, tmp_path, monkeypatch):
    document, _asset = pictured(empty)
    order = []
    real = disk.put_file
    monkeypatch.setattr(
        "fondale.storage.recovery.put_file", lambda path, data, mode=None: order.append(path.suffix) or real(path, data, mode)
    )
    Recovery(tmp_path / "state" / "1").keep(document.project, None, document.assets)
    assert order == [".asset", ".json", ".json"]


def dead(recovery):
    os.close(recovery._lock)
    recovery._lock = None
    return recovery


def test_a_recovery_tells_what_it_misses_and_takes_it_from_the_newest_save(empty, tmp_path):
    document, asset = pictured(empty)
    path = tmp_path / "a.fondale"
    document.save(path)
    recovery = dead_after_keeping(document, path, tmp_path)
    for file in (recovery.folder / "unsaved-assets").iterdir():
        file.unlink()
    (left,) = left_behind(tmp_path / "state")
    assert left.missing == ((asset, path),)
    assert left.recovery.read(path).assets == {asset: b"the one photograph"}
    assert left.recovery.read(path).again == ((asset, path),)
    path.rename(backup_path(path, 2))
    assert left_behind(tmp_path / "state")[0].missing == ((asset, backup_path(path, 2)),)
    backup_path(path, 2).unlink()
    assert left_behind(tmp_path / "state")[0].missing == ((asset, None),)
    assert left.recovery.read(path).lost == (asset,)


def dead_after_keeping(document, path, tmp_path):
    recovery = Recovery(tmp_path / "state" / "1")
    recovery.keep(document.project, path, document.assets)
    return dead(recovery)


def test_no_save_drops_the_last_copy_of_what_the_project_names(empty, tmp_path):
    document, asset = pictured(empty)
    path = tmp_path / "a.fondale"
    document.save(path)
    poor = Document(document.project, path)  # as it comes back where its photograph does not
    for k in range(2 * BACKUPS):
        poor.do(put(PROJECT.then(lambda p: p.brief.cap), float(k), "Cap"))
        poor.save(path)
    assert load_all(path).assets[asset] == b"the one photograph"
    other = tmp_path / "other.fondale"
    poor.save(other)  # elsewhere too
    assert load_all(other).assets[asset] == b"the one photograph"


def test_a_backup_that_alone_holds_something_stays(empty, tmp_path):
    document, asset = pictured(empty, b"the one that is hurt")
    path = tmp_path / "a.fondale"
    document.save(path)
    path.write_bytes(path.read_bytes().replace(b"the one that is hurt", b"the one that is HURT"))
    poor = Document(document.project, path)
    for k in range(2 * BACKUPS):
        made = save(poor.project.but(brief=poor.project.brief.but(cap=float(k))), path)
        assert made.lost == (asset,)
    holders = [b for b in range(1, BACKUPS + 1) if asset in load_all(backup_path(path, b)).assets]
    assert holders == [BACKUPS]


class Full:
    """A file on a full disk: writing is refused, and closing tries once more."""

    def __init__(self, file):
        self._file = file
        self.closed = False

    def __getattr__(self, name):
        return getattr(self._file, name)

    def write(self, _data):
        raise OSError(errno.ENOSPC, "No space left on device")

    def close(self):
        self._file.close()
        raise OSError(errno.ENOSPC, "No space left on device")


def test_a_full_disk_keeps_no_half_written_files_and_tells_what_is_needed(hut, tmp_path, monkeypatch):
    real = os.fdopen
    monkeypatch.setattr(disk.os, "fdopen", lambda *a: Full(real(*a)))
    for _ in range(3):
        with pytest.raises(FileTrouble, match=r"the disk is full: [\d.]+ MB are free there, and [\d.]+ kB are needed; free some space"):
            save(hut, tmp_path / "a.fondale")
        with pytest.raises(OSError, match="No space") as trouble:
            put_file(tmp_path / "a.csv", b"x" * 2_000_000)
        assert "and 2.0 MB are needed" in disk.disk_words(trouble.value)
    assert list(tmp_path.iterdir()) == []


@pytest.mark.skipif(os.geteuid() != 0 or not shutil.which("unshare"), reason="a disk of one's own takes the right to mount one")
def test_a_disk_that_is_really_full(tmp_path):
    small = tmp_path / "small"
    small.mkdir()
    code = f"""
import os
from pathlib import Path
from datetime import date
from fondale.demo import SAMPLES
from fondale.storage import FileTrouble, save
from fondale.storage.recovery import Recovery
folder = Path({str(small)!r})
project = list(SAMPLES.values())[2](date(2026, 11, 24))
save(project, folder / "a.fondale")
for k in range(6):
    try:
        save(project.but(name=f"Hut {{k}}"), folder / "a.fondale", {{"assets/more/a": os.urandom(500_000)}})
    except FileTrouble as error:
        told = str(error)
    else:
        raise AssertionError("it found room")
assert "are free there, and 0.5 MB are needed" in told, told
assert [p.name for p in folder.iterdir()] == ["a.fondale"], list(folder.iterdir())
assert Recovery(folder / "state" / "1").keep(project, None) == ""
"""
    command = f'mount -t tmpfs -o size=400k tmp {small} && exec {sys.executable} -c "$CODE"'
    done = subprocess.run(
        ["unshare", "-m", "sh", "-c", command], env={**os.environ, "CODE": code}, capture_output=True, text=True, check=False
    )
    if "mount" in done.stderr and "denied" in done.stderr:
        pytest.skip("this machine mounts nothing")
    assert done.returncode == 0, done.stderr


def test_one_unreadable_recovery_hides_no_other(hut, tmp_path):
    for name in ("1", "2", "3"):
        dead_one = Recovery(tmp_path / "state" / name)
        dead_one.keep(hut, None)
        dead(dead_one)
    raw = json.loads(to_json(hut))
    (tmp_path / "state" / "1" / "unsaved.json").write_text(json.dumps({**raw, "schema_version": 0, "case": [7]}))
    (tmp_path / "state" / "2" / "unsaved-from.json").write_text('{"path": 7, "assets": {"a": 3}, "stamp": "x"}')
    left = left_behind(tmp_path / "state")
    assert len(left) == 3
    assert [x.recovery.folder.name for x in left if x.trouble] == ["1"]
    assert all(x.name == hut.name for x in left if not x.trouble)


@pytest.mark.parametrize("case", [None, 7, "x", [1], [[]], True, {"lip": []}])
@pytest.mark.parametrize("version", [0, 1, 3, 5])
def test_an_old_project_of_odd_parts_is_refused_in_words(hut, version, case):
    raw = json.loads(to_json(hut))
    for part in ("case", "pieces", "steps"):
        said = ""
        try:
            from_json(json.dumps({**raw, "schema_version": version, part: case}))
        except FileTrouble as error:
            said = str(error)
        assert "\n" not in said


def test_what_steers_a_terminal_is_stripped_on_reading_and_never_told(hut):
    raw = json.loads(to_json(hut))
    raw["name"] = "a\x1b[31m\x07\x9b\u202eb\n"
    assert from_json(json.dumps(raw)).name == "a[31mb"
    assert from_json(json.dumps({**raw, "name": "\x1b"})).name == "\ufffd"
    raw["brief"]["evenings"] = {"\x1b[2J": 1}
    with pytest.raises(FileTrouble) as trouble:
        from_json(json.dumps(raw))
    assert str(trouble.value) == printable(str(trouble.value))
    assert str(Trouble("“\x1b]0;x\x07” is not there.")) == "“]0;x” is not there."


def test_the_folder_is_locked_anew_where_somebody_cleared_it_away(hut, tmp_path):
    live = Recovery(tmp_path / "state" / "1")
    live.keep(hut, None)
    shutil.rmtree(tmp_path / "state")
    assert live.keep(hut, None) == ""
    assert live.found() is not None
    assert left_behind(tmp_path / "state") == ()
    live.drop()
    live.end()


def test_a_file_that_may_only_be_read_is_not_replaced_without_asking(hut, tmp_path):
    path = tmp_path / "a.fondale"
    save(hut, path)
    path.chmod(0o444)
    with pytest.raises(FileReadOnly):
        save(hut.but(name="Other"), path)
    with pytest.raises(OSError, match="only be read"):
        put_file(path, b"x")
    assert load(path).name == hut.name
    save(hut.but(name="Other"), path, force=True)
    assert (load(path).name, stat.S_IMODE(path.stat().st_mode)) == ("Other", 0o444)


def test_what_fondale_keeps_is_the_makers_alone(hut, tmp_path):
    from fondale.app.settings import Settings

    before = os.umask(0o022)
    try:
        (tmp_path / "state").mkdir(mode=0o755)
        Recovery(tmp_path / "state" / "1").keep(hut, None, {"assets/photos/a.png": b"x"})
        Settings(tmp_path / "config").set("type", 1.15)
    finally:
        os.umask(before)
    for path in [*(tmp_path / "state").rglob("*"), tmp_path / "state", tmp_path / "config", tmp_path / "config" / "settings.json"]:
        assert stat.S_IMODE(path.stat().st_mode) == (0o700 if path.is_dir() else 0o600), path


def spin():
    while True:
        pass


def test_patience_counts_the_processor_and_not_the_clock():
    with patience(0.3):
        time.sleep(0.5)
    with pytest.raises(Endless, match="of the processor"), patience(0.3):
        spin()
    with patience(0.6), patience(0.1):  # the outer one counts
        end = time.process_time() + 0.2
        while time.process_time() < end:
            pass


def test_who_does_not_hear_ends_in_one_line():
    """Compiled work lets no Python speak: the system ends the process, and the one that waits says it."""
    code = "from fondale.storage import patience as p; p.work_in_a_child('fondale'); p.bound_memory(); p.READING_GRACE_S = 0\nwith p.patience(0.5): sum(range(10**11))"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False, timeout=60)
    assert done.returncode == 2
    assert re.fullmatch(r"fondale: It takes more than \d+ s of the processor to read; thin it out .*\.\n", done.stderr)


TICKING = """
import signal, time
from fondale.storage import patience as p

def ticks():  # of the system, since the timer was set
    return 1e6 - signal.getitimer(signal.ITIMER_PROF)[0]

def next_tick():
    before = ticks()
    while ticks() == before:
        pass
    return time.perf_counter()

signal.setitimer(signal.ITIMER_PROF, 1e6)
at = [next_tick() for _ in range(60)]
apart = sorted(b - a for a, b in zip(at, at[1:]))[20]
began, own, until = ticks(), time.process_time(), time.perf_counter() + 15
while ticks() - began - (time.process_time() - own) < 2.5 and time.perf_counter() < until:
    next_tick()
    time.sleep(0.8 * apart)
signal.setitimer(signal.ITIMER_PROF, 0)
p.bound_memory()
p.READING_GRACE_S = 0
with p.patience(0.5):
    end = time.process_time() + 0.1
    while time.process_time() < end:
        pass
"""


def test_who_has_worked_for_hours_is_not_ended_when_it_begins_to_read():
    """Busy whenever the system ticks and asleep between: its ticks lead its true time by seconds, as they do by chance after some hours."""
    done = subprocess.run([sys.executable, "-c", TICKING], capture_output=True, text=True, check=False, timeout=60)
    assert done.returncode == 0, done


def test_what_unfolds_to_much_more_than_it_takes_is_refused(hut, tmp_path):
    path = tmp_path / "a.fondale"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("project.json", to_json(hut))
        archive.writestr("assets/prints/zeros.stl", bytes(40_000_000))
    with pytest.raises(FileTrouble, match=r"unfolds to 40 MB out of 0\.0"):
        load(path)


def test_the_limits_stand_in_one_table_of_the_documents():
    text = (DOCS / "file-format.md").read_text("utf-8")
    table = dict(re.findall(r"^\| `([A-Z_]+)` \| ([\d.,]+) ", text, re.MULTILINE))
    told = {name: float(number.replace(",", "")) for name, number in table.items()}
    ours = {name: float(value) for name, value in vars(limits).items() if name.isupper()}
    assert told == ours
