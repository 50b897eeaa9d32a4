"""Systems of every kind: one length everywhere, the tree's faults, edits, sentences, traps."""

import math
import random
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.calc.system_tree import SystemTreeRequest, system_tree
from fairline.core.charge import worksheet
from fairline.core.equipment import LETTERS, PlannedFitting
from fairline.core.line import judge, rules_of
from fairline.core.physics.tubing import same_size
from fairline.core.practice import Practice
from fairline.core.route.cutting import TubeCut, VanStock, cut_from, joins_of, pieces_of, plans
from fairline.core.route.edit import EditError, edited
from fairline.core.route.entry import STEP, Leg, LineRun, RouteEntry
from fairline.core.route.piping import kind_of, own_legs
from fairline.core.route.spoken import SpokenError, spoken_legs
from fairline.core.route.traps import traps
from fairline.core.sheet import Tee
from fairline.demo import systems
from fairline.demo.heads import HARTWICK_W25, OSMUND_H26, PELLOW_W20
from fairline.demo.jobs import bindery
from fairline.demo.sheets import HARTWICK_TEE, OSMUND_KIT_25
from fairline.web.drawing.run import run_drawings
from fairline.web.drawing.schematic import schematic
from tests.support import joints_of, label_of, piping_of, routed
from tests.web.drawing.test_drawings import parsed, parts

KINDS = {
    "single": (bindery, OSMUND_H26, 1),
    "home runs": (systems.gallery, OSMUND_H26, 4),
    "branch box": (systems.foundry, PELLOW_W20, 5),
    "trunk": (systems.signal_house, HARTWICK_W25, 8),
    "kit": (systems.gatehouse, OSMUND_H26, 1),
}
WAYS = list(STEP)


