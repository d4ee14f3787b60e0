# SPDX-License-Identifier: MIT
"""Calls that go wrong: one line and exit 2, nothing written over, and what scripts rely on."""

import hashlib
import io
import json
import os
import re
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from fondale.cli import run
from fondale.core.edits import new_project
from fondale.demo import SAMPLES, SHORT, sample_assets
from fondale.storage import load, save
from tests.conftest import TODAY

CRANE = "assets/prints/quay-crane.stl"
PLAN = '<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="40mm" viewBox="0 0 80 40"><line x1="0" y1="0" x2="60" y2="0" stroke="black"/></svg>'
BAD = """
scale
scale abc
scale 0
scale 0.0001 mm
scale -5 mm
scale 999999 mm
scale 54 mm --pose juggling
scale 54 mm --person giant
scale 54 mm --house big
scale 54 mm --house 1:0
scale 54 mm --error -1
scale 54 mm --error lots
scale 54 mm --loud
bogus
--bogus
check
check nowhere.fondale
check .
check part.stl
check hut.fondale extra
check hut.fondale --json --json=yes
light nowhere.fondale
light hut.fondale --moment noon
light hut.fondale --seat table
light hut.fondale --width 200
light hut.fondale --force
light hut.fondale --seat moon --png a.png
light hut.fondale --png a.png --width 3
light hut.fondale --png a.png --width wide
light hut.fondale --png - --json
circuit nowhere.fondale
circuit box.csv
plan nowhere.fondale
plan hut.fondale --today soon
plan hut.fondale --today 0001-01-01
plan hut.fondale --today 9999-12-31
plan hut.fondale --today 2026-02-30
plan hut.fondale --force
plan hut.fondale --ics - --json
papers hut.fondale
papers nowhere.fondale --out papers
papers hut.fondale --out /proc/none
scene hut.fondale
scene hut.fondale --out a.step
scene hut.fondale --out a.glb --section x=10
scene hut.fondale --out a.obj --silhouette
scene hut.fondale --out a.svg --section x=10 --silhouette
scene hut.fondale --out a.svg --section w=10
scene hut.fondale --out - --format obj
scene hut.fondale --out -
floor plan.svg hut.fondale
floor plan.svg hut.fondale --out a.fondale --in-place
floor nowhere.svg hut.fondale --out a.fondale
floor hut.fondale plan.svg --out a.fondale
floor - - --out a.fondale
floor plan.svg - --in-place
mesh nowhere.stl --unit mm
mesh part.stl
mesh part.stl --unit furlong
mesh part.stl --unit mm --percent 0
mesh part.stl --unit mm --percent 50 --height 30mm
mesh part.stl --unit mm --height tall
mesh part.stl --unit mm --no-keys
mesh part.stl --unit mm --format obj
mesh part.stl --unit mm --force
mesh part.stl --unit mm --machine lathe
mesh part.stl --unit mm --out parts --format step
mesh part.stl --unit mm --machine resin_small --out -
mesh hut.fondale --unit mm
bits hut.fondale
bits hut.fondale something
bits nowhere.csv box, 420 mm
bits box.csv box --most 0
fits nowhere.fondale
photo nowhere.fondale
photo plan.svg
demo --sample moon
demo --today soon
demo --today 9999-12-31
demo --tour pictures --save a.fondale
demo --force
demo --save /proc/none/a.fondale
open nowhere.fondale
open --tell
completion
completion csh
""".strip().splitlines()  # fmt: skip
OVER = """
demo --save hut.fondale
demo --save part.stl
demo --tour pictures
light hut.fondale --png hut.fondale
light hut.fondale --png hut.fondale --force
light hut.fondale --png there.png
plan hut.fondale --ics hut.fondale
plan hut.fondale --ics hut.fondale --force
plan hut.fondale --ics ./link.fondale --force
plan hut.fondale --ics there.ics
papers hut.fondale --out papers
scene hut.fondale --out there.glb
scene hut.fondale --out there.obj
scene hut.fondale --out there.svg
scene hut.fondale --out hut.fondale --format glb --force
mesh part.stl --unit mm --out .
mesh part.stl --unit mm --out . --force
mesh part.stl --unit mm --out parts
floor plan.svg hut.fondale --out hut.fondale
floor plan.svg hut.fondale --out plan.svg --force
floor plan.svg hut.fondale --out there.fondale
""".strip().splitlines()  # fmt: skip


