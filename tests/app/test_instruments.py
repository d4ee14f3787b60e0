import numpy as np

from fondale.instruments import SimulatedCaliper, SimulatedLuxMeter


def test_the_caliper_shows_its_zero_error_until_it_is_zeroed():
    caliper = SimulatedCaliper(seed=1, offset_mm=0.35)
    assert abs(caliper.closed_mm() - 0.35) < 1e-9
    before = np.mean([caliper.read_mm(50.0) for _ in range(400)])
    caliper.zero()
    assert caliper.closed_mm() == 0.0
    after = np.array([caliper.read_mm(50.0) for _ in range(400)])
    assert before - after.mean() > 0.3
    assert abs(after.mean() - 50.0) < 0.005
    assert 0.01 < after.std() < 0.04


def test_the_caliper_reads_in_hundredths_and_repeats_from_its_seed():
    a, b = SimulatedCaliper(seed=3), SimulatedCaliper(seed=3)
    values = [a.read_mm(12.345) for _ in range(20)]
    assert values == [b.read_mm(12.345) for _ in range(20)]
    assert all(abs(v * 100 - round(v * 100)) < 1e-6 for v in values)
    assert SimulatedCaliper(offset_mm=0).read_mm(0.0) >= 0


def test_the_lux_meter_errs_by_a_few_percent_and_shows_three_digits():
    meter = SimulatedLuxMeter(seed=2)
    shown = np.array([meter.read_lx(1234.0) for _ in range(400)])
    assert abs(shown.mean() / 1234 - 1) < 0.01
    assert 0.02 < shown.std() / 1234 < 0.04
    assert all(float(f"{v:.3g}") == v for v in shown)
    assert SimulatedLuxMeter().read_lx(0.0) == 0.0