def random_system(kind, seed):
    """A job of this kind: random heads, laid out as its kind asks, with random legs."""
    chance = random.Random(f"{kind}{seed}")
    make, head, most = KINDS[kind]
    job = make()
    count = chance.randint(min(2, most), most)
    survey = job.survey.model_copy(
        update={
            "heads": tuple(
                job.survey.heads[0].model_copy(
                    update={"zone": z, "when": "now", "sheet": head.name}
                )
                for z in LETTERS[:count]
            )
        }
    )
    planned = job.equipment.heads[0]
    equipment = job.equipment.model_copy(
        update={
            "heads": tuple(
                planned.model_copy(update={"zone": z, "sheet": head}) for z in LETTERS[:count]
            )
        }
    )
    entry = edited(RouteEntry(end_allowance_m=0.15), "lay-out", survey, equipment)
    runs = {}
    for end, run in entry.runs.items():
        legs = [Leg(direction="up", length_m=chance.uniform(0.8, 2))]
        for _ in range(chance.randint(1, 4)):
            legs.append(
                Leg(
                    direction=chance.choice(
                        [
                            w
                            for w in WAYS
                            if {w, legs[-1].direction}
                            not in ({"up", "down"}, {"left", "right"}, {"in", "out"})
                        ]
                    ),
                    length_m=chance.uniform(0.8, 2 if kind == "kit" else 4),
                )
            )
        runs[end] = run.model_copy(
            update={
                "legs": tuple(legs),
                "coil_m": chance.choice([None, 0.5]),
                "built_m": chance.choice([None, None, chance.uniform(4, 9)]),
                "sheet": "x" if kind_of(end) != "head" else "",
                "kit": "x" if kind == "kit" else "",
            }
        )
    ends = list(entry.runs)
    if kind == "home runs" and count > 1:
        runs[ends[1]] = runs[ends[1]].model_copy(update={"along": ends[0], "along_legs": 2})
    sheet = {"kit": OSMUND_KIT_25, "trunk": HARTWICK_TEE, "branch box": systems.PELLOW_BOX}.get(
        kind
    )
    fittings = tuple(
        PlannedFitting.model_validate({"at": e, "sheet": sheet})
        for e in ends
        if sheet and (kind == "kit" or kind_of(e) != "head")
    )
    return job.model_copy(
        update={
            "survey": survey,
            "route": entry.model_copy(update={"runs": runs}),
            "equipment": equipment.model_copy(update={"fittings": fittings}),
            "records": (),
        }
    )


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("kind", KINDS)
def test_one_length_everywhere_to_the_millimetre(kind, seed):
    job = random_system(kind, seed)
    rules = rules_of(job, Practice())
    pipes = piping_of(job, rules)
    assert pipes.tree.faults == ()
    lengths = {s.id: s.length_m for s in pipes.stretches}
    assert None not in lengths.values() and len(lengths) >= len(job.survey.now)

    drawn = parsed(schematic(pipes, (), {}, "/", "si")[0])
    assert {e.get("id")[4:-2]: int(e.get("data-mm")) for e in parts(drawn, "run")} == {
        k: round(v * 1000) for k, v in lengths.items()
    }
    worked = worksheet.by_rule(pipes, job.charge, rules)
    shares = {s.id: s.length_m for s in worked.result.breakdown if s.length_m and s.kg > 0}
    of_run = {("line" if len(lengths) == 1 else k): v for k, v in lengths.items()}
    assert {k: v for k, v in shares.items() if k in of_run} == of_run
    written = label_of(job)
    assert {r.end: r.length_m for r in written.runs} == lengths
    assert written.length_m == pytest.approx(sum(lengths.values()), abs=1e-9)

    lines = routed(job).materials
    cable = next(x for x in lines if x.item == "Cable, tails with it")
    brought = {p.run: p.quantity for p in cable.parts}
    for s in pipes.stretches:
        walked = sum(leg.length_m for _, leg in own_legs(job.route, s.id))
        elevation = parsed(run_drawings(s, pipes, (), [], "si")[0])
        per_m = float(elevation.get("data-per-m"))
        corners = [
            tuple(map(float, p.split(" ")))
            for p in parts(elevation, "liquid")[0].get("d")[1:].split("L")
        ]
        paper = sum(math.dist(a, b) for a, b in pairwise(corners))
        assert paper / per_m == pytest.approx(walked, abs=0.1 * len(corners) / per_m)
        way = s.result.developed_length_m + 2 * 0.15  # no cable lies in a coil of tube
        heads = [x.id for x in pipes.stretches if x.kind == "head"]
        back = kind == "trunk" and s.outlet == "off" and s.id != heads[-1]
        tails = 2.0
        if kind == "trunk":  # a pair that passes every tee uncut
            tails = (s.start == "outdoor") + (0 if s.kind != "head" else 2 if back else 1)
        assert brought[s.id] == pytest.approx((1 + back) * way + tails, abs=1e-9)
        planned = s.kit_m if s.kit else s.result.installed_length_m
        assert s.length_m == (s.built_m if s.built_m is not None else planned)
    if kind == "trunk":  # from unit to head, from head to head: two ends each
        twice = {x.id for x in pipes.stretches if x.outlet == "off" and x.id != heads[-1]}
        ways = {x.id: x.result.developed_length_m + 0.3 for x in pipes.stretches}
        pair_m = sum(ways.values()) + sum(ways[x] for x in twice) + 2 * len(heads)
        assert cable.quantity == pytest.approx(pair_m)
    ends = sum(
        1 for j in routed(job).joints if j.end in ("start", "end") and len(j.id.split(".")) == 3
    )
    assert ends == 4 * len(lengths)
    stages = judge(job, Practice())
    assert stages["route"].call.verdict != "unknown"


@pytest.mark.parametrize("seed", range(5))
def test_tube_taken_off_the_van_is_what_the_runs_and_joins_take(seed):
    job = random_system("home runs", seed)
    rules = rules_of(job, Practice())
    pipes = piping_of(job, rules)
    entry = job.route.model_copy(update={"joins_allowed": "yes"})
    rolls = tuple(x.model_copy(update={"count": 5}) for x in systems.VAN.lines)
    van = VanStock(lines=rolls)
    found = plans(entry, pipes, traps(pipes, lambda _: rules), van, rules)
    pieces = pieces_of(found, van)
    joins = sum(joins_of(pieces).values()) / 2  # of both tubes at once, each a swage deep
    wanted = sum(s.cut_m for s in pipes.stretches) + joins * 0.00952
    assert sum(m for p in pieces for _, m in p.cuts) == pytest.approx(wanted, abs=1e-6)
    after = cut_from(van, found, keep_m=1.0)
    tube = [sum(x.length_m * x.count for x in v.lines) for v in (van, after)]
    kept = sum(p.left_m for p in pieces if p.left_m < 1.0)
    assert tube[0] - tube[1] == pytest.approx(wanted + kept, abs=1e-6)
    apart = plans(
        job.route.model_copy(update={"cut_as": "apart"}),
        pipes,
        traps(pipes, lambda _: rules),
        van,
        rules,
    )
    assert {p.answer.findings for p in apart} == {("stock_too_short",)}  # all tube is in pairs


