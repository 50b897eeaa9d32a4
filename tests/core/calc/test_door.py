"""The calculation door: one envelope, strict requests, problems that name the field."""

import json
import subprocess
import sys
from pathlib import Path

import pytest
from pydantic import ValidationError

from fairline.core.calc.door import CALCULATIONS
from fairline.core.problem import from_validation

REQUESTS = {
    "route": {"points_m": [[0, 0, 0], [0, 0, 3], [4, 0, 3]], "bend_radius_m": 0.1},
    "leak-rate": {
        "volume_m3": 0.002,
        "gauge_pa": 2.0e6,
        "uncertainty_pa": 8000.0,
        "held_s": 3600.0,
        "refrigerant": "R-32",
    },
    "system-tree": {
        "nodes": [{"id": "unit", "kind": "outdoor"}, {"id": "A", "kind": "head"}],
        "runs": [{"id": "A", "start": "unit", "end": "A", "length_m": 5.0, "lift_m": 2.0}],
        "limits": {"max_length_m": 20.0},
    },
    "drain": {
        "sections": [{"length_m": 2.0, "fall_m": 0.03}],
        "bore_m": 0.02,
        "cooling_w": [2600.0],
    },
    "materials": {
        "runs": [
            {
                "id": "A",
                "tube_m": 3.0,
                "liquid_od_mm": 6.35,
                "legs": [{"direction": "up", "length_m": 2.0}],
            }
        ],
        "tape_m": 0.05,
    },
    "cut-plan": {
        "runs": [{"id": "A", "length_m": 6.2}],
        "stock": [{"id": "roll", "length_m": 15.24, "count": 2}],
        "joint_loss_m": 0.01,
    },
    "added-charge": {
        "segments": [{"id": "a", "liquid_od_mm": 6.35, "length_m": 9.144}],
        "rule": {
            "included_length_m": 7.62,
            "included_applies_to": "system",
            "rates": [{"liquid_od_mm": 6.35, "kg_per_m": 0.0205}],
        },
        "short_line": "recover",
        "heads": [{"id": "h", "class": "wall"}],
    },
    "circuit": {
        "mca_a": 12.0,
        "mop_a": 20.0,
        "breaker_a": 20.0,
        "conductor": {"awg": 12, "terminal_c": 60},
        "voltage_v": 240.0,
        "length_m": 20.0,
    },
    "weigh-in": {
        "wanted_kg": 0.4,
        "unit_refrigerant": "R-32",
        "weighings": [
            {"cylinder": "A", "refrigerant": "R-32", "way": "in", "before_kg": 9.0, "after_kg": 8.6}
        ],
    },
    "day-plan": {
        "tasks": [
            {"id": "hang", "duration_s": 7200, "crew": 2},
            {"id": "hold", "duration_s": 3600, "crew": 0, "after": ["hang"]},
        ],
        "crew": 2,
        "day": {"start": "08:00", "end": "16:30"},
        "start": "2026-11-02T08:00",
    },
    "cross-wire": {"intended": {"A": "A", "B": "B"}, "observed": {"A": ["B"], "B": ["A"]}},
    "pump-down": {
        "volume_m3": 0.003,
        "pump_m3_s": 0.0019,
        "hoses": [{"bore_mm": 9.5, "length_m": 0.9}],
        "target_pa": 66.7,
        "water_kg": 0.001,
    },
    "flare-torque": {"od_mm": 9.52, "applied_nm": 37.5},
    "pressure-hold": {
        "readings": [{"t_s": 0, "gauge_pa": 2.1e6, "pipe_c": 20}],
        "required": {"gauge_pa": 2.0e6, "hold_s": 600},
        "max_gauge_pa": 4e6,
        "gauge_resolution_pa": 6895,
        "thermometer_uncertainty_k": 0.5,
    },
    "vacuum-decay": {
        "readings": [{"t_s": 0, "pa": 30}, {"t_s": 60, "pa": 31}],
        "rule": {"max_pa": 66.7, "hold_s": 600},
        "ambient_c": 20,
    },
    "room-charge-limit": {
        "refrigerant": "R-32",
        "charge_kg": 2.0,
        "rooms": [{"id": "loft", "area_m2": 12, "mounting": "wall"}],
    },
    "system-capacity": {
        "heads": [{"id": "A", "cool_w": 2600.0}],
        "rule": {"max_connected_w": 5000.0, "max_heads": 2},
    },
    "head-position": {
        "wall_width_m": 4.0,
        "ceiling_m": 2.6,
        "studs_m": [0.4, 0.8],
        "head": {"width_m": 0.8, "height_m": 0.3, "x_m": 2.0, "y_m": 2.0},
        "items": [
            {"id": "w", "way": "flush", "x_m": 0.2, "y_m": 0.9, "width_m": 1.0, "height_m": 1.0}
        ],
    },
    "ceiling-position": {
        "room_width_m": 4.0,
        "room_length_m": 3.0,
        "joists_m": [0.3, 0.9],
        "body": {"width_m": 0.6, "length_m": 0.6, "x_m": 2.0, "y_m": 1.5},
    },
    "outdoor-position": {
        "wall_m": 5.0,
        "yard_m": 3.0,
        "clear": {"left_m": 0.1},
        "unit": {"width_m": 0.8, "depth_m": 0.3, "height_m": 0.6, "x_m": 1.0, "y_m": 0.2},
        "things": [
            {"id": "f", "way": "solid", "x_m": 0.0, "y_m": 2.0, "width_m": 5.0, "depth_m": 0.1}
        ],
    },
    "fastener-load": {"weight_kg": 12.0, "fasteners": 6, "rated_kg": 34.0},
    "bracket-rail": {"rail_m": 0.76, "left_m": 0.3, "studs_m": [0.4, 0.8, 1.2]},
    "lift-plan": {"weight_kg": 60.0, "one_person_kg": 23.0},
    "expected-split": {
        "rated_w": 3500.0,
        "airflow_m3_s": 0.18,
        "mode": "cool",
        "return_air": {"dry_bulb_c": 27, "relative_humidity": 0.5},
    },
    "zone-capacity": {
        "airflow_m3_s": 0.18,
        "mode": "cool",
        "return_air": {"dry_bulb_c": 27, "relative_humidity": 0.5},
        "supply_air": {"dry_bulb_c": 13, "relative_humidity": 0.9},
    },
}
FAIRLINE = Path(sys.executable).parent / "fairline"


