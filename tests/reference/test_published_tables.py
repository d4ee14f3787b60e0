"""Shipped facts against published ones: stature, railway scales, resistor rows."""

import numpy as np
import pytest

from fondale.knowledge import table


@pytest.mark.parametrize(("sex", "person", "n"), [(0, "man", 762), (1, "woman", 804)])
def test_stature_is_that_of_nhefs(sex, person, n):
    # NHEFS (United States 1971, ages 25-74), column ht in cm, as carried by the package causaldata.
    causaldata = pytest.importorskip("causaldata")
    data = causaldata.nhefs_complete.load_pandas().data
    height = data.loc[data["sex"].astype(float) == sex, "ht"].to_numpy(float) * 10
    row = table("body")["people"][person]
    assert len(height) == n
    assert row["mean_mm"] == pytest.approx(height.mean(), rel=0.002)
    assert row["sd_mm"] == pytest.approx(height.std(ddof=1), rel=0.02)


def test_nmra_scales_are_304_8_over_millimetres_to_the_foot():
    # NMRA S-1.2 (from memory): mm to the foot.
    rows = {r.get("name"): r["n"] for r in table("scales")["scale"]}
    for name, mm_to_foot in (("H0", 3.5), ("00", 4.0), ("O", 6.35), ("S", 4.7625), ("TT", 2.54), ("N", 1.905), ("Z", 1.385)):
        assert rows[name] == pytest.approx(304.8 / mm_to_foot, rel=0.005)
    # NEM 010 (from memory).
    assert (rows["0"], rows["I"], rows["II"]) == (45, 32, 22.5)


def test_resistor_rows_are_those_of_iec_60063():
    row = table("electric")["resistor"]
    assert set(row["e12"]) <= set(row["e24"])
    assert len(row["e12"]) == 12
    rounded = [round(10 * 10 ** (k / 24)) for k in range(24)]
    # IEC 60063 differs from the rounded formula at 27 30 33 36 39 43 47 82.
    assert sorted(set(row["e24"]) - set(rounded)) == [27, 30, 33, 36, 39, 43, 47, 82]


def test_segments_add_up():
    # Drillis and Contini 1966 (from memory, as printed in biomechanics handbooks): the chain must close.
    s = table("body")["segments"]
    assert s["knee"] + s["thigh"] == pytest.approx(s["hip"], abs=0.001)
    assert s["ankle"] + s["shank"] == pytest.approx(s["knee"], abs=0.001)
    assert s["chin"] + s["head"] == pytest.approx(1.0)
    assert s["shoulder"] - s["upper_arm"] == pytest.approx(s["elbow"], abs=0.003)
    assert s["elbow"] - s["forearm"] == pytest.approx(s["wrist"], abs=0.002)


def test_every_row_names_its_source():
    for name, group in (("body", "people"), ("scales", "things")):
        for row in table(name)[group].values():
            assert row["source"]
    for row in table("cautions").values():
        assert len(row["text"]) > 20


def test_cells_only_ever_fall():
    for row in table("electric")["cell"].values():
        assert (np.diff(row["emf_v"]) < 0).all()
        assert (np.diff(row["ohm"]) > 0).all()
        assert row["depth"][0] == 0.0
        assert row["depth"][-1] == 1.0