def test_joins_enter_the_joint_list_with_their_making():
    cut = TubeCut(liquid_od_m=0.00635, gas_od_m=0.00952, cuts=(("A", 5.0),))
    assert joins_of((cut, cut, cut)) == {"A.liquid": 2, "A.gas": 2}
    job = bindery()
    rules = rules_of(job, Practice())
    record = {"kind": "cutting", "pieces": [cut, cut], "by": "I", "at": job.created_at}
    joined = type(job).model_validate(
        job.model_dump() | {"records": [*(r.model_dump() for r in job.records), record]}
    )
    added = {j.id: j.kind for j in joints_of(joined, rules, piping_of(joined, rules))}
    before = {j.id for j in joints_of(job, rules, piping_of(job, rules))}
    assert {k: v for k, v in added.items() if k not in before} == {
        "A.gas.join1": "braze",
        "A.liquid.join1": "braze",
    }
    checks = {c.id: c.call.verdict for c in judge(joined, Practice())["route"].checks}
    assert checks["join_A"] == "watch"
    union = rules_of(joined, Practice(schools={"joins": "union"}))
    assert (
        sum(
            j.id.startswith("A.gas.join") and j.kind == "flare"
            for j in joints_of(joined, union, piping_of(joined, union))
        )
        == 2
    )
    checks = judge(joined, Practice(schools={"joins": "union"}))["route"].checks
    hidden = next(c.call for c in checks if c.id == "join_A")
    assert hidden.verdict == "short" and "refused" in hidden.because


# --- the tree ----------------------------------------------------------------------------------


def tree(*runs, heads="AB", **more):
    nodes = [
        {"id": "unit", "kind": "outdoor", "outlets": ["1", "2"]},
        {"id": "tee", "kind": "tee"},
    ] + [{"id": h, "kind": "head"} for h in heads]
    rows = [
        {"id": f"{n}", "start": s, "end": e, "outlet": o, "length_m": 4.0, "lift_m": 1.0}
        for n, (s, o, e) in enumerate(runs)
    ]
    return system_tree(SystemTreeRequest.model_validate({"nodes": nodes, "runs": rows} | more))


GOOD = (("unit", "1", "tee"), ("tee", "off", "A"), ("tee", "on", "B"))


@pytest.mark.parametrize(
    ("runs", "finding"),
    [
        (GOOD, None),
        ((("unit", "1", "tee"), ("tee", "off", "A"), ("tee", "off", "B")), "outlet_taken"),
        ((*GOOD, ("unit", "2", "A")), "connected_twice"),
        ((*GOOD[:2], ("tee", "3", "B")), "no_such_outlet"),
        ((GOOD[0], ("tee", None, "A"), ("tee", None, "B"), ("tee", None, "C")), "too_many_outlets"),
        ((("A", None, "tee"), *GOOD[1:]), "loop"),
        (GOOD[:2], "not_connected"),
        ((*GOOD[:2], ("nowhere", "1", "B")), "unknown_thing"),
        ((*GOOD[:2], ("A", "1", "B")), "wrong_way"),
    ],
)
def test_faults_of_the_tree_are_short_and_say_where(runs, finding):
    answer = tree(
        *runs,
        heads="ABC" if len(runs) == 4 and finding == "too_many_outlets" else "AB",
        limits={"max_length_m": 20.0},
    )
    if finding is None:
        assert answer.call.verdict == "holds"
        assert {z.id: z.length_m for z in answer.result.zones} == {"A": 8.0, "B": 8.0}
        assert answer.result.total_m == 12.0 and answer.result.main_m == 4.0
        assert answer.result.first_to_last_m == 4.0
        return
    assert finding in answer.findings
    assert answer.call.verdict == "short" and answer.call.do_next
    fault = next(f for f in answer.result.faults if f.code == finding)
    assert fault.where and fault.because and fault.do_next


