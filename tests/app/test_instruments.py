# SPDX-License-Identifier: MIT
from itertools import pairwise

import numpy as np
import pytest

from fondale.instruments import SERVICES, Request, SimulatedCaliper, SimulatedLuxMeter, SimulatedPrinter, run_bank


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


def test_printers_print_at_their_pace_and_fail_early_more_than_late():
    sure = SimulatedPrinter("a")
    assert sure.advance(1).state == "idle"
    sure.start("crane", 4.0, 1.0)
    assert [sure.advance(1.5).state for _ in range(4)] == ["printing", "printing", "done", "idle"]
    failures = []
    for seed in range(400):
        printer = SimulatedPrinter("b", seed)
        printer.start("crane", 10.0, 0.7)
        while (report := printer.advance(0.05)).state == "printing":
            pass
        if report.state == "failed":
            failures.append(report.done)
    assert 0.2 < len(failures) / 400 < 0.4
    assert sum(f < 0.5 for f in failures) > 1.5 * sum(f >= 0.5 for f in failures)


@pytest.mark.parametrize("count", [1, 2, 3, 4])
def test_a_bank_of_printers_ends_with_every_job_good(count):
    jobs = [(f"j{k}", 1.0 + k, 0.75) for k in range(6)]
    bars = run_bank([SimulatedPrinter(f"p{i}", 3) for i in range(count)], jobs)
    assert sorted(b.job for b in bars if b.good) == [f"j{k}" for k in range(6)]
    for name in {b.printer for b in bars}:
        mine = [b for b in bars if b.printer == name]
        assert all(a.end <= b.start + 1e-9 for a, b in pairwise(mine))
    assert run_bank([], jobs) == ()
    # A job of a minute is done between two looks at the printer; one that never comes off ends too.
    assert [b.good for b in run_bank([SimulatedPrinter("p", 3)], [("rivet", 0.02, 1.0)])] == [True]
    assert len(run_bank([SimulatedPrinter("p", 3)], [("thread", 0.02, 0.0)])) == 2000


def test_services_quote_far_apart_and_refuse_in_words():
    # TRADE 3: quotes vary by a factor of two, common practice.
    prices = [s.quote(Request(30.0, (60, 40, 30), 2.0, "resin", 2)).price for s in SERVICES]
    assert len(SERVICES) == 3
    assert max(prices) / min(prices) > 1.3
    assert all("too large" in s.quote(Request(30.0, (900, 40, 30), 2.0, "resin", 1)).words for s in SERVICES)
    thin = [s.quote(Request(30.0, (60, 40, 30), 0.6, "resin", 1)).refused for s in SERVICES]
    assert sorted(thin) == [False, True, True]
