"""Edits of the tree and what they leave: built metres, ways, letters, ports; absurd plans asked."""

from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.change import difference, merge
from fairline.core.head_removal import (
    boxes_without,
    letters_named,
    mount_without,
    next_letter,
    route_without,
)
from fairline.core.line import judge, rules_of
from fairline.core.mount.outside import outside
from fairline.core.practice import Practice
from fairline.core.route.edit import EditError, edited
from fairline.core.route.entry import RouteEntry
from fairline.core.route.piping import own_legs
from fairline.core.route.plausible import checks as asked
from fairline.core.route.traps import trap_m, traps
from fairline.demo import systems
from tests.core.route.test_piping import ORDERS, random_system
from tests.support import joints_of, piping_of, routed

SYSTEMS = [systems.signal_house, systems.gallery, systems.foundry, systems.gatehouse]


def with_route(job, route):
    return job.model_copy(update={"route": route})


def pipes_of(job):
    return piping_of(job, rules_of(job, Practice()))


def built(job, **lengths):
    runs = {e: r.model_copy(update={"built_m": lengths.get(e)}) for e, r in job.route.runs.items()}
    return with_route(job, job.route.model_copy(update={"runs": runs}))


# --- built lengths -------------------------------------------------------------------------------


def test_a_tee_in_a_built_run_asks_how_much_lies_before_it():
    job = built(systems.gatehouse(), A=12.3)
    with pytest.raises(EditError, match="how much of it lies before") as told:
        edited(job.route, "tee:A", job.survey, job.equipment)
    assert told.value.field == "_before.A"
    for wrong in (-0.1, 0.0, 12.3, 13.0):
        with pytest.raises(EditError):
            edited(job.route, "tee:A", job.survey, job.equipment, wrong)
    teed = edited(job.route, "tee:A", job.survey, job.equipment, 5.1)
    assert teed.run("tee1").built_m == pytest.approx(5.1)
    assert teed.run("A").built_m == pytest.approx(7.2)
    assert pipes_of(with_route(job, teed)).total_m == pytest.approx(12.3)
    back = edited(teed, "out:tee1", job.survey, job.equipment)
    assert back.run("A").built_m == pytest.approx(12.3)
    assert back.run("A").legs == job.route.run("A").legs


def test_two_runs_that_become_one_are_both_measured_or_asked_for():
    job = systems.gatehouse()
    teed = edited(job.route, "tee:A", job.survey, job.equipment)
    for first, second, told in (
        (5.0, None, "type the built length of A"),
        (None, 3.0, "type the built length of tee1"),
    ):
        half = built(with_route(job, teed), tee1=first, A=second)
        with pytest.raises(EditError, match=told):
            edited(half.route, "out:tee1", job.survey, job.equipment)
    both = built(with_route(job, teed), tee1=5.0, A=3.0)
    assert edited(both.route, "out:tee1", job.survey, job.equipment).run("A").built_m == 8.0


def test_a_built_main_run_is_not_lost_with_its_box():
    job = systems.foundry()
    main = built(job, box1=9.0)
    with pytest.raises(EditError, match="blank its built length first"):
        edited(main.route, "out:box1", job.survey, job.equipment)
    assert "box1" not in edited(job.route, "out:box1", job.survey, job.equipment).runs


@settings(max_examples=60)
@given(ORDERS, st.sampled_from(SYSTEMS), st.data())
def test_built_metres_are_never_lost_nor_moved(orders, make, data):
    """Whatever is ordered: the sum of what was measured stays, and each run not named keeps its."""
    job = make()
    lengths = {e: data.draw(st.sampled_from([None, 3.5, 8.25])) for e in job.route.runs}
    entry = built(job, **lengths).route
    for order in orders:
        before = sum(r.built_m or 0.0 for r in entry.runs.values())
        try:
            entry = edited(
                entry, order, job.survey, job.equipment, data.draw(st.sampled_from([None, 1.0]))
            )
        except EditError:
            continue
        assert sum(r.built_m or 0.0 for r in entry.runs.values()) == pytest.approx(before)