@pytest.mark.parametrize(
    ("limit", "most"),
    [
        ("max_length_m", 8.0),
        ("max_total_length_m", 12.0),
        ("max_main_length_m", 4.0),
        ("max_first_to_last_m", 4.0),
        ("max_lift_below_m", 2.0),
        ("max_lift_m", 2.0),
    ],
)
def test_each_limit_of_the_tree_holds_at_it_and_not_above(limit, most):
    assert tree(*GOOD, limits={limit: most}).call.verdict == "holds"
    over = tree(*GOOD, limits={limit: most - 0.01})
    assert over.call.verdict == "short" and over.findings[0].startswith("over_")
    assert tree(*GOOD, limits={"min_length_m": 8.01}).findings == ("over_min_length",)


# --- edits -------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", KINDS)
def test_laying_out_connects_every_head_once_and_asks_for_nothing_more(kind):
    job = random_system(kind, 3)
    again = edited(job.route, "lay-out", job.survey, job.equipment)
    assert again == job.route
    for zone in [h.zone for h in job.survey.now]:
        loose = edited(job.route, f"loose:{zone}", job.survey, job.equipment)
        assert piping_of(job.model_copy(update={"route": loose}), rules_of(job, Practice())).unfed
        back = edited(loose, "lay-out", job.survey, job.equipment)
        assert all(back.run(h.zone).fed_from for h in job.survey.now)


ORDERS = st.lists(
    st.one_of(
        st.sampled_from(
            ["lay-out", "box", "out:tee1", "out:tee2", "out:box1", "port:outdoor:D:kept"]
        ),
        st.builds("tee:{}".format, st.sampled_from("ABCF")),
        st.builds("loose:{}".format, st.sampled_from("ABCF")),
        st.builds(
            "connect:{}:{}:{}".format,
            st.sampled_from(["A", "B", "F", "tee1", "box1"]),
            st.sampled_from(["outdoor", "tee1", "tee3", "box1"]),
            st.sampled_from(["A", "B", "on", "off"]),
        ),
    ),
    max_size=12,
)


@given(ORDERS, st.sampled_from([systems.signal_house, systems.gallery, systems.foundry]))
def test_no_order_makes_a_loop_or_loses_a_head(orders, make):
    job = make()
    entry = job.route
    for order in orders:
        try:
            entry = edited(entry, order, job.survey, job.equipment)
        except EditError as error:
            assert str(error)
    pipes = piping_of(job.model_copy(update={"route": entry}), rules_of(job, Practice()))
    assert not {"loop", "connected_twice", "outlet_taken"} & {f.code for f in pipes.tree.faults}
    zones = {h.zone for h in job.survey.now}
    assert zones <= {s.id for s in pipes.stretches} | set(pipes.unfed) | {
        e for e, r in entry.runs.items() if kind_of(r.fed_from or "A") != "head"
    }


def test_a_tee_takes_the_legs_and_gives_them_back():
    job = systems.gatehouse()
    teed = edited(job.route, "tee:A", job.survey, job.equipment)
    assert teed.run("A").fed_from == "tee1" and teed.run("A").legs == ()
    assert teed.run("tee1").legs == job.route.run("A").legs
    back = edited(teed, "out:tee1", job.survey, job.equipment)
    assert back.run("A").legs == job.route.run("A").legs
    assert back.run("A").fed_from == "outdoor" and set(back.runs) == {"A"}
    swapped = edited(systems.gallery().route, "connect:A:outdoor:B", job.survey, job.equipment)
    assert (swapped.run("A").outlet, swapped.run("B").outlet) == ("B", "A")
    with pytest.raises(EditError, match="feed itself"):
        edited(teed, "connect:tee1:tee1:on", job.survey, job.equipment)


def test_a_run_kept_before_there_were_several_is_read():
    old = {"legs": [{"direction": "up", "length_m": 2.0}], "coil_m": 0.4, "valve_height_m": 0.3}
    entry = RouteEntry.model_validate(old)
    assert entry.run("A") == LineRun(fed_from="outdoor", legs=(Leg(length_m=2.0),), coil_m=0.4)
    assert entry.valve_height_m == 0.3
    assert RouteEntry.model_validate(entry.model_dump(exclude_defaults=True)) == entry


# --- sentences, traps, reducers ----------------------------------------------------------------


