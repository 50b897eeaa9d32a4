"""What must not change when only the way of asking does."""

import json
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.calc.door import CALCULATIONS
from fairline.core.physics.tubing import full_liquid_kg_per_m, size_label, tube_at, tubes
from tests.core.calc.test_door import REQUESTS


def run(name, request):
    return json.loads(CALCULATIONS[name].run(json.dumps(request)).model_dump_json())


@given(shift=st.floats(0, 1e6), lost=st.floats(0, 3e5), cool=st.floats(-15, 15))
def test_a_hold_does_not_care_when_its_clock_began(shift, lost, cool):
    def ask(begin):
        readings = [
            {"t_s": begin, "gauge_pa": 2.1e6, "pipe_c": 20.0},
            {"t_s": begin + 3600, "gauge_pa": 2.1e6 - lost, "pipe_c": 20.0 + cool},
        ]
        return run("pressure-hold", REQUESTS["pressure-hold"] | {"readings": readings})

    one, other = ask(0.0), ask(shift)
    assert one["call"]["verdict"] == other["call"]["verdict"]
    assert one["result"]["unexplained_pa"] == other["result"]["unexplained_pa"]


@given(lost=st.floats(0, 1e6), worse=st.floats(1, 1e6))
def test_more_loss_is_never_a_better_verdict(lost, worse):
    order = ["holds", "wait", "short"]

    def verdict(loss):
        readings = [
            {"t_s": 0.0, "gauge_pa": 2.1e6, "pipe_c": 20.0},
            {"t_s": 3600.0, "gauge_pa": 2.1e6 - loss, "pipe_c": 20.0},
        ]
        request = REQUESTS["pressure-hold"] | {"readings": readings}
        return order.index(run("pressure-hold", request)["call"]["verdict"])

    assert verdict(lost + worse) >= verdict(lost)


@given(st.floats(5, 60), st.floats(0.2, 40), st.floats(1.1, 20))
def test_a_faster_leak_never_passes_where_a_slower_one_fails(start, rise, times):
    def passes(slope):
        readings = [
            {"t_s": t * 10.0, "pa": start + slope * t / 60 + 0.05 * (-1) ** t} for t in range(61)
        ]
        request = REQUESTS["vacuum-decay"] | {"readings": readings}
        return run("vacuum-decay", request)["result"]["passes"]

    assert passes(rise) or not passes(rise * times)


@given(st.floats(0, 360), st.floats(-5, 5), st.floats(-5, 5))
def test_a_run_has_one_length_wherever_it_stands_and_turns(degrees, dx, dy):
    def turned(point):
        x, y, z = point
        c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
        return [x * c - y * s + dx, x * s + y * c + dy, z]

    points = [[0, 0, 0.5], [0, 0, 3.2], [4.1, 0, 3.2], [4.1, 0.4, 3.2], [4.1, 0.4, 2.0]]
    here = run("route", {"points_m": points, "bend_radius_m": 0.08})["result"]
    there = run("route", {"points_m": [turned(p) for p in points], "bend_radius_m": 0.08})["result"]
    for key in ("developed_length_m", "corner_length_m", "lift_m", "bend_degrees"):
        assert there[key] == pytest.approx(here[key], abs=1e-6)


@given(st.floats(0.02, 1), st.floats(10, 34), st.floats(5, 20), st.floats(0.2, 0.9))
def test_capacity_is_in_proportion_to_airflow(airflow, back, drop, humidity):
    def total(flow):
        request = REQUESTS["zone-capacity"] | {
            "airflow_m3_s": flow,
            "return_air": {"dry_bulb_c": back, "relative_humidity": humidity},
            "supply_air": {"dry_bulb_c": back - drop, "relative_humidity": humidity},
        }
        return run("zone-capacity", request)["result"]["total_w"]

    assert total(2 * airflow) == pytest.approx(2 * total(airflow), rel=1e-9)


@given(st.floats(7, 120), st.floats(100, 800), st.floats(0, 300), st.integers(0, 89))
def test_a_longer_adapter_asks_for_less_on_the_wrench(torque, length, offset, angle):
    request = {
        "od_mm": 12.7,
        "sheet_torque_nm": [torque, torque],
        "wrench_length_mm": length,
        "adapter_angle_deg": float(angle),
    }
    near, far = (
        run("flare-torque", request | {"adapter_offset_mm": e})["result"]["set_wrench_nm"]
        for e in (offset, offset + 10)
    )
    assert far < near <= torque * (1 + 1e-12)
    nut = near * (length + offset * math.cos(math.radians(angle))) / length
    assert nut == pytest.approx(torque)


def test_tubes_are_found_by_their_nominal_sizes():
    """ASTM B280 (quoted from memory): outside diameter less two walls is the bore."""
    assert [t.label for t in tubes()] == ["1/4", "3/8", "1/2", "5/8", "3/4", "7/8"]
    for tube in tubes():
        assert tube_at(tube.od_mm + 0.09) == tube
        assert tube_at(tube.od_in * 25.4) == tube
        assert tube.bore_m == pytest.approx(tube.od_in * 0.0254 - 2 * tube.wall_in * 0.0254)
    assert tube_at(8.0) is None
    assert size_label(9.525) == "3/8 in (9.52 mm)"
    assert size_label(8.0) == "8 mm"
    assert full_liquid_kg_per_m("R-32", 8.0) is None
    assert full_liquid_kg_per_m("R-744", 9.52) is None
