# SPDX-License-Identifier: MIT
"""Photographs of every kind and size, tables of bits, and the files that a project carries."""

import io

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from fondale.app.document import Document
from fondale.core.edits import Remove, put
from fondale.core.edits.boxes import add_photo
from fondale.core.model import PHOTOS, PROJECT, Bit
from fondale.storage import Recovery
from fondale.storage.bits_csv import COLUMNS, TableTrouble, read_bits, read_table, write_bits
from fondale.storage.photos import PhotoTrouble, parse_picture, read_picture
from tests.conftest import tries


def picture(mode="RGB", size=(60, 40), kind="PNG", **more):
    out = io.BytesIO()
    Image.new(mode, size).save(out, kind, **more)
    return out.getvalue()


@pytest.mark.parametrize(
    ("mode", "kind", "ending"),
    [("RGB", "PNG", ".png"), ("RGBA", "PNG", ".png"), ("L", "PNG", ".png"), ("P", "PNG", ".png"), ("1", "PNG", ".png"), ("I;16", "PNG", ".png"),
     ("RGB", "JPEG", ".jpg"), ("CMYK", "JPEG", ".jpeg"), ("RGB", "WEBP", ".webp"), ("RGB", "TIFF", ".tif"), ("F", "TIFF", ".tiff")],
)  # fmt: skip
def test_every_kind_of_picture(tmp_path, mode, kind, ending):
    path = tmp_path / f"a{ending}"
    path.write_bytes(picture(mode, kind=kind))
    read = read_picture(path)
    assert (read.width, read.height) == (60, 40)
    assert read.data == path.read_bytes()
    assert read.shown.shape[2] == 3


@pytest.mark.parametrize(("orientation", "size"), [(1, (60, 40)), (3, (60, 40)), (6, (40, 60)), (8, (40, 60))])
def test_exif_turns_it_upright(orientation, size):
    """EXIF 2.3, tag 0x0112: 6 and 8 are a quarter turn. The dark corner of the sensor's picture follows."""
    pixels = np.full((40, 60, 3), 255, np.uint8)
    pixels[:10, :10] = 0
    exif = Image.Exif()
    exif[0x0112] = orientation
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", exif=exif)
    read = parse_picture(out.getvalue(), ".png")
    assert (read.width, read.height) == size
    shown = read.shown
    assert shown.shape[:2] == size[::-1]
    dark = {1: (0, 0), 3: (-1, -1), 6: (0, -1), 8: (-1, 0)}[orientation]
    assert shown[dark].max() < 40


def test_one_pixel_and_a_hundred_million():
    assert parse_picture(picture(size=(1, 1)), ".png").width == 1
    large = parse_picture(picture("L", (12_000, 9_000), "JPEG", quality=20), ".jpg")
    assert (large.width, large.height) == (12_000, 9_000)
    assert max(large.shown.shape) == 2000
    with pytest.raises(PhotoTrouble, match="smaller"):
        parse_picture(picture("1", (30_000, 30_000)), ".png")


@pytest.mark.parametrize(("name", "data", "says"), [("a.png", b"", "empty"), ("a.png", b"nothing", "no picture"), ("a.gif", b"GIF89a", "reads PNG"),
                                                    ("a.jpg", picture(kind="JPEG")[:40], "damaged"), ("a.png", picture()[:50], "damaged")])  # fmt: skip
def test_pictures_that_are_none(tmp_path, name, data, says):
    (tmp_path / name).write_bytes(data)
    with pytest.raises(PhotoTrouble, match=says):
        read_picture(tmp_path / name)
    with pytest.raises(PhotoTrouble, match="cannot be read"):
        read_picture(tmp_path / f"no-{name.replace('gif', 'png')}")


@tries(80)
@given(st.binary(max_size=200), st.sampled_from([b"", b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"RIFF", b"II*\0"]))
def test_no_bytes_break_the_picture_reader(data, head):
    with pytest.raises(PhotoTrouble):
        parse_picture(head + data, ".png")


SIZE = st.floats(0.01, 9000).map(lambda v: float(f"{v:g}"))
WORDS = st.text(st.characters(codec="utf-8", categories=("L", "N", "P", "Zs")), min_size=1, max_size=40).map(str.strip).filter(bool)


