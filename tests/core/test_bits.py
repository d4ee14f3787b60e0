# SPDX-License-Identifier: MIT
"""Ranking of bits against a slow readable search, and what a donor part reads as."""

import math
from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fondale.core.bits.reads import likenesses, reads_as
from fondale.core.bits.search import CUT, FAT, OUTLINES, SHORT, pack, rank, scores, sides_of
from fondale.core.edits import apply
from fondale.core.edits.boxes import bring_bits, use_bit
from fondale.core.model import Bit, Need
from fondale.core.words import with_article

DRUM = Need(id="d", name="Winch drum", outline="cylinder", real=(300, 420))


def bit(ident, outline, *sizes, **more):
    return Bit(id=ident, name=ident, outline=outline, sizes=sizes, **more)


def test_the_right_drum_floats_up_and_says_what_to_trim():
    """A drum 300 mm across and 420 long is 8.57 x 12.0 mm at 1:35."""
    box = pack((
        bit("long", "cylinder", 8.6, 15.0), bit("right", "cylinder", 8.5, 12.1), bit("thin", "cylinder", 4.0, 12.0),
        bit("short", "cylinder", 8.6, 9.0), bit("block", "box", 8.6, 8.6, 12.0), bit("gone", "cylinder", 8.57, 12.0, state="used"),
        bit("none", "cylinder", 8.57, 12.0, count=0),
    ))  # fmt: skip
    found = rank(box, DRUM, 35)
    assert [m.bit for m in found[:2]] == ["right", "long"]
    assert {"gone", "none"}.isdisjoint(m.bit for m in found)
    assert found[0].trim == "as it is"
    assert found[1].trim == "cut 3 mm off the length"
    assert found[1].verdict == "to trim"
    by = {m.bit: m for m in found}
    assert by["short"].trim == "length 3 mm short"
    assert "short" in by["thin"].trim
    assert by["thin"].verdict == "far off"


def test_open_sizes_of_a_need_cost_nothing():
    need = Need(id="d", name="Drum", outline="cylinder", real=(300,))
    found = rank(pack((bit("a", "cylinder", 8.57, 99.0), bit("b", "cylinder", 8.9, 12.0))), need, 35)
    assert found[0].bit == "a"
    assert len(found[0].off) == 1


def slow(box, need, n):
    """The same search with plain loops."""
    want = sides_of(need.outline, tuple(r / n for r in need.real))
    round_need = need.outline in ("cylinder", "rod", "dome")
    cut = {"box": (1, 1, 1), "plate": (1, 1, 0)}.get(need.outline, (0, 0, 1))
    out = []
    for sides, code in zip(box.sides.tolist(), box.outline.tolist(), strict=True):
        ways = permutations(range(3)) if not round_need else [(0, 1, 2)] if code < 3 else [(0, 1, 2), (1, 2, 0), (0, 2, 1)]
        best = math.inf
        for way in ways:
            total = 0.0
            for axis, side in enumerate(way):
                r = math.log(sides[side] / want[axis])
                total += (r * (CUT if cut[axis] else FAT) if r > 0 else -r * SHORT) * ((0.5, 0.5, 1)[axis] if round_need else 1)
            best = min(best, total)
        out.append(best)
    return np.array(out)


@given(st.integers(0, 1000), st.sampled_from(["cylinder", "box", "plate", "dome"]))
def test_the_fast_search_equals_the_slow_one(seed, outline):
    rng = np.random.default_rng(seed)
    kinds = ("cylinder", "rod", "dome", "box", "plate")
    bits = tuple(bit(f"b{i}", kinds[i % 5], *np.exp(rng.uniform(-1, 4, 3 if i % 5 > 2 else 2)).tolist()) for i in range(20))
    real = (300.0, 420.0) if outline in ("cylinder", "dome") else (300.0, 200.0, 90.0)
    need = Need(id="n", name="N", outline=outline, real=real)
    box = pack(bits)
    assert box.sides.tolist() == [list(sides_of(b.outline, b.sizes)) for b in bits]
    other = (*bits[:7], bit("b7", kinds[seed % 5], 3.5, 8.25), *bits[8:])
    again, anew = pack(other, box), pack(other)
    assert all(np.array_equal(getattr(again, name), getattr(anew, name)) for name in ("sides", "outline", "there"))
    same = np.array([k == kinds.index(outline) for k in box.outline])
    assert np.allclose(scores(box, need, 35)[0][same], slow(box, need, 35)[same])


