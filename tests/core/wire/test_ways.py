"""Ways of the supply and of the interconnect, stretch by stretch, leg by leg."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.line import rules_of
from fairline.core.practice import Practice
from fairline.core.route.entry import RouteEntry
from fairline.core.wire.entry import Supply, SupplyStretch
from fairline.core.wire.needed import needed
from fairline.core.wire.supply import supply
from fairline.demo import wiring
from tests.core.wire.test_wire import BASES, bad, entered, worked

INSIDE = {"meets": "inside", "length_m": 8.0, "way": "sheathed"}
OUTSIDE = {"meets": "weather", "length_m": 4.0}
ATTIC = {"meets": "attic", "length_m": 3.0, "way": "sheathed"}


def of(stretches, **more):
    entry = wiring.circuit(15.0, "14 AWG", 10.0)
    given = {"stretches": stretches, "exposures": ()} | more
    entry = Supply.model_validate(entry.model_dump() | given)
    return supply("outdoor", "unit", entry, rules_of(BASES["single"], Practice()))


@pytest.mark.parametrize(
    ("stretches", "more", "verdict"),
    [
        ((INSIDE, OUTSIDE), {}, "holds"),  # the rest is in thin metal tube
        ((INSIDE, OUTSIDE | {"way": "sheathed"}), {}, "short"),
        ((INSIDE, OUTSIDE | {"way": "outdoor-cable"}), {}, "holds"),
        ((INSIDE, OUTSIDE | {"meets": "knocks", "way": "outdoor-cable"}), {}, "short"),
        ((INSIDE, OUTSIDE | {"meets": "buried"}), {}, "short"),
        ((INSIDE, OUTSIDE | {"meets": "buried", "conduit": "pvc-40"}), {}, "holds"),
        ((INSIDE, OUTSIDE | {"inside": "sheathed"}), {}, "short"),  # wet inside, 300.9
        ((INSIDE, OUTSIDE | {"meets": None}), {}, "wait"),
        ((INSIDE, OUTSIDE | {"way": "conduit"}), {"conduit": None}, "wait"),
    ],
)
def test_each_stretch_of_a_supply_is_judged_by_what_it_meets(stretches, more, verdict):
    checks = {c.id: c.call for c in of(stretches, **more).checks}
    call = checks["outdoor_way"]
    assert call.verdict.value == verdict
    assert verdict == "holds" or "Stretch 2" in call.because


@pytest.mark.parametrize(("air", "asked"), [(None, True), (45.0, False)])
def test_an_attic_on_the_way_asks_how_warm_it_is(air, asked):
    ids = [c.id for c in of((INSIDE, ATTIC), ambient_c=air).checks]
    assert ("outdoor_attic" in ids) is asked


@given(st.lists(st.floats(0.1, 20.0), min_size=1, max_size=6))
def test_the_length_of_a_circuit_is_that_of_its_stretches(lengths):
    found = of([INSIDE | {"length_m": m} for m in lengths])
    assert found.entry.length_m == pytest.approx(sum(lengths))
    one_missing = of([INSIDE | {"length_m": m} for m in lengths] + [{"meets": "inside"}])
    assert one_missing.entry.length_m == pytest.approx(3.048)  # as typed for the whole


def test_the_parts_of_a_supply_are_those_of_its_stretches():
    new = {"circuit": "new", "whip": "yes"}
    plan = worked(BASES["single"]).wiring
    lines = needed(BASES["single"].wire, plan, [of((INSIDE, OUTSIDE), **new)])
    by = {line.item: line.quantity for line in lines}
    assert by["Conduit"] == pytest.approx(4.0)
    assert by["Indoor sheathed cable"] == pytest.approx(8.5)  # half a metre in the panel
    assert by["Supply conductor"] == pytest.approx(2 * 4.5)


def test_a_blank_stretch_is_as_the_whole():
    found = of([SupplyStretch().model_dump()] * 2)
    assert [s.words for s in found.way] == ["thin metal tube (EMT)"] * 2


def laid(job, **leg):
    """The job with every leg of its runs so, and its cable by itself."""
    runs = {
        end: run.model_copy(update={"legs": tuple(x.model_copy(update=leg) for x in run.legs)})
        for end, run in job.route.runs.items()
    }
    route = RouteEntry.model_validate(job.route.model_copy(update={"runs": runs}).model_dump())
    return job.model_copy(update={"route": route})


@pytest.mark.parametrize(
    ("leg", "wire", "wrong"),
    [
        ({"setting": "outside", "kept": "cover"}, {}, {}),
        ({"setting": "outside", "kept": "bare"}, {}, {"A_sunlight": "wait"}),
        ({"setting": "outside", "kept": "bare"}, {"cable_sunlight": "yes"}, {}),
        ({"setting": "roof", "kept": "bare"}, {"cable_sunlight": "no"}, {"A_sunlight": "short"}),
        ({"setting": "room", "kept": "bare"}, {}, {}),
        ({"setting": "outside", "kept": "tape"}, {}, {"A_sunlight": "wait"}),  # own: outside it
        ({"setting": "buried", "kept": "bare"}, {}, {"A_burial": "wait"}),
        ({"setting": "buried", "kept": "sleeve"}, {}, {}),
        ({"setting": "buried", "kept": "bare"}, {"cable_burial": "yes"}, {}),
        ({"setting": "buried", "kept": "bare"}, {"cable_burial": "no"}, {"A_burial": "short"}),
        ({"setting": "outside", "kept": "cover", "cable": "lines"}, {}, {"A_way": "short"}),
        ({"setting": "outside", "kept": "cover", "cable": "supply"}, {}, {"A_way": "short"}),
        ({"setting": "outside", "kept": "cover", "cable": "own"}, {"cable_way": None}, {}),
        ({"setting": "outside", "kept": "cover"}, {"cable_way": None}, {"A_way": "wait"}),
    ],
)
def test_a_cable_is_judged_by_the_legs_that_it_lies_along(leg, wire, wrong):
    job = entered(BASES["single"], **({"cable_way": "own"} | wire))
    assert bad(laid(job, **leg)) == wrong


def test_the_cable_of_a_boxs_head_stops_at_the_box():
    """What feeds the box runs outdoors; a head's own cable is judged by its own legs alone."""
    job = entered(BASES["branch box"], cable_way="own")
    runs = job.route.runs
    bare = runs["box1"].model_copy(
        update={
            "legs": tuple(
                x.model_copy(update={"kept": "bare", "setting": "outside"})
                for x in runs["box1"].legs
            )
        }
    )
    route = job.route.model_copy(update={"runs": dict(runs) | {"box1": bare}})
    found = bad(job.model_copy(update={"route": route}))
    assert [k for k in found if k.endswith("_sunlight")] == ["box1_sunlight"]


@pytest.mark.parametrize(
    ("ways", "amps"),
    [
        (("conduit", "conduit"), 20.0),  # 14 AWG at 75 °C
        (("sheathed", "conduit"), 15.0),  # sheathed cable counts at 60 °C, wherever it lies
        (("conduit", "sheathed"), 15.0),
    ],
)
def test_the_weakest_stretch_says_what_a_circuit_carries(ways, amps):
    """NEC 310.16 and 334.80, from memory."""
    found = of([INSIDE | {"way": way} for way in ways], terminal_c="75")
    assert found.ampacity_a == amps