@given(st.lists(st.builds(
    Bit, id=st.just("x"), name=WORDS, outline=st.sampled_from(["cylinder", "box", "plate"]), sizes=st.tuples(SIZE, SIZE),
    native_n=st.sampled_from([0.0, 24.0, 35.0, 87.1]), source=WORDS, drawer=WORDS, count=st.integers(0, 999),
    state=st.sampled_from(["in the box", "used", "lost"]), note=WORDS), max_size=6))  # fmt: skip
def test_bits_come_back_from_their_table(bits):
    table = read_bits(write_bits(tuple(bits)))
    assert not table.troubles
    assert [b.model_copy(update={"id": "x"}) for b in table.bits] == bits
    assert len({b.id for b in table.bits}) == len(bits)


def test_tables_of_others_and_bad_rows():
    text = "\ufeffName;Outline;Size 1;Size 2;Count;Scale\nDrum;cylinder;8,6;12;3;1:35\nStrut;rod;1/16in;2in;;\n;box;1;1;1;\nBad;box;NaN;1;1;\nBad;ball;3;;;\nBad;box;3;;-1;\nBad;box;3;;;0\nBad;box;-3;;;\n\nPlate;plate;9;;;"
    table = read_bits(text, ("drum",))
    assert [b.id for b in table.bits] == ["drum-2", "strut", "plate"]
    assert table.bits[0].sizes == (8.6, 12)
    assert table.bits[1].sizes[0] == pytest.approx(25.4 / 16)
    assert [t.split(":")[0] for t in table.troubles] == [f"Line {n}" for n in (4, 5, 6, 7, 8, 9)]
    assert "“nan” is not a length" in table.troubles[1].lower()


@pytest.mark.parametrize("text", ["", "  \n", "just words\nmore", "a,b,c\n1,2,3"])
def test_tables_that_are_none(text):
    with pytest.raises(TableTrouble):
        read_bits(text)
    assert COLUMNS[0] == "name"


@pytest.mark.parametrize("code", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_tables_as_spreadsheets_write_them(tmp_path, code):
    path = tmp_path / "a.csv"
    path.write_bytes("name;size 1;drawer\nRöhre ø 3;3,5;Fächer\n".encode(code))
    bit = read_table(path).bits[0]
    assert (bit.name, bit.sizes[0], bit.drawer) == ("Röhre ø 3", 3.5, "Fächer")
    with pytest.raises(TableTrouble, match="none"):
        read_table(tmp_path / "none.csv")


@given(st.text(max_size=300))
def test_no_text_breaks_the_table_reader(text):
    table = read_bits("name,size 1\n" + text)
    assert len(table.bits) >= 0


def test_files_travel_with_the_project_and_only_those_it_names(empty, tmp_path):
    document = Document(empty)
    kept = document.keep_asset("photos", "Quay at dusk.PNG", picture())
    other = document.keep_asset("photos", "other.png", picture(size=(2, 2)))
    assert kept.startswith("assets/photos/quay-at-dusk-")
    assert kept.endswith(".png")
    assert document.keep_asset("photos", "Quay at dusk.PNG", picture()) == kept
    document.do(add_photo(document.project, "Quay", kept, 60, 40)[0])
    document.save(tmp_path / "a.fondale")
    opened = Document.opened(tmp_path / "a.fondale")
    assert opened.assets == {kept: picture()}
    assert other in document.assets
    document.do(Remove("Remove", PHOTOS, "quay"))
    document.save()
    assert Document.opened(tmp_path / "a.fondale").assets == {}
    document.undo()
    document.save()
    assert Document.opened(tmp_path / "a.fondale").assets == {kept: picture()}


def test_recovery_keeps_the_files_too(empty, tmp_path):
    recovery = Recovery(tmp_path / "state")
    document = Document(empty)
    asset = document.keep_asset("photos", "a b.png", picture())
    document.do(put(PROJECT.then(lambda p: p.name), "Changed", "Rename"))
    assert recovery.keep(document.project, None, document.assets) == ""
    assert recovery.keep(document.project, None, document.assets) == ""
    again = Recovery(tmp_path / "state")
    assert again.found()[0].name == "Changed"
    assert again.read(None).assets == {asset: picture()}
    again.drop()
    assert again.read(None).assets == {}