def test_bits_of_a_table_take_their_places_or_come_in_anew(empty):
    box = bring_bits(empty, (bit("wheel", "cylinder", 8, 2), bit("tank", "box", 9, 5)))
    project = apply(empty, box)
    table = (bit("wheel-2", "cylinder", 8.5, 2), bit("wheel-3", "cylinder", 7, 2), bit("tank", "box", 1, 1))
    project = apply(project, bring_bits(project, table, ("wheel", "wheel", "")))
    # The first row is the wheel of the box, its copy is another one, and an id in use makes way.
    assert [(b.id, b.sizes[0]) for b in project.bits] == [("wheel", 8.5), ("tank", 9), ("wheel-3", 7), ("tank-2", 1)]


def test_what_serves_goes_before_what_is_merely_near():
    """TRADE (common practice, no source): a length is cut down, a diameter is not."""
    barrel, stub = bit("barrel", "cylinder", 7.6, 92), bit("stub", "cylinder", 9.4, 16)
    need = Need(id="n", name="Bollard", outline="cylinder", real=(260, 550))
    found = rank(pack((stub, barrel)), need, 35)
    assert [(m.bit, m.verdict) for m in found] == [("barrel", "to trim"), ("stub", "far off")]
    assert found[0].score > found[1].score
    assert found[0].trim == "cut 76.3 mm off the length"


def test_what_a_file_takes_off_does_not_count():
    """Common practice, no source: 1 mm sheet serves where 0.86 mm would be right; a quarter of a size is more than that."""
    need = Need(id="n", name="Shelf", outline="plate", real=(1200, 300, 30))
    sheet, thick, tube = bit("sheet", "plate", 150, 90, 1.0), bit("thick", "plate", 150, 90, 1.5), bit("tube", "cylinder", 9, 34)
    found = {m.bit: m.verdict for m in rank(pack((sheet, thick, tube)), need, 35)}
    assert found == {"sheet": "to trim", "thick": "far off", "tube": "far off"}
    pin = Need(id="n", name="Pin", outline="rod", real=(14, 350))
    assert rank(pack((bit("wire", "rod", 0.55, 10),)), pin, 35)[0].verdict == "far off"


def test_articles_go_by_the_sound():
    drum = Bit(id="d", name="Oil drum", outline="cylinder", sizes=(12.1, 18.4), native_n=48)
    assert "this was an oil drum" in reads_as(drum, 35)
    assert [with_article(w) for w in ("keg", "oil drum", "Air vessel")] == ["a keg", "an oil drum", "an Air vessel"]


def test_ties_go_by_id_and_an_empty_box_gives_nothing():
    assert rank(pack(()), DRUM, 35) == ()
    twins = pack((bit("b", "cylinder", 8, 12), bit("a", "cylinder", 8, 12)))
    assert [m.bit for m in rank(twins, DRUM, 35)] == ["a", "b"]
    with pytest.raises(ValueError, match="above zero"):
        rank(twins, DRUM, 0)


def test_the_lorry_wheel_of_another_scale_reads_as_a_cart_wheel():
    """41.7 mm across: 1.00 m at 1:24, 1.46 m at 1:35 (common practice)."""
    wheel = bit("w", "cylinder", 41.7, 3.5, native_n=24)
    words = reads_as(wheel, 35)
    assert "In the 1:24 kit this was a" in words
    assert "1.00 m" in words
    assert "here it reads as a horse cart wheel of 1.46 m" in words
    assert "house scale" in reads_as(bit("w", "cylinder", 41.7, 3.5, native_n=35), 35)
    assert reads_as(bit("x", "box", 1, 900, 900), 35).startswith("At 1:35 it reads as something of")


