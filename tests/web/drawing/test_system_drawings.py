"""The system as a tree, the cut bars and the drains, as they are drawn."""

import itertools
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.line import rules_of
from fairline.core.practice import Practice
from fairline.core.route import drain
from fairline.core.route.cutting import TubeCut
from fairline.core.route.edit import edited
from fairline.core.route.entry import DrainPart, RouteEntry
from fairline.demo import systems
from fairline.web.drawing.cut_bars import cut_bars
from fairline.web.drawing.drain_profile import drain_profile
from fairline.web.drawing.schematic import ROW, schematic
from tests.support import piping_of
from tests.web.drawing.test_drawings import parsed, parts, points

MAKES = [systems.gallery, systems.foundry, systems.signal_house, systems.gatehouse]


def drawn(job, wide=True):
    pipes = piping_of(job, rules_of(job, Practice()))
    found = schematic(pipes, {"outdoor-D"}, {}, "/jobs/1/route", "us")
    return parsed(found[0 if wide else 1]), pipes


def ends_of(run):
    """Where a run's tube begins and ends on the paper."""
    gas = next(e for e in run.iter() if "gas" in e.get("class", "").split())
    return points(gas)[0], points(gas)[-1]


@pytest.mark.parametrize("make", MAKES)
@pytest.mark.parametrize("wide", [True, False])
def test_every_run_ends_at_a_line_of_its_own_and_links_to_its_page(make, wide):
    root, pipes = drawn(make(), wide)
    runs = {e.get("id")[4:-2]: e for e in parts(root, "run")}
    assert set(runs) == {s.id for s in pipes.stretches}
    heads = [ends_of(runs[s.id])[1] for s in pipes.stretches if s.kind == "head"]
    assert len({round(y) for _, y in heads}) == len(heads)
    assert all(abs(x - heads[0][0]) < 1 for x, _ in heads)  # heads stand in one column
    width, height = map(float, root.get("viewBox").split()[2:])
    for end, run in runs.items():
        assert run.get("href") == f"/jobs/1/route?part=runs.{end}"
        assert all(0 <= x <= width and 0 <= y <= height for x, y in ends_of(run))
        words = "".join(t.text or "" for t in run.iter() if t.tag == "text")
        assert re.search(r"\d+'", words) or "built" in words


def test_a_trunk_goes_down_from_tee_to_tee_and_its_last_head_hangs_on_the_way_on():
    root, pipes = drawn(systems.signal_house())
    runs = {e.get("id")[4:-2]: ends_of(e) for e in parts(root, "run")}
    tees = [runs[f"tee{n}"][1] for n in range(2, 6)]
    assert len({round(x) for x, _ in tees}) == 1
    steps = [b[1] - a[1] for a, b in itertools.pairwise(tees)]
    assert steps == pytest.approx([ROW] * 3)
    assert runs["F"][0] == pytest.approx(runs["tee5"][1], abs=1)
    assert runs["F"][1][1] == pytest.approx(tees[-1][1] + ROW)
    assert pipes.addresses == {z: f"00-{n:02}" for n, z in enumerate("ABCDEF")}


def test_unused_ports_are_capped_or_kept_on_the_drawing():
    root, _ = drawn(systems.gallery())
    stubs = [t.text for t in parts(root, "run-small") if t.text]
    assert "kept for later, valve" in stubs and "capped" not in stubs
    job = systems.gallery()
    loose = edited(job.route, "loose:C", job.survey, job.equipment)
    root, _ = drawn(job.model_copy(update={"route": loose}))
    assert len(parts(root, "stub")) == 2
    assert "capped" in [t.text for t in parts(root, "run-small")]


def test_a_system_with_nothing_connected_is_still_drawn():
    job = systems.gallery().model_copy(update={"route": RouteEntry()})
    root, _ = drawn(job)
    assert parts(root, "run") == [] and len(parts(root, "stub")) == 4
    assert "nothing is connected" in root.get("aria-label")


lengths = st.lists(st.floats(0.2, 9), min_size=1, max_size=4)


@given(st.lists(st.tuples(lengths, st.floats(0, 6)), min_size=1, max_size=5))
def test_cut_bars_are_to_one_scale_and_fill_their_piece(said):
    pieces = tuple(
        TubeCut(
            name=f"roll {n}",
            gas_od_m=0.0127,
            left_m=left,
            cuts=tuple((f"r{n}{i}", m) for i, m in enumerate(cuts)),
        )
        for n, (cuts, left) in enumerate(said)
    )
    for drawing in cut_bars(pieces, "si"):
        root = parsed(drawing)
        width = float(root.get("viewBox").split()[2])
        bars = [e for e in parts(root, "cut") if "left" not in e.get("class").split()]
        wanted = [m for cuts, _ in said for m in cuts]
        scales = [float(b.get("width")) / m for b, m in zip(bars, wanted, strict=True)]
        assert max(scales) - min(scales) < 0.02 * max(scales) + 0.3
        assert all(float(b.get("x")) + float(b.get("width")) <= width + 0.2 for b in bars)


def test_a_joined_run_is_marked_in_every_piece_it_comes_from():
    pieces = (
        TubeCut(gas_od_m=0.0127, cuts=(("A", 5.0), ("B", 2.0)), left_m=0.0),
        TubeCut(gas_od_m=0.0127, cuts=(("B", 3.0),), left_m=1.0),
    )
    root = parsed(cut_bars(pieces, "us")[0])
    assert len(parts(root, "joined")) == 2 and len(parts(root, "cut")) == 4
    assert cut_bars((), "us") == []


@pytest.mark.parametrize(
    ("said", "bad", "pools"),
    [
        ([("along", 2.0, 0.04), ("down", 1.0, None)], 0, 0),
        ([("along", 2.0, 0.01), ("down", 1.0, None)], 1, 0),
        ([("along", 2.0, 0.05), ("along", 1.0, -0.02), ("along", 1.0, 0.03)], 1, 1),
    ],
)
def test_a_drain_is_drawn_falling_and_its_faults_are_marked(said, bad, pools):
    job = systems.gallery()
    steps = [DrainPart(way=w, length_m=n, fall_m=f) for w, n, f in said]
    run = job.route.drain("A").model_copy(update={"parts": tuple(steps)})
    entry = job.route.model_copy(update={"drains": {"A": run}})
    rules = rules_of(job, Practice())
    result = drain.answer("A", entry, rules.of("A"), {"A", "B", "C"}, {"A": 2600.0}).result
    for drawing in drain_profile("A", steps, result, "us"):
        root = parsed(drawing)
        pipes = parts(root, "drain")
        assert sum("bad" in p.get("class").split() for p in pipes) == bad
        assert len(parts(root, "pool")) == pools
        spots = [points(p) for p in pipes]
        for (a, b), part in zip(spots, steps, strict=True):
            falls = part.way == "down" or (part.fall_m or 0) > 0
            assert (b[1] > a[1]) == falls  # down on the paper is down in the house
        assert all(a[1] == b[0] for a, b in itertools.pairwise(spots))
