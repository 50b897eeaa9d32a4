"""Drawings are to scale, say in words what they show, and tell verdicts by shape."""

import json
import math
import re
import xml.etree.ElementTree as ET
from datetime import UTC, datetime
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.calc.vacuum_decay import (
    DecayReading,
    DecayRule,
    VacuumDecayRequest,
    vacuum_decay,
)
from fairline.core.call import Verdict
from fairline.core.check import check_limit
from fairline.core.flare.stage import JointRecord, WrenchEntry, joints
from fairline.core.line import rules_of
from fairline.core.practice import Practice, Rules
from fairline.core.pressure_test.stage import CurvePoint
from fairline.core.readings import VacuumReading, VacuumRun
from fairline.core.route.entry import Leg
from fairline.demo.jobs import bindery
from fairline.demo.sheets import OSMUND_26
from fairline.web.drawing import chart
from fairline.web.drawing.decay_chart import decay_chart
from fairline.web.drawing.fitting import fitting
from fairline.web.drawing.flare_gauge import flare_gauge
from fairline.web.drawing.hold_chart import hold_chart
from fairline.web.drawing.run import run_drawings
from fairline.web.drawing.scale import scale
from tests.support import joints_of, piping_of

NOW = datetime(2026, 3, 1, tzinfo=UTC)
MICRON = 0.133322368
STYLES = Path(__file__).parents[3] / "styles"
CSS = "\n".join(file.read_text() for file in sorted(STYLES.rglob("*.css")))


def parsed(drawing):
    return ET.fromstring(str(drawing))


def parts(root, class_):
    return [e for e in root.iter() if class_ in e.get("class", "").split()]


def points(element):
    """Corners of a path's M and L commands."""
    return [
        tuple(map(float, pair))
        for pair in re.findall(r"[ML](-?[\d.]+) (-?[\d.]+)", element.get("d"))
    ]


ways = st.sampled_from(["up", "down", "left", "right", "in", "out"])
legs = st.lists(st.tuples(ways, st.floats(0.3, 9)), min_size=1, max_size=8)


def drawn_run(said, system="us", wide=True):
    """A run of these legs in the bindery: its elevation, its plan, and the run itself."""
    job = bindery()
    run = job.route.run("A").model_copy(
        update={"legs": tuple(Leg(direction=d, length_m=n) for d, n in said)}
    )
    job = job.model_copy(update={"route": job.route.model_copy(update={"runs": {"A": run}})})
    pipes = piping_of(job, rules_of(job, Practice()))
    drawings = run_drawings(pipes.get("A"), pipes, job.route.levels, [], system)
    pair = drawings[:2] if wide else drawings[2:]
    return [parsed(d) for d in pair], pipes.get("A")


@settings(max_examples=40)
@given(legs, st.booleans())
def test_a_run_is_drawn_to_scale_and_inside_its_paper(said, wide):
    (unrolled, plan), run = drawn_run(said, wide=wide)
    for root, seen in (
        (unrolled, lambda leg: leg.length_m),
        (plan, lambda leg: math.dist(leg.start[:2], leg.end[:2])),
    ):
        per_m = float(root.get("data-per-m"))
        width, height = map(float, root.get("viewBox").split()[2:])
        tubes = [points(e) for e in parts(root, "gas")]
        assert len(tubes) == len(run.legs)
        for (a, b), leg in zip(tubes, run.legs, strict=True):
            assert math.dist(a, b) == pytest.approx(seen(leg) * per_m, abs=0.3)
            assert all(-0.1 <= x <= width + 0.1 and -0.1 <= y <= height + 0.1 for x, y in (a, b))
    assert root.get("aria-label").startswith("Run A")


@settings(max_examples=40)
@given(legs)
def test_what_is_dragged_stretches_or_slides_and_names_fields_of_the_form(said):
    """A leg that slides takes from its one neighbour what it gives the other: the end stays."""
    (unrolled, plan), run = drawn_run(said)
    for root in (unrolled, plan):
        for piece in parts(root, "piece"):
            puts = json.loads(piece.get("data-puts"))
            for name, axis, sign, now in puts:
                number = int(re.fullmatch(r"runs\.A\.legs\.(\d+)\.length_m", name).group(1))
                assert now == pytest.approx(run.legs[number].length_m, abs=1e-6)
                assert axis in "xy" and sign in (1.0, -1.0)
            assert len(puts) == 1 or "slide" in piece.get("id")