@pytest.fixture(scope="module")
def folder(tmp_path_factory, hut) -> Path:
    """A maker's folder with a file of every kind, and things that must not be written over."""
    folder = tmp_path_factory.mktemp("bench")
    save(hut, folder / "hut.fondale")
    save(new_project("Nothing yet", TODAY), folder / "empty.fondale")
    (folder / "link.fondale").symlink_to("hut.fondale")
    (folder / "part.stl").write_bytes(sample_assets(SHORT["heron"])[CRANE])
    (folder / "box.csv").write_text("name,size 1\nCap,12\n", "utf-8")
    (folder / "plan.svg").write_text(PLAN, "utf-8")
    for name in (
        "there.png", "there.ics", "there.glb", "there.mtl", "there.svg", "there.fondale", "papers/pieces.csv", "parts/part.stl", "pictures/1-brief.png",
    ):  # fmt: skip
        (folder / name).parent.mkdir(exist_ok=True)
        (folder / name).write_text("kept")
    return folder


def contents(folder: Path) -> dict[str, str]:
    return {str(p.relative_to(folder)): hashlib.sha256(p.read_bytes()).hexdigest() for p in folder.rglob("*") if p.is_file()}


def words(line: str) -> list[str]:
    return line.replace("box, 420 mm", "box,_420_mm").replace("box --most", "box,_420_mm --most").split()


def call(folder: Path, monkeypatch, line: str) -> int:
    monkeypatch.chdir(folder)
    return run([w.replace("_", " ") if w.startswith("box,") else w for w in words(line)], lambda _window: 0, TODAY)


@pytest.mark.parametrize("line", [*BAD, *OVER])
def test_a_call_that_goes_wrong_says_one_line_ends_with_2_and_changes_nothing(folder, monkeypatch, capsys, line):
    before = contents(folder)
    assert call(folder, monkeypatch, line) == 2
    said = capsys.readouterr()
    assert re.fullmatch(r"fondale: .{15,}\n", said.err), said.err
    assert said.out == ""
    assert contents(folder) == before


def test_there_are_enough_of_them():
    assert len(BAD) >= 60
    assert len(OVER) >= 20


def test_what_is_there_is_written_over_when_it_is_asked_for(folder, monkeypatch, tmp_path, capsys):
    for line in (
        f"demo --sample hut --save {tmp_path}/a.fondale",
        f"plan hut.fondale --ics {tmp_path}/a.ics",
        f"scene hut.fondale --out {tmp_path}/a.svg",
    ):
        assert call(folder, monkeypatch, line) == 0
        assert call(folder, monkeypatch, line) == 2
        assert "--force" in capsys.readouterr().err
        assert call(folder, monkeypatch, f"{line} --force") == 0


def test_a_wall_in_place_keeps_the_project_as_it_was_among_its_backups(folder, monkeypatch, tmp_path, hut):
    mine = tmp_path / "mine.fondale"
    save(hut, mine)
    assert call(folder, monkeypatch, f"floor plan.svg {mine} --in-place") == 0
    assert len(load(mine).pieces) == len(hut.pieces) + 1
    assert any(load(b) == hut for b in tmp_path.rglob("*.fondale*") if b.is_file() and b != mine)


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("check", "The project is empty."),
        ("light", "no lamps"),
        ("circuit", "no supplies"),
        ("plan", "no steps"),
        ("fits", "no fits"),
        ("photo", "no photographs"),
    ],
)
def test_an_empty_project_says_so(folder, monkeypatch, capsys, line, said):
    assert call(folder, monkeypatch, f"{line} empty.fondale") == 0
    assert said.lower() in capsys.readouterr().out.lower()


def test_hints_name_the_commands_own_help(folder, monkeypatch, capsys):
    call(folder, monkeypatch, "scale 54 mm --loud")
    assert capsys.readouterr().err.endswith("Try: fondale scale --help\n")
    call(folder, monkeypatch, "bogus")
    assert capsys.readouterr().err.endswith("Try: fondale --help\n")


def fondale(*args, data: bytes = b"", **more):
    return subprocess.run([sys.executable, "-m", "fondale", *args], input=data, capture_output=True, check=False, timeout=120, **more)


