# SPDX-License-Identifier: MIT
import csv
import io
import json
import os
import re
import resource
import subprocess
import sys
from datetime import date
from pathlib import Path

import jsonschema
import pytest
from PIL import Image

from fondale import __version__
from fondale.app.window import Window
from fondale.cli import run
from fondale.core.bits.search import VERDICTS
from fondale.demo import sample_assets
from fondale.storage import load, save
from fondale.storage.files import to_json
from fondale.storage.patience import MEMORY_BYTES
from tests.conftest import TODAY

opened: list[Window] = []


def call(*args: object) -> int:
    opened.clear()
    return run([str(a) for a in args], lambda window: opened.append(window) or 0, TODAY)


@pytest.fixture(scope="module")
def hut_file(hut, tmp_path_factory) -> Path:
    path = tmp_path_factory.mktemp("cli") / "hut.fondale"
    save(hut, path)
    return path


@pytest.fixture(scope="module")
def heron_file(heron, tmp_path_factory) -> Path:
    path = tmp_path_factory.mktemp("cli") / "heron.fondale"
    save(heron, path)
    return path


def test_without_a_command_the_window_opens():
    assert call() == 0
    assert opened == [Window(today=TODAY)]


def test_opening_a_file_and_the_demo(hut_file, tmp_path):
    assert call("open", hut_file) == 0
    assert opened[0].document.path == hut_file
    assert call("demo") == 0
    assert opened[0].sample == "Heron Stairs, last boat"
    assert call("demo", "--tour", tmp_path, "--today", "2026-05-01") == 0
    assert opened[0].tour == tmp_path
    assert opened[0].today == date(2026, 5, 1)


def test_only_the_command_itself_bounds_its_process(hut_file):
    before = resource.getrlimit(resource.RLIMIT_DATA)
    call("check", hut_file)
    assert resource.getrlimit(resource.RLIMIT_DATA) == before
    code = "import resource, sys; from fondale.__main__ import main; main(); print(resource.getrlimit(resource.RLIMIT_DATA)[0])"
    done = subprocess.run([sys.executable, "-c", code, "check", "nowhere"], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == str(MEMORY_BYTES)


def test_the_demo_can_be_saved(tmp_path, heron):
    assert call("demo", "--save", tmp_path / "a.fondale") == 0
    assert opened == []
    assert load(tmp_path / "a.fondale") == heron


def test_scale_in_words_and_as_json(capsys):
    assert call("scale", "54 mm", "--pose", "standing", "--house", "1:35") == 0
    out = capsys.readouterr().out
    assert "native scale 1:32.4" in out
    assert "92.7 %" in out
    assert "to the eyes" in out
    assert call("scale", "37mm", "--pose", "kneeling_one", "--json") == 0
    found = json.loads(capsys.readouterr().out)
    assert found["low_n"] < found["native_n"] < found["high_n"]
    assert found["native_n"] == pytest.approx(35.6, abs=0.5)
    assert set(found) == {
        "measured_mm",
        "real_mm",
        "native_n",
        "low_n",
        "high_n",
        "plausible",
        "factor",
        "wanted_mm",
        "reads_as",
        "off",
        "verdict",
        "nominal",
    }


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (("scale", "abc"), "is not a length"),
        (("scale", "54mm", "--pose", "juggling"), "There is no pose"),
        (("scale", "54mm", "--person", "giant"), "There is no person"),
        (("scale", "54mm", "--house", "big"), "is not a scale"),
        (("scale", "54mm", "--error", "-1"), "above zero"),
        (("scale", "0.0001mm"), "Heights from 0.001 mm to 100 m can be read."),
        (("scale", "999999"), "Heights from 0.001 mm to 100 m can be read."),
        (("scale",), "Missing argument"),
        (("bogus",), "No such command"),
        (("check", "nowhere.fondale"), "There is no file"),
        (("light", "nowhere.fondale"), "There is no file"),
        (("circuit", "nowhere.fondale"), "There is no file"),
        (("plan", "nowhere.fondale"), "There is no file"),
        (("papers", "nowhere.fondale", "--out", "x"), "There is no file"),
        (("papers", "nowhere.fondale"), "Missing option"),
        (("open", "nowhere.fondale"), "There is no file"),
        (("demo", "--sample", "Moon base"), "There is no sample"),
        (("demo", "--today", "soon"), "is not a day"),
        (("demo", "--save", "/proc/none/a.fondale"), "be written"),
    ],
)
def test_bad_words_give_one_line_and_exit_2(capsys, args, says):
    assert call(*args) == 2
    captured = capsys.readouterr()
    assert says in captured.err
    assert captured.err.strip().count("\n") == 0
    assert captured.out == ""
    assert opened == []