def test_labels_of_a_run_do_not_lie_on_each_other():
    said = [("up", 3.0), ("left", 5.0), ("down", 0.8), ("in", 0.4), ("left", 2.0)]
    for wide in (True, False):
        (root, _), _run = drawn_run(said, wide=wide)
        spots = [(float(e.get("x")), float(e.get("y"))) for e in parts(root, "dimension")]
        for i, a in enumerate(spots):
            assert all(abs(a[0] - b[0]) > 60 or abs(a[1] - b[1]) > 18 for b in spots[:i])


def test_a_tight_leg_and_what_is_inside_are_told_apart():
    (root, _), _run = drawn_run([("up", 3.0), ("in", 0.05), ("right", 2.0)], "si")
    assert [e.get("class") for e in parts(root, "gas")] == ["gas", "gas tight", "gas inside"]
    assert len(parts(root, "wall-cut")) == 1 and len(parts(root, "fold")) == 1


def decay(values, step=10.0):
    readings = tuple(VacuumReading(seq=i, t_s=i * step, pa=v) for i, v in enumerate(values))
    return VacuumRun(uid="d", kind="decay", started_at=NOW, readings=readings)


@pytest.mark.parametrize("frame", [chart.WIDE, chart.NARROW])
def test_the_vacuum_chart_is_logarithmic_and_holds_limit_and_readings(frame):
    run = decay([10.0, 100.0, 1000.0])
    root = parsed(decay_chart(run, frame, "si", 66.7, 30.0))
    ys = [y for _, y in points(parts(root, "measured")[0])]
    assert ys[0] - ys[1] == pytest.approx(ys[1] - ys[2], abs=0.3)  # equal decades
    band = parts(root, "band")[0]
    assert ys[0] > float(band.get("y")) > ys[1]
    xs = [x for x, _ in points(parts(root, "measured")[0])]
    assert xs[1] - xs[0] == pytest.approx(xs[2] - xs[1], abs=0.3)
    assert "3 readings from 10.0 Pa to 1000.0 Pa; limit 66.7 Pa" in root.get("aria-label")


def test_the_fitted_curve_lies_on_what_was_read():
    values = [27 + 440 * (1 - math.exp(-i / 20)) for i in range(90)]
    run = decay(values)
    result = vacuum_decay(
        VacuumDecayRequest(
            readings=[DecayReading(t_s=r.t_s, pa=r.pa) for r in run.readings],
            rule=DecayRule(max_pa=66.7, hold_s=600.0),
            ambient_c=20.0,
        )
    ).result
    root = parsed(decay_chart(run, chart.WIDE, "si", 66.7, 600.0, result))
    measured = points(parts(root, "measured")[0])
    for x, y in points(parts(root, "fit")[0])[2:]:
        near = min(measured, key=lambda p: abs(p[0] - x))
        assert abs(near[1] - y) < 8  # of 276; readings lie 8 apart
    assert "levels off" in "".join(root.itertext())


@given(st.lists(st.tuples(st.floats(1e6, 4e6), st.floats(1e6, 4e6)), min_size=1, max_size=60))
def test_the_nitrogen_charts_band_holds_what_was_expected(values):
    curve = [
        CurvePoint(t_s=i * 60.0, gauge_pa=g, pipe_c=20.0, expected_pa=e, doubt_pa=15e3)
        for i, (g, e) in enumerate(values)
    ]
    root = parsed(hold_chart(curve, chart.WIDE, "us", 3600.0, False))
    spots = [(float(e.get("cx")), float(e.get("cy"))) for e in parts(root, "now")]
    assert chart.WIDE.left <= spots[0][0] <= chart.WIDE.x1
    assert chart.WIDE.top <= spots[0][1] <= chart.WIDE.y1
    if len(curve) > 1:
        band, fit = points(parts(root, "band")[0]), points(parts(root, "fit")[0])
        upper, lower = band[: len(fit)], band[len(fit) :][::-1]
        for (_, top), (_, middle), (_, bottom) in zip(upper, fit, lower, strict=True):
            assert top <= middle <= bottom
    ahead = [e for e in parts(root, "band") if "ahead" in e.get("class")]
    if curve[-1].t_s < 3600.0:  # on to the end of the hold
        end = max(x for x, _ in points(ahead[0]))
        assert end == pytest.approx(points(parts(root, "hold")[0])[0][0], abs=0.2)


@given(st.floats(-1e6, 1e6), st.floats(1e-3, 1e6), st.integers(3, 9))
def test_ticks_are_round_and_inside(low, span, about):
    marks = chart.ticks(low, low + span, about)
    assert all(low - span * 1e-6 <= m <= low + span * (1 + 1e-6) for m in marks)
    assert len(marks) <= about + 2
    if len(marks) > 1:
        step = marks[1] - marks[0]
        mantissa = step / 10 ** math.floor(math.log10(step) + 1e-9)
        assert min(abs(mantissa - m) for m in (1, 2, 5, 10)) < 1e-3