def test_standard_input_and_output(folder, tmp_path):
    packed = (folder / "hut.fondale").read_bytes()
    assert fondale("fits", "-", data=packed).stdout == fondale("fits", folder / "hut.fondale").stdout
    made = fondale("mesh", "-", "--unit", "mm", "--percent", "50", "--out", "-", data=(folder / "part.stl").read_bytes())
    assert len(made.stdout) == 84 + 50 * int.from_bytes(made.stdout[80:84], "little")
    assert b"at 50 %" in made.stderr
    walled = fondale("floor", folder / "plan.svg", "-", "--out", "-", data=packed)
    (tmp_path / "walled.fondale").write_bytes(walled.stdout)
    assert len(load(tmp_path / "walled.fondale").pieces) == len(load(folder / "hut.fondale").pieces) + 1
    assert b"Cap" in fondale("bits", "-", "box, 420 mm", data=(folder / "box.csv").read_bytes()).stdout


def test_a_pipe_that_nobody_reads_is_quiet_and_has_a_code_of_its_own(folder):
    reader, writer = os.pipe()
    os.close(reader)
    done = subprocess.run([sys.executable, "-m", "fondale", "schema"], stdout=writer, stderr=subprocess.PIPE, check=False, timeout=60)
    os.close(writer)
    assert (done.returncode, done.stderr) == (141, b"")


def test_a_name_that_is_no_text_still_gives_text(folder, tmp_path):
    odd = os.fsencode(tmp_path) + b"/caf\xe9.fondale"
    Path(os.fsdecode(odd)).write_bytes((folder / "empty.fondale").read_bytes())
    told = fondale("check", odd, "--json")
    assert json.loads(told.stdout.decode("utf-8"))["prompts"] == []
    assert fondale("check", odd + b"x").stderr.decode("utf-8").startswith("fondale: ")


def test_an_interrupt_is_answered_in_one_line(folder):
    with subprocess.Popen(
        [sys.executable, "-m", "fondale", "light", folder / "hut.fondale", "--png", folder / "late.png"],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, start_new_session=True,
    ) as job:  # fmt: skip
        time.sleep(2)
        os.killpg(job.pid, signal.SIGINT)
        out, said = job.communicate(timeout=60)
    assert (job.returncode, out, said) == (130, b"", b"fondale: Stopped. Nothing was written.\n")


def test_an_interrupt_while_it_loads_is_answered_too():
    code = """
import builtins, sys
from fondale.__main__ import main
real = builtins.__import__
def late(name, *rest):
    if name == "fondale.cli":
        raise KeyboardInterrupt
    return real(name, *rest)
builtins.__import__ = late
sys.exit(main())
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr) == (130, "fondale: Stopped. Nothing was written.\n")


def test_samples_have_short_names():
    assert set(SHORT.values()) == set(SAMPLES)


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_shells_are_taught_to_complete(shell, capsys):
    assert run(["completion", shell], lambda _window: 0, TODAY) == 0
    assert "_FONDALE_COMPLETE" in capsys.readouterr().out


def test_commands_options_and_names_are_completed():
    def offered(*typed: str) -> str:
        env = {
            **os.environ,
            "_FONDALE_COMPLETE": "bash_complete",
            "COMP_WORDS": " ".join(("fondale", *typed)),
            "COMP_CWORD": str(len(typed)),
        }
        return fondale(env=env).stdout.decode()

    assert "plain,scale" in offered("sc")
    assert "plain,--pose" in offered("scale", "--po")
    assert "plain,heron" in offered("demo", "--sample", "h")


def test_an_answer_is_not_loaded_with_what_it_does_not_need():
    code = "import sys; from fondale.cli import run; from datetime import date; run(['{}'], None, date.today()); print(*(m for m in sys.modules if m in {}), file=sys.stderr)"
    heavy = ("numpy", "scipy", "pydantic", "PySide6", "numba", "rich", "fondale.core")
    for option in ("--version", "--help"):
        done = subprocess.run([sys.executable, "-c", code.format(option, heavy)], capture_output=True, text=True, check=True)
        assert done.stderr.strip() == ""


def test_progress_is_shown_on_a_terminal_alone():
    from fondale.cli.inout import Watch

    class Terminal(io.StringIO):
        def isatty(self) -> bool:
            return True

    with Watch("x", to=io.StringIO()) as quiet:
        quiet.step(0.5, "y")
    assert quiet._progress is None
    with Watch("x", to=Terminal()) as shown:
        shown.step(0.5, "y")
    assert shown._progress is not None