def test_tyres_from_their_code():
    """Outer diameter = rim x 25.4 + 2 x width x aspect (tyre codes; ETRTO, from memory)."""
    assert likenesses("cylinder", (634.5 / 35, 195 / 35), 35)[0].name == "car wheel"
    assert likenesses("cylinder", (1043.5 / 35, 295 / 35), 35)[0].name == "lorry wheel"


@pytest.mark.parametrize(("outline", "sizes"), [("box", (1200, 800, 144)), ("box", (6058, 2438, 2591)), ("plate", (2030, 830, 40))])
def test_standard_things_are_recognised_at_any_scale(outline, sizes):
    """[en13698] pallet, [iso668] container, door leaf (common practice)."""
    for n in (24, 35, 87):
        found = likenesses(outline, tuple(s / n for s in sizes), n)
        assert found[0].distance < 1e-9


def test_a_block_is_judged_by_its_worse_side_and_never_serves_for_a_wheel():
    need = Need(id="n", name="Wheel", outline="cylinder", real=(1450, 70))
    wheel, block, square = bit("wheel", "cylinder", 41.7, 5.5), bit("block", "box", 40, 28, 12), bit("square", "box", 41.4, 41.4, 2)
    found = {m.bit: m for m in rank(pack((wheel, block, square)), need, 35)}
    assert found["wheel"].verdict == "to trim"
    assert found["block"].off[0] == pytest.approx(28 / (1450 / 35) - 1)
    assert found["block"].verdict == "far off"
    assert found["square"].verdict == "nearly"


def test_nobody_cuts_a_diameter(empty):
    """“Cut 0.2 mm off the long side” was said of a round bit that is too thick."""
    need = Need(id="n", name="N", outline="box", real=(300, 300, 300))
    tin = Bit(id="b", name="B", outline="cylinder", sizes=(11.0, 10.0))  # 11 mm across
    (match,) = rank(pack((tin,)), need, 30.0)
    assert "cut" not in match.trim
    assert match.trim.startswith("diameter 1")


@given(
    st.sampled_from(OUTLINES), st.lists(st.floats(0.01, 9000), min_size=1, max_size=3), st.sampled_from(OUTLINES),
    st.lists(st.floats(0.01, 90), min_size=2, max_size=3),
)  # fmt: skip
def test_any_outline_goes_with_any_number_of_sizes(outline, real, other, sizes):
    """A box of three sizes that was turned into a drum made the search raise, while the page was drawn."""
    need = Need(id="n", name="N", outline=outline, real=tuple(real))
    (match,) = rank(pack((Bit(id="b", name="B", outline=other, sizes=tuple(sizes)),)), need, 35.0)
    assert match.trim
    assert len(match.off) <= 3


def test_a_need_of_many_takes_as_many_as_there_are(empty):
    need = Need(id="wheels", name="Wheel", outline="cylinder", real=(720.0, 200.0), count=12)
    bit = Bit(id="w", name="Lorry wheel", outline="cylinder", sizes=(20.0, 6.0), count=8)
    project = empty.but(needs=(need,), bits=(bit,))
    edits, first = use_bit(project, bit, need)
    after = apply(project, *edits)
    assert len(after.pieces) == 8
    assert after.pieces[0].id == first
    assert (after.bits[0].count, after.bits[0].state) == (0, "used")
    assert (after.needs[0].count, after.needs[0].made) == (4, False)
    more = after.but(bits=(bit.but(count=6),))
    done = apply(more, *use_bit(more, more.bits[0], more.needs[0])[0])
    assert done.needs[0].made
    assert (len(done.pieces), done.bits[0].count) == (12, 2)
    alone = apply(project, *use_bit(project, bit, None)[0])
    assert (len(alone.pieces), alone.bits[0].count) == (1, 7)