def test_every_computation_has_a_case_here():
    assert set(REQUESTS) == set(CALCULATIONS)


@pytest.mark.parametrize("name", REQUESTS)
def test_the_envelope_and_the_schema(name):
    answer = json.loads(CALCULATIONS[name].run(json.dumps(REQUESTS[name])).model_dump_json())
    assert list(answer) == ["call", "governed_by", "working", "findings", "result"]
    assert answer["call"]["verdict"] in ("holds", "watch", "wait", "short", "stop", "unknown")
    for step in answer["working"]:
        assert set(step) == {"step", "expression", "value", "unit"}
    assert CALCULATIONS[name].describe()["request"]["additionalProperties"] is False


def numbers(value, path=()):
    """Every number of a request, by its path."""
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from numbers(inner, (*path, key))
    elif isinstance(value, list):
        for i, inner in enumerate(value):
            yield from numbers(inner, (*path, i))
    elif isinstance(value, int | float):
        yield path


def changed(name, path, value):
    copy = json.loads(json.dumps(REQUESTS[name]))
    place = copy
    for step in path[:-1]:
        place = place[step]
    place[path[-1]] = value
    return json.dumps(copy)


@pytest.mark.parametrize(
    ("name", "path"), [(n, p) for n, r in REQUESTS.items() for p in numbers(r)]
)
@pytest.mark.parametrize("bad", [float("nan"), float("inf"), "12", True, None, -1e12, [1], {}])
def test_no_number_takes_anything_else(name, path, bad):
    if bad is None and (name, path) == ("expected-split", ("airflow_m3_s",)):
        return  # another field may say it
    if bad is None and path[-1] in (
        "applied_nm",
        "max_connected_w",
        "max_heads",
        "count",
        "length_m",
        "lift_m",
        "max_length_m",
        "bore_m",
        "after_kg",
        "relative_humidity",
        "liquid_od_mm",
    ):
        return  # silence is allowed here
    with pytest.raises(ValidationError) as caught:
        CALCULATIONS[name].run(changed(name, path, bad))
    field = from_validation(caught.value)["errors"][0]["field"]
    assert field.split(".")[0] == str(path[0])


@pytest.mark.parametrize("name", REQUESTS)
@pytest.mark.parametrize("body", ["", "[]", "{", "null", '"x"', '{"surprise": 1}'])
def test_what_is_no_request_is_refused(name, body):
    with pytest.raises(ValidationError):
        CALCULATIONS[name].run(body)


def test_an_unknown_field_is_named():
    with pytest.raises(ValidationError) as caught:
        CALCULATIONS["flare-torque"].run('{"od_mm": 6.35, "torque": 3}')
    assert from_validation(caught.value)["errors"] == [
        {"field": "torque", "reason": "this field is not known here"}
    ]


def run(*arguments, body=""):
    return subprocess.run([FAIRLINE, *arguments], input=body, capture_output=True, text=True)


def test_the_command_line_answers_as_the_function_does():
    body = json.dumps(REQUESTS["flare-torque"])
    told = run("calc", "flare-torque", body=body)
    assert told.returncode == 0
    assert told.stdout.strip() == CALCULATIONS["flare-torque"].run(body).model_dump_json()
    assert run("calc", "--list").stdout.split() == list(CALCULATIONS)
    bad = run("calc", "flare-torque", body='{"od_mm": -1}')
    assert (bad.returncode, bad.stdout) == (2, "")
    assert json.loads(bad.stderr)["errors"][0]["field"] == "od_mm"
    assert run("calc", "nothing").returncode == 2