@settings(max_examples=60)
@given(ORDERS, st.sampled_from(SYSTEMS))
def test_orders_are_taken_back_one_by_one_to_where_they_began(orders, make):
    job = make()
    entries = [job.route]
    for order in orders:
        try:
            entries.append(edited(entries[-1], order, job.survey, job.equipment))
        except EditError:
            continue
    documents = [e.model_dump(mode="json", exclude_defaults=True) for e in entries]
    standing = documents[-1]
    for before, after in reversed(list(pairwise(documents))):
        steps = [s.back for s in reversed(difference(before, after))]
        standing, left = merge(standing, steps, after)
        assert left == [] and standing == before
    assert RouteEntry.model_validate(standing) == job.route


# --- ways ----------------------------------------------------------------------------------------


def followed(kind="home runs", seed=3):
    """A system in which run B keeps to the first two legs of run A."""
    job = random_system(kind, seed)
    a = job.route.run("A")
    b = job.route.run("B").model_copy(
        update={"along": "A", "along_legs": 2, "fed_from": a.fed_from}
    )
    return with_route(job, job.route.model_copy(update={"runs": job.route.runs | {"B": b}}))


@pytest.mark.parametrize("order", ["loose:A", "tee:A", "connect:A:outdoor:E"])
def test_a_run_that_keeps_to_anothers_path_keeps_its_way(order):
    job = followed()
    way = [leg for _, leg in own_legs(job.route, "B")]
    assert len(way) >= 3
    entry = edited(job.route, order, job.survey, job.equipment)
    assert [leg for _, leg in own_legs(entry, "B")] == way
    assert pipes_of(with_route(job, entry)).get("B").length_m == pipes_of(job).get("B").length_m


# --- heads ---------------------------------------------------------------------------------------


def without(job, zone):
    heads = tuple(h for h in job.survey.heads if h.zone != zone)
    survey = job.survey.model_copy(update={"heads": heads})
    update = {
        "survey": boxes_without(survey, {zone}),
        "route": route_without(job.route, {zone}),
        "mount": mount_without(job.mount, {zone}),
    }
    return job.model_copy(update=update)


def test_a_head_taken_out_leaves_nothing_to_the_next():
    job = followed()
    parts = {"parts": [{"length_m": 2.0, "fall_m": 0.1}]}
    drains = {"A": parts | {"ends": "ground"}, "B": parts | {"ends": "joins", "joins": "A"}}
    route = RouteEntry.model_validate(job.route.model_dump() | {"drains": drains})
    job = with_route(job, route)
    way = [leg for _, leg in own_legs(job.route, "B")]
    after = without(job, "A")
    assert "A" not in after.route.runs and "A" not in after.route.drains
    assert "A" not in after.mount.walls and "A" not in after.survey.boxes
    assert (after.route.drain("B").ends, after.route.drain("B").joins) == (None, "")
    assert [leg for _, leg in own_legs(after.route, "B")] == way
    joints = joints_of(after, rules_of(after, Practice()), pipes_of(after))
    assert not any(x.run == "A" or x.id.startswith("A.") for x in joints)


def test_a_letter_that_a_record_names_is_not_given_out_again():
    job = systems.gatehouse()
    assert next_letter(letters_named(job)) == "B"
    last = without(followed(), "C")
    assert next_letter(letters_named(last)) == "C"  # nothing names it any more
    made = {
        "kind": "joint",
        "place": "C.gas.end",
        "applied_nm": 30.0,
        "by": "I",
        "look": "good",
        "at": "2026-03-04T10:00:00Z",
    }
    recorded = type(job).model_validate(last.model_dump() | {"records": [made]})
    assert next_letter(letters_named(recorded)) == "D"
    assert next_letter("ABCDEFGHIJKLMNOPQRSTUVWXY") == "Z" and next_letter("BZ") == "A"


# --- lists ---------------------------------------------------------------------------------------


def listed(job, **schools):
    return routed(job, Practice(schools=schools)).materials