@pytest.mark.parametrize(
    ("value", "bound", "side"),
    [
        (0.2, "min", "left"),
        (0.4, "min", "right"),
        (0.4, "max", "right"),
        (0.2, "max", "left"),
    ],
)
def test_the_plates_scale_points_at_the_right_side_of_the_limit(value, bound, side):
    limit = Rules(practice=Practice(house={"head_left": 0.3})).limit("head_left")
    check = check_limit("x", "Left", value, limit, "small", bound, "")
    root = parsed(scale(check, "small", "us"))
    tip = float(re.match(r"M([\d.]+)", parts(root, "pointer")[0].get("d")).group(1))
    edge = float(re.match(r"M([\d.]+)", parts(root, "edge")[0].get("d")).group(1))
    assert (tip < edge) == (side == "left")
    good = (value >= 0.3) == (bound == "min")
    assert ("good" in parts(root, "pointer")[0].get("class")) == good
    inside = parts(root, "in")[0]
    left, right = float(inside.get("x")), float(inside.get("x")) + float(inside.get("width"))
    assert (left <= tip <= right) == good
    assert scale(check.model_copy(update={"limit": None}), "small", "us") is None


@pytest.mark.parametrize("pa", [0.0, 5e-324, 1e-300, 1e-9, 30.0, 2e5])
def test_the_scale_of_a_vacuum_is_drawn_of_any_pressure(pa):
    limit = Rules().limit("decay_max")
    drawn = scale(check_limit("x", "Decay", pa, limit, "vacuum", "max", ""), "vacuum", "us")
    tip = float(re.match(r"M([\d.]+)", parts(parsed(drawn), "pointer")[0].get("d")).group(1))
    assert 0 <= tip <= 340


def test_the_torque_window_shows_what_was_applied():
    record = JointRecord(place="gas_head", look="good", applied_nm=30.0, by="I", at=NOW)
    rules = Rules(outdoor=OSMUND_26)
    specs = joints_of(bindery(), rules, piping_of(bindery(), rules))
    for joint in joints(WrenchEntry(), specs, (record,), rules):
        root = parsed(flare_gauge(joint, "si"))
        assert (len(parts(root, "pointer")) == 1) == (joint.place == "A.gas.end")
        assert joint.label in root.get("aria-label")
    assert flare_gauge(joints(WrenchEntry(), specs, (), Rules())[0], "si") is None


def test_every_verdict_has_a_shape_of_its_own():
    shapes = {}
    for state in [*Verdict, "todo"]:
        drawn = str(fitting(state)).replace(f"fitting-{state}", "")
        shapes.setdefault(re.sub(r'\sclass="[^"]*"', "", drawn), []).append(str(state))
    assert all(len(states) == 1 for states in shapes.values()), shapes
    assert "ring" in str(fitting(Verdict.WAIT, progress=0.5))
    assert "ring" not in str(fitting(Verdict.HOLDS, progress=0.5))


# --- colours -----------------------------------------------------------------------------------


def palette(selector):
    block = re.search(re.escape(selector) + r"\s*\{([^}]*)\}", CSS).group(1)
    return dict(re.findall(r"--([\w-]+):\s*(#[0-9a-f]{6})", block))


def luminance(colour):
    channels = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


PAIRS = [(text, ground) for text in ("ink", "ink2") for ground in ("ground", "panel", "sunk")]
PAIRS += [
    ("ver-deep", "ver-pale"),
    ("ver-deep", "panel"),
    ("amber", "amber-pale"),
    ("amber", "panel"),
    ("red", "red-pale"),
    ("red", "panel"),
    ("copper-deep", "panel"),
    ("copper-deep", "sunk"),
    ("on", "copper-deep"),
    ("on", "red"),
    ("on", "slate"),
    ("ink", "amber-pale"),
    ("ink2", "amber-pale"),
]


@pytest.mark.parametrize("theme", [":root", '[data-theme="dark"]'])
@pytest.mark.parametrize(("text", "ground"), PAIRS)
def test_text_has_a_contrast_of_at_least_aa(theme, text, ground):
    """WCAG 2.2, 1.4.3: at least 4.5 to 1 for text."""
    colours = palette(theme)
    light, dark = sorted((luminance(colours[text]), luminance(colours[ground])), reverse=True)
    assert (light + 0.05) / (dark + 0.05) >= 4.5


def test_the_system_theme_and_the_chosen_one_are_the_same():
    chosen = palette('[data-theme="dark"]')
    assert palette(':root:not([data-theme="light"])') == chosen