def test_a_damaged_file_gives_one_line(tmp_path, capsys):
    bad = tmp_path / "bad.fondale"
    bad.write_bytes(b"PK\x03\x04 rubbish")
    for command in ("check", "light", "circuit", "plan", "open"):
        assert call(command, bad) == 2
        assert "damaged" in capsys.readouterr().err
    assert opened == []


def test_a_file_that_is_opened_from_the_desktop_is_answered_in_the_window(tmp_path, capsys):
    assert call("open", "--tell", tmp_path / "gone.fondale") == 0
    assert "There is no file" in opened[0].trouble
    assert opened[0].document is None


def test_check_lists_prompts_and_fails_on_a_stop(heron_file, hut_file, capsys):
    assert call("check", heron_file, "--json") == 1
    found = json.loads(capsys.readouterr().out)["prompts"]
    assert {"code", "key", "keys", "severity", "station", "title", "text", "numbers", "subjects", "fixes"} == set(found[0])
    assert any(f["code"] == "COAT-ACCESS" for f in found)
    assert call("check", hut_file) == 0
    assert "WIRE-SUPPLY" in capsys.readouterr().out


def test_light_as_json_and_as_a_picture(hut_file, tmp_path, capsys):
    picture = tmp_path / "deep" / "view.png"
    assert call("light", hut_file, "--json", "--seat", "table", "--png", picture, "--width", 96) == 0
    found = json.loads(capsys.readouterr().out)
    (meter,) = found["meters"]
    assert meter["lux"] == pytest.approx(sum(b * w for b, w in zip(meter["bands"], (0.2126, 0.7152, 0.0722), strict=True)))
    assert sum(meter["by_lamp"].values()) == pytest.approx(meter["lux"])
    assert all(0 <= a["evenness"] <= 1 for a in found["areas"])
    with Image.open(picture) as image:
        assert image.size[0] == 96
    assert call("light", hut_file) == 0
    assert "Snow before the door" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("extra", "says"),
    [
        (("--moment", "noon"), "no moment"),
        (("--seat", "moon", "--png", "x.png"), "no seat"),
        (("--width", "3", "--png", "x.png"), "not in the range"),
    ],
)
def test_light_refuses_what_is_not_there(hut_file, capsys, extra, says):
    assert call("light", hut_file, *extra) == 2
    assert says in capsys.readouterr().err


def test_circuit_tells_nodes_and_every_current(heron_file, capsys):
    assert call("circuit", heron_file, "--json") == 0
    plug, cells = json.loads(capsys.readouterr().out)["supplies"]
    assert plug["hours_half"] is None
    assert cells["hours_half"] > 0
    assert plug["amps"] == pytest.approx(sum(s["amps"] for s in plug["strings"]))
    assert {"0", "plus"} <= set(plug["nodes_v"])
    assert call("circuit", heron_file) == 0
    assert "half light after" in capsys.readouterr().out


def test_plan_as_words_json_and_calendar(hut_file, tmp_path, capsys):
    ics = tmp_path / "a.ics"
    assert call("plan", hut_file, "--json", "--ics", ics, "--today", "2026-11-24") == 0
    found = json.loads(capsys.readouterr().out)
    assert found["proven"] is True
    assert sum(i["minutes"] for e in found["evenings"] for i in e["items"]) == found["minutes_left"]
    text = ics.read_bytes().decode()
    assert text.count("BEGIN:VEVENT") == len(found["evenings"]) + 1
    assert call("plan", hut_file) == 0
    assert "proven earliest" in capsys.readouterr().out