def test_a_shared_path_has_one_conduit_for_the_cables():
    job = followed()
    conduit = next(x for x in listed(job, cable="apart") if x.item.startswith("Conduit"))
    own = {s.id: sum(leg.length_m for leg in s.legs if leg.number) for s in pipes_of(job).stretches}
    assert {p.run: p.quantity for p in conduit.parts} == pytest.approx(own)


def test_a_trap_lengthens_the_gas_tube_and_is_no_joint():
    job = followed()
    rules = rules_of(job, Practice(schools={"traps": "foot-and-rise"}))
    pipes = piping_of(job, rules)
    if rules.outdoor.traps is None:
        shared = [t for t in traps(pipes, lambda _: rules) if t.run == "B"]
        own = [t for t in traps(pipes, lambda _: rules) if t.run == "A"]
        assert bool(shared) == bool(own)  # a run beside another has its own gas tube
    for stretch in pipes.stretches:
        count = sum(t.run == stretch.id for t in traps(pipes, lambda _: rules))
        # 2π R of tube over 4 R of way
        assert trap_m(stretch.id, pipes, traps(pipes, lambda _: rules)) == pytest.approx(
            count * 2.2832 * stretch.radius_m, rel=1e-4
        )
    assert len(joints_of(job, rules, pipes)) == len(
        joints_of(job, rules_of(job, Practice()), pipes)
    )


# --- absurd plans --------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("field", "fine", "odd"),
    [
        ("end_allowance_m", 5.0, 5.01),
        ("cable_tail_m", 10.0, 10.01),
        ("valve_height_m", -3.0, -3.01),
        ("valve_height_m", 100.0, 100.1),
        ("wall_m", 0.02, 0.019),
        ("wall_m", 1.5, 1.51),
        ("bend_radius_m", 1.0, 1.01),
        ("bend_radius_m", 0.026, 0.001),
    ],
)
def test_what_no_job_has_is_asked_about(field, fine, odd):
    job = systems.gatehouse()
    for value, count in ((fine, 0), (odd, 1)):
        entry = job.route.model_copy(update={field: value})
        found = asked(entry, pipes_of(with_route(job, entry)))
        assert [c.id for c in found] == [f"asked_{field}"] * count, value


@pytest.mark.parametrize(("built_m", "count"), [(3.0, 0), (3.001, 1), (1 / 3, 0), (0.33, 1)])
def test_a_built_length_far_from_the_plan_is_asked_about(built_m, count):
    job = systems.gatehouse()
    planned = pipes_of(built(job)).get("A").planned_m
    job = built(job, A=planned * built_m)
    assert len(asked(job.route, pipes_of(job))) == count


@pytest.mark.parametrize(("x", "verdict"), [(3.8, "holds"), (3.804, "holds"), (3.81, "wait")])
def test_a_light_outside_the_room_is_asked_about(x, verdict):
    check = outside("A", "room", 4.0, 4.0, [("light (1)", x, 1.0, 0.2, 0.2)])
    assert check.call.verdict == verdict


@pytest.mark.parametrize(("most", "over"), [(4, True), (5, False)])
def test_the_bends_of_traps_count(most, over):
    """Two corners and one trap at the foot of the rise: five bends."""
    job = systems.gatehouse()
    legs = [{"direction": d, "length_m": m} for d, m in (("right", 2), ("up", 4), ("in", 1))]
    route = RouteEntry.model_validate({"runs": {"A": {"fed_from": "outdoor", "legs": legs}}})
    outdoor = job.equipment.outdoor
    sheet = outdoor.sheet.model_copy(
        update={"max_bends": most, "traps": "foot-and-rise", "trap_every_m": 5.0}
    )
    equipment = job.equipment.model_copy(
        update={"outdoor": outdoor.model_copy(update={"sheet": sheet}), "fittings": ()}
    )
    job = job.model_copy(update={"route": route, "equipment": equipment})
    run = next(c for c in judge(job, Practice())["route"].checks if c.id == "run_A")
    assert ("bends with 3 of its oil traps" in run.call.because) == over