def test_a_run_is_said_in_one_sentence():
    said = spoken_legs(
        "up 9 ft, left 4 ft 6, through wall, then in the attic right 3 m; down 7", "us", wall_m=0.2
    )
    told = [(leg.direction, round(leg.length_m, 4), leg.setting) for leg in said]
    assert told == [
        ("up", 2.7432, None),
        ("left", 1.3716, None),
        ("in", 0.2, None),
        ("right", 3.0, "attic"),
        ("down", 2.1336, None),
    ]
    assert spoken_legs("in through the wall 8 in", "us")[0].length_m == pytest.approx(0.2032)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "say the legs"),
        ("up 9 ft, sideways 3", "sideways 3"),
        ("up", "how far"),
        ("through wall", "how thick"),
        ("down some", "not understood"),
        ("up -3 m", "up -3 m"),
    ],
)
def test_what_is_not_understood_is_named(text, told):
    with pytest.raises(SpokenError, match=told):
        spoken_legs(text, "us")


def test_traps_stand_at_the_foot_every_sixteen_feet_and_inverted_at_the_valves():
    """A trap at the foot and every 16 ft (5 m) of rise: common practice, no published source."""
    job = bindery()
    down = LineRun(
        fed_from="outdoor",
        legs=(Leg(direction="right", length_m=2.0), Leg(direction="down", length_m=12.0)),
    )
    job = job.model_copy(update={"route": RouteEntry(valve_height_m=14.0, runs={"A": down})})
    assert (
        traps(piping_of(job, rules_of(job, Practice())), lambda _: rules_of(job, Practice())) == []
    )
    rules = rules_of(job, Practice(schools={"traps": "foot-and-rise"}))
    found = traps(piping_of(job, rules), lambda _: rules)
    assert [(t.kind, round(t.at[2], 3)) for t in found] == [
        ("foot", 2.0),
        ("rise", 6.877),
        ("rise", 11.754),
        ("inverted", 14.0),
    ]
    silent = rules.model_copy(
        update={"outdoor": rules.outdoor.model_copy(update={"traps": "none"})}
    )
    assert traps(piping_of(job, silent), lambda _: silent) == []  # the sheet ranks above the school


def test_a_reducer_goes_where_tube_and_port_differ():
    """Three-eighths tube on a half-inch port: a reducer and its joint, at that end alone."""
    job = systems.gallery()
    entry = edited(job.route, "connect:A:outdoor:D", job.survey, job.equipment)
    job = job.model_copy(update={"route": entry})
    rules = rules_of(job, Practice())
    pipes = piping_of(job, rules)
    found = [j.id for j in joints_of(job, rules, pipes) if j.id.endswith("reducer")]
    assert found == ["A.gas.start.reducer"]
    lines = routed(job).materials
    reducer = next(x for x in lines if x.item.startswith("Reducer"))
    assert reducer.size == "1/2 in (12.7 mm) to 3/8 in (9.52 mm)" and reducer.quantity == 1


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ({"gas_od_m": 0.011}, "no tube of 11 mm"),
        ({"legs": ()}, "no legs yet"),
        (
            {
                "legs": (
                    Leg(length_m=3.0),
                    Leg(direction="in", length_m=0.03),
                    Leg(direction="right", length_m=2.0),
                )
            },
            "too short for its bends",
        ),
        ({"legs": (Leg(length_m=9.0),), "kit": "Osmund Works OK-25"}, "a kit of"),
    ],
)
def test_what_is_wrong_with_a_run_is_told_at_the_run(change, told):
    job = systems.gatehouse()
    run = job.route.run("A").model_copy(update={"kit": ""} | change)
    job = job.model_copy(update={"route": job.route.model_copy(update={"runs": {"A": run}})})
    check = next(c for c in judge(job, Practice())["route"].checks if c.id == "run_A")
    assert told in check.call.because
    assert check.call.verdict == ("wait" if "legs yet" in told else "short")


def test_a_tee_wants_straight_tube_before_it():
    job = systems.signal_house()
    checks = {c.id for c in judge(job, Practice())["route"].checks}
    assert not any(c.startswith("straight_") for c in checks)
    run = job.route.run("tee2").model_copy(update={"legs": (Leg(direction="in", length_m=0.4),)})
    runs = job.route.runs | {"tee2": run}
    job = job.model_copy(update={"route": job.route.model_copy(update={"runs": runs})})
    check = next(c for c in judge(job, Practice())["route"].checks if c.id == "straight_tee2")
    assert check.call.verdict == "short" and isinstance(HARTWICK_TEE, Tee)


@pytest.mark.parametrize(("mm", "same"), [(6.44, True), (6.46, False), (6.26, True), (6.24, False)])
def test_two_diameters_a_tenth_of_a_millimetre_apart_are_the_same_tube(mm, same):
    assert same_size(6.35, mm) is same