def test_papers_are_written(hut_file, tmp_path, capsys):
    assert call("papers", hut_file, "--out", tmp_path / "papers") == 0
    assert {p.name for p in (tmp_path / "papers").iterdir()} == {"build-sheet.pdf", "cut-list.csv", "pieces.csv", "running-order.ics"}
    rows = list(csv.reader(io.StringIO((tmp_path / "papers" / "pieces.csv").read_text("utf-8"))))
    assert rows[0][0] == "piece"
    assert len({len(r) for r in rows}) == 1
    capsys.readouterr()
    assert call("papers", hut_file, "--out", "/proc/none") == 2
    assert "cannot be written" in capsys.readouterr().err


def test_the_schema_describes_the_samples(capsys, heron, glass, hut):
    assert call("schema") == 0
    schema = json.loads(capsys.readouterr().out)
    for project in (heron, glass, hut):
        jsonschema.validate(json.loads(to_json(project)), schema)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({"name": "x"}, schema)


def test_help_and_version(capsys):
    assert call("--help") == 0
    assert "check" in capsys.readouterr().out
    assert call("--version") == 0
    assert __version__ in capsys.readouterr().out


def test_a_body_is_brought_to_size_and_cut(tmp_path, capsys):
    crane = tmp_path / "crane.stl"
    crane.write_bytes(sample_assets("Heron Stairs, last boat")["assets/prints/quay-crane.stl"])
    assert call("mesh", crane) == 2
    assert "--unit" in capsys.readouterr().err
    assert call("mesh", crane, "--unit", "mm", "--machine", "resin_small", "--out", tmp_path / "parts", "--json") == 0
    told = json.loads(capsys.readouterr().out)
    assert len(told["parts"]) == len(list((tmp_path / "parts").glob("*.stl"))) > 1
    assert told["error"] < 1e-3
    assert call("mesh", crane, "--unit", "mm", "--height", "100 mm") == 0
    assert "100 mm at" in capsys.readouterr().out
    assert call("mesh", tmp_path / "none.stl", "--unit", "mm") == 2
    assert call("mesh", crane, "--unit", "mm", "--height", "tall") == 2


def test_bits_fits_and_photographs_are_told(heron_file, tmp_path, capsys):
    assert call("bits", heron_file, "drum, 300 mm across, 420 long", "--json") == 0
    told = json.loads(capsys.readouterr().out)
    assert told["outline"] == "cylinder"
    places = [(VERDICTS.index(b["verdict"]), b["score"]) for b in told["bits"]]
    assert places == sorted(places)
    table = tmp_path / "box.csv"
    table.write_text("name,size 1\nCap,12\n", "utf-8")
    assert call("bits", table, "box, 420 mm") == 0
    assert "Cap" in capsys.readouterr().out
    assert call("bits", heron_file, "something") == 2
    assert call("bits", tmp_path / "none.csv", "box, 420 mm") == 2
    capsys.readouterr()
    assert call("fits", heron_file) == 1
    assert "will not go in" in capsys.readouterr().out
    assert call("fits", heron_file, "--json") == 1
    assert {f["verdict"] for f in json.loads(capsys.readouterr().out)["fits"]} >= {"fits"}
    assert call("photo", heron_file) == 0
    assert "Bollard: 548 mm" in capsys.readouterr().out
    assert call("photo", heron_file, "--json") == 0
    threads = json.loads(capsys.readouterr().out)["photos"][0]["threads"]
    assert all(t["real_mm"] for t in threads)


@pytest.mark.parametrize(("display", "said"), [("", "there is no display"), (":77", "the display :77 does not answer")])
def test_without_a_display_that_answers_the_window_ends_in_one_line(display, said):
    env = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY", "DISPLAY")} | (
        {"DISPLAY": display} if display else {}
    )
    done = subprocess.run([sys.executable, "-m", "fondale", "open"], env=env, capture_output=True, text=True, check=False, timeout=60)
    assert (done.returncode, done.stdout) == (2, "")
    assert re.fullmatch(rf"fondale: The window cannot open: {re.escape(said)}.*\n", done.stderr)
    assert "reinstall" not in done.stderr.lower()
