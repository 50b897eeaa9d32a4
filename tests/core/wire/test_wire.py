"""Wire: every single fault put in is found and named; circuits both sides of what is looked at."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.charge.entry import Release
from fairline.core.charge.override import Lacking
from fairline.core.charge.power import lacking, power_check
from fairline.core.job import Job
from fairline.core.line import rules_of, work
from fairline.core.practice import CodeEntry, Practice
from fairline.core.wire.carrying import terminal_c
from fairline.core.wire.entry import CableEntry
from fairline.core.wire.landed import landed
from fairline.core.wire.records import Landing, PowerOn, ProvedDead, SwitchedOff, WireEnd
from fairline.core.wire.stage import WireStageResult
from fairline.core.wire.supply import supply
from fairline.demo import jobs as demo
from fairline.demo import systems, wiring

DAY = datetime(2026, 4, 7, 8, 0, tzinfo=UTC)


def wired(job: Job) -> Job:
    """A demo job with all of its wiring as it should be, whatever the demo makes of it."""
    outdoor = job.equipment.outdoor.sheet
    fits = {"OS-26": 15.0, "OS-80M4": 35.0, "PX-90B": 40.0, "HV-120T": 40.0}[outdoor.model]
    supplies = {"outdoor": wiring.circuit(fits, "8 AWG", 40.0)}
    more = {}
    if outdoor.system == "trunk":
        supplies |= {h.zone: wiring.inside(15.0, 40.0) for h in job.survey.now}
        more = {"addresses": wiring.addressed(job), "cable_kind": "shielded", "controller": "B"}
    if outdoor.system == "branch-box":
        more = {"box_ports": {"box1": wiring.ports_set(job, "box1")}}
    bare = job.model_copy(update={"records": ()})
    return wiring.wired(bare, wiring.entry(supplies, **more), DAY, "Ida")


BASES = {
    "single": wired(demo._bindery()),
    "home runs": wired(systems._gallery(DAY)),
    "branch box": wired(systems._foundry(DAY)),
    "trunk": wired(systems._signal_house(DAY)),
}


def worked(job: Job, practice: Practice | None = None) -> WireStageResult:
    return work(job, practice or Practice()).of(WireStageResult)


def bad(job: Job) -> dict[str, str]:
    """Checks that do not hold, by id."""
    return {
        c.id: c.call.verdict.value
        for c in worked(job).call.checks
        if c.call.verdict.value != "holds"
    }


@pytest.mark.parametrize("base", BASES)
def test_wiring_as_it_should_be_holds(base):
    found = worked(BASES[base]).call
    assert (found.call.verdict.value, bad(BASES[base])) == ("holds", {})


def with_records(job: Job, change) -> Job:
    return job.model_copy(update={"records": tuple(r for r in map(change, job.records) if r)})


def entered(job: Job, **changes) -> Job:
    return job.model_copy(update={"wire": job.wire.model_copy(update=changes)})


# Each fault: which cables it can be put into, what it does, and the check that has to name it.
def _one_landing(cable, side, screw, **update):
    def change(record):
        if isinstance(record, Landing) and (record.cable, record.side) == (cable.id, side):
            if record.terminal == screw:
                return record.model_copy(update=update) if update else None
        return record

    return change


def _finish(cable, side, **update):
    def change(record):
        if isinstance(record, WireEnd) and (record.cable, record.side) == (cable.id, side):
            return record.model_copy(update=update)
        return record

    return change


def exchanged(job, plan, cable, side):
    a, b = plan.planned(cable.id, side).terminals[:2]
    lie = {a: b, b: a}

    def change(record):
        if isinstance(record, Landing) and (record.cable, record.side) == (cable.id, side):
            return record.model_copy(update={"terminal": lie.get(record.terminal, record.terminal)})
        return record

    return with_records(job, change)


def shifted(job, plan, cable, side):
    """A strange conductor under the first screw, and the first one's under the second."""
    first, second = plan.planned(cable.id, side).terminals[:2]
    own = next(
        r.colour
        for r in job.records
        if isinstance(r, Landing) and (r.cable, r.side, r.terminal) == (cable.id, side, first)
    )
    job = with_records(job, _one_landing(cable, side, first, colour="orange"))
    return with_records(job, _one_landing(cable, side, second, colour=own))


def on_another_block(job, plan, cable, side):
    """One conductor of an end under the same screw of another block of that unit or system."""
    first = plan.planned(cable.id, side)
    other = next(b for b in plan.blocks.values() if b.id != first.id and b.grounded)
    return with_records(
        job, _one_landing(cable, side, first.terminals[0], block=other.id, terminal=other.places[0])
    )


CABLES = {base: list(worked(job).wiring.cables.values()) for base, job in BASES.items()}
FAULTS = {
    "exchanged": (("cable", "pair"), "number", exchanged),
    "no ground": (
        ("cable", "supply"),
        "ground",
        lambda j, p, c, s: with_records(j, _one_landing(c, s, "ground")),
    ),
    "another colour": (
        ("cable", "pair"),
        "colour",
        lambda j, p, c, s: with_records(
            j, _one_landing(c, s, p.planned(c.id, s).terminals[0], colour="orange")
        ),
    ),
    "colours shifted": (("cable", "pair"), "colour", shifted),
    "ground on a terminal": (
        ("cable", "supply"),
        "ground-colour",
        lambda j, p, c, s: with_records(
            j, _one_landing(c, s, p.planned(c.id, s).terminals[0], colour="bare")
        ),
    ),
    "not landed": (
        ("cable", "pair", "supply"),
        "landed",
        lambda j, p, c, s: with_records(j, _one_landing(c, s, p.planned(c.id, s).terminals[-1])),
    ),
    "not pulled": (
        ("cable", "pair", "supply"),
        "landed",
        lambda j, p, c, s: with_records(
            j, _one_landing(c, s, p.planned(c.id, s).terminals[0], pulled=False)
        ),
    ),
    "on two blocks": (("cable",), "split", on_another_block),
    "no letter": (
        ("cable",),
        "letter",
        lambda j, p, c, s: with_records(j, _finish(c, s, letter="")),
    ),
    "another letter": (
        ("cable",),
        "letter",
        lambda j, p, c, s: with_records(j, _finish(c, s, letter="Q")),
    ),
    "bare strands": (
        ("cable", "pair", "supply"),
        "tip",
        lambda j, p, c, s: with_records(j, _finish(c, s, tip="bare")),
    ),
    "no slack": (
        ("cable", "pair", "supply"),
        "slack",
        lambda j, p, c, s: with_records(j, _finish(c, s, slack="no")),
    ),
    "no strain relief": (
        ("cable", "pair", "supply"),
        "strain",
        lambda j, p, c, s: with_records(j, _finish(c, s, strain="no")),
    ),
    "cover off": (
        ("cable", "pair", "supply"),
        "landed",
        lambda j, p, c, s: with_records(j, _finish(c, s, cover="no")),
    ),
    "cover not said": (
        ("cable", "pair", "supply"),
        "landed",
        lambda j, p, c, s: with_records(j, _finish(c, s, cover=None)),
    ),
    "plug left in": (
        ("cable",),
        "plug",
        lambda j, p, c, s: with_records(j, _finish(c, s, plug="in")),
    ),
    "shield": (
        ("pair",),
        "shield",
        lambda j, p, c, s: with_records(
            j,
            _finish(
                c,
                s,
                shield="taped" if p.grounds_shield(p.planned(c.id, s).unit) else "grounded",
            ),
        ),
    ),
    "building cable": (
        ("cable", "pair"),
        "kind",
        lambda j, p, c, s: entered(j, cables={c.id: CableEntry(kind="building")}),
    ),
    "thin cable": (
        ("cable",),
        "gauge",
        lambda j, p, c, s: entered(j, cables={c.id: CableEntry(gauge="16 AWG")}),
    ),
    "with the line set": (
        ("cable", "pair"),
        "way",
        lambda j, p, c, s: entered(j, cables={c.id: CableEntry(way="lines")}),
    ),
}


@pytest.mark.parametrize("name", sorted(FAULTS))
@settings(max_examples=4)
@given(st.data())
def test_every_single_fault_is_found_and_named(name, data):
    kinds, check, put_in = FAULTS[name]
    places = [(b, c) for b in sorted(BASES) for c in CABLES[b] if c.kind in kinds]
    base, cable = data.draw(st.sampled_from(places))
    job = BASES[base]
    plan = worked(job).wiring
    side = data.draw(st.sampled_from(cable.sides))
    hurt = put_in(job, plan, cable, side)
    hurt = Job.model_validate(hurt.model_dump(mode="json"))  # as a file brings it back
    found = bad(hurt)
    assert any(id.startswith(f"{cable.id}_{check}") for id in found), (name, cable.id, side, found)


@given(st.sampled_from(sorted(BASES)), st.randoms())
def test_the_map_is_the_same_however_the_wires_were_entered(base, chance):
    job = BASES[base]
    landings = [r for r in job.records if isinstance(r, Landing)]
    ends = [r for r in job.records if isinstance(r, WireEnd)]
    times = [r.at for r in landings]
    chance.shuffle(times)
    mixed = [r.model_copy(update={"at": at}) for r, at in zip(landings, times, strict=True)]
    chance.shuffle(mixed)

    def shape(of):
        return {
            end: {(x.block, x.terminal, x.colour) for x in all_}
            for end, all_ in of.conductors.items()
        }

    assert shape(landed(mixed, ends)) == shape(landed(landings, ends))


@pytest.mark.parametrize(
    ("moved", "said"),
    [
        ({"B": "C", "C": "B"}, "box1, port B and box1, port D"),
        ({"A": "B", "B": "A"}, "box1, port A and box1, port B"),
    ],
)
def test_exchanged_cables_are_caught_before_power_with_the_swap(moved, said):
    job = BASES["branch box"]
    bare = job.model_copy(update={"records": ()})
    crossed = wiring.wired(bare, job.wire, DAY, "Ida", moved=moved)
    call = next(c.call for c in worked(crossed).call.checks if c.id == "crossed")
    assert call.verdict.value == "short"
    assert said in call.do_next


def test_a_cable_on_a_port_without_tubes_is_told():
    job = BASES["home runs"]
    spare = with_records(
        job,
        lambda r: (
            r.model_copy(update={"block": "outdoor.D"})
            if isinstance(r, Landing) and (r.cable, r.side) == ("B", "start")
            else r
        ),
    )
    assert bad(spare)["crossed"] == "short"


@pytest.mark.parametrize(
    ("change", "check"),
    [
        ({"addresses": {"A": {"circuit": "00", "head": "01"}}}, "address_00-01"),
        ({"addresses": {"F": {"circuit": "00", "head": "06"}}}, "addresses"),
        ({"addresses": {"F": {"circuit": "01", "head": "05"}}}, "addresses"),
        ({"addresses": {"F": {}}}, "addresses"),
        ({"seen": ("00-00", "00-01", "00-02", "00-03", "00-04")}, "seen"),
        ({"seen": tuple(f"00-{n:02}" for n in range(7))}, "seen"),
    ],
)
def test_addresses_with_a_gap_twice_or_not_seen(change, check):
    job = BASES["trunk"]
    wire = job.wire.model_dump()
    for field, value in change.items():
        wire[field] = wire[field] | value if isinstance(value, dict) else value
    hurt = job.model_copy(update={"wire": type(job.wire).model_validate(wire)})
    assert set(bad(hurt)) == {check}
    seen_all = entered(job, seen=tuple(f"00-{n:02}" for n in range(6)))
    assert bad(seen_all) == {}


@pytest.mark.parametrize("told", [("A", "B"), ("A", "B", "C", "D"), ()])
def test_ports_of_a_box_set_as_they_are(told):
    assert "ports_box1" in bad(entered(BASES["branch box"], box_ports={"box1": told}))


OLD = {"circuit": "reused", "breaker_a": 15.0}
ALUMINIUM = {"metal": "aluminium", "code_source": "town code 4", "al_terminals": "yes"}
JOINED = {"gauge": "8 AWG", "joined": "yes", "gauge_2": "12 AWG", "length_2_m": 4.0}
JOINED |= {"box": "reached", "splices": "rated"}
FUSED = {"disconnect": "fused", "fuse_a": 15.0}


@pytest.mark.parametrize(
    ("changes", "check", "verdict"),
    [
        ({"breaker_a": 50.0}, "breaker", "stop"),
        ({"breaker_a": None}, "breaker", "wait"),
        ({"disconnect": "fused", "fuse_a": 30.0}, "fuse", "stop"),
        ({"disconnect": "fused", "fuse_a": 15.0}, "fuse", "holds"),
        ({"disconnect": "panel", "disconnect_a": None}, "sight", "holds"),
        ({"disconnect": "none"}, "disconnect", "short"),
        ({"disconnect_a": 9.0}, "disconnect", "short"),
        ({"disconnect_m": 15.2}, "sight", "holds"),
        ({"disconnect_m": 15.3}, "sight", "short"),
        ({"in_sight": "no"}, "sight", "short"),
        ({"grounded": "no"}, "ground", "stop"),
        ({"ground_gauge": "14 AWG"}, "ground", "holds"),
        ({"ground_gauge": None}, "ground", "wait"),
        ({"gauge": "2.5 mm²"}, "ground", "watch"),
        ({"ground_gauge": "16 AWG"}, "ground", "short"),
        ({"neutral": "on-ground"}, "neutral", "stop"),
        ({"neutral": "loose"}, "neutral", "short"),
        ({"neutral": "used"}, "neutral", "short"),
        ({"white": "unmarked"}, "white", "short"),
        ({"left_behind": "open"}, "left_behind", "short"),
        ({"receptacle": "no"}, "receptacle", "watch"),
        ({"gfci": "missing"}, "gfci", "short"),
        ({"way": "sheathed", "exposures": ("inside",)}, "way", "holds"),
        ({"way": "sheathed", "exposures": ("inside", "weather")}, "way", "short"),
        ({"conduit": "emt", "exposures": ("buried",)}, "way", "short"),
        ({"conduit": "rigid", "exposures": ("buried", "knocks")}, "way", "holds"),
        ({"conduit": "pvc-40", "exposures": ("knocks",)}, "way", "short"),
        ({"conduit": "pvc-80", "exposures": ("knocks",)}, "way", "holds"),
        ({"gauge": "2.5 mm²"}, "conductor", "unknown"),
        ({"metal": "aluminium"}, "conductor", "wait"),  # the terminals were not looked at
        ({"metal": "aluminium", "al_terminals": "yes"}, "conductor", "unknown"),
        ({"metal": None} | OLD, "conductor", "wait"),
        (
            ALUMINIUM | {"code_a": 15.0},
            "conductor",
            "holds",
        ),
        (ALUMINIUM | {"code_a": 9.0}, "conductor", "stop"),
        (ALUMINIUM | {"code_a": 15.0, "al_terminals": "no"}, "conductor", "stop"),
        # no column of 310.16 gives 14 AWG more than 25 A: only by the code's section
        ({"code_a": 25.0, "code_source": "the office"}, "conductor", "holds"),
        ({"code_a": 30.0, "code_source": "the office"}, "conductor", "unknown"),
        ({"code_a": 30.0, "code_source": "310.15(C)"}, "conductor", "holds"),
        ({"code_a": 30.0, "code_source": "310.15(C)"}, "code", "watch"),
        # an old wire lengthened in a box: the weaker piece, the box reached, its splices rated
        ({"gauge": "8 AWG", "joined": "yes"}, "conductor", "wait"),
        (JOINED | {"gauge_2": "14 AWG", "plate_mca_a": 15.0}, "conductor", "holds"),
        (
            JOINED | {"gauge_2": "14 AWG", "plate_mca_a": 15.1, "plate_mop_a": 20.0},
            "conductor",
            "stop",
        ),
        (JOINED, "box", "holds"),
        (JOINED | {"box": "hidden"}, "box", "short"),
        (JOINED | {"box": None}, "box", "wait"),
        (JOINED | {"splices": "unrated"}, "splices", "stop"),
        (JOINED | {"metal_2": "aluminium"}, "conductor", "wait"),
        # warm air, 60 °C terminals: √((60 − 47.9)/30) of 15 A is 9.5 A, MCA
        ({"ambient_c": 47.9}, "conductor", "holds"),
        ({"ambient_c": 48.1}, "conductor", "stop"),
        ({"ambient_c": 10.0, "on_roof": "yes"}, "conductor", "holds"),  # 43 °C
        ({"ambient_c": 30.0, "on_roof": "yes"}, "conductor", "stop"),
        ({"ambient_c": 48.1, "insulation_90": "yes"}, "conductor", "holds"),
        ({"volts_v": 207.0}, "volts", "holds"),
        ({"volts_v": 206.9}, "volts", "stop"),
        ({"volts_v": 253.0}, "volts", "holds"),
        ({"volts_v": 253.1}, "volts", "stop"),
        ({"volts_v": 277.0}, "volts", "stop"),
        ({"volts_v": 208.0, "plate_v": 240.0}, "volts", "stop"),
        ({"volts_v": 187.2, "plate_v": 208.0}, "volts", "holds"),  # 208/230 V: 187 to 253
        ({"volts_v": 187.0, "plate_v": 208.0}, "volts", "stop"),
        ({"volts_v": 253.0, "plate_v": 208.0}, "volts", "holds"),
        ({"volts_v": 253.1, "plate_v": 208.0}, "volts", "stop"),
        ({"volts_v": 149.0, "plate_v": 149.0, "poles": "1"}, "volts", "holds"),
        ({"volts_v": 151.0, "plate_v": 151.0, "poles": "1"}, "volts", "stop"),
        ({"drop_told": 0.03}, "drop", "holds"),
        ({"drop_told": 0.031}, "drop", "watch"),
        ({"drop_told": 0.1374}, "drop", "watch"),  # 240 V less that is 207 V, the unit's least
        ({"drop_told": 0.138}, "drop", "short"),
        ({"drop_told": 0.249}, "drop", "short"),
        # fuses at the unit fulfil MOP; the breaker before them protects its wire
        (FUSED | {"breaker_a": 20.0, "gauge": "12 AWG"}, "breaker", "holds"),
        (FUSED | {"breaker_a": 25.0, "gauge": "12 AWG"}, "breaker", "stop"),
        (FUSED | {"breaker_a": 60.0, "gauge": "6 AWG"}, "breaker", "holds"),
        (FUSED | {"breaker_a": 70.0, "gauge": "6 AWG"}, "breaker", "stop"),
        ({"disconnect": "fused", "fuse_a": 12.0}, "fuse", "holds"),
        ({"disconnect": "fused", "fuse_a": 15.0, "disconnect_a": 14.0}, "disconnect", "short"),
        ({"disconnect": "fused", "fuse_a": 15.0, "disconnect_a": 15.0}, "disconnect", "holds"),
        ({"grounded": "conduit"}, "ground", "holds"),
        ({"grounded": "conduit", "conduit": "pvc-40"}, "ground", "short"),
        ({"grounded": "conduit", "way": "outdoor-cable"}, "ground", "short"),
        ({"gauge": "10 AWG", "ground_gauge": "14 AWG"}, "ground", "short"),
        ({"gauge": "10 AWG", "ground_gauge": "10 AWG"}, "ground", "holds"),
        ({"gauge": "10 AWG", "ground_gauge": "14 AWG", "ground_by": "Mo"}, "ground", "watch"),
        ({"gauge": "10 AWG", "ground_gauge": "16 AWG", "ground_by": "Mo"}, "ground", "short"),
        ({"inside": "sheathed", "exposures": ("inside",)}, "way", "holds"),
        ({"inside": "sheathed"}, "way", "short"),  # inside a conduit in a wet place is wet
        ({"inside": "sheathed", "exposures": ("buried",), "conduit": "rigid"}, "way", "short"),
        ({"bushing": None}, "bushing", "wait"),
        ({"bushing": "missing"}, "bushing", "short"),
        ({"dedicated": "heads"}, "dedicated", "short"),
        ({"volts_v": 120.0}, "volts", "stop"),
        ({"volts_v": None}, "volts", "wait"),
        ({"poles": "1"}, "volts", "stop"),
        ({"gauge": "6 AWG"}, "terminal", "short"),
        ({"gauge": "8 AWG"}, "terminal", "holds"),
        ({"source": "battery"}, "source", "wait"),
        ({"source": "battery", "source_a": 9.4, "source_v": 230.0}, "source", "short"),
        ({"source": "battery", "source_a": 9.5, "source_v": 230.0}, "source", "holds"),
        ({"source": "generator", "source_a": 30.0, "source_v": 120.0}, "source", "stop"),
        ({"later_mca_a": 15.0, "gauge": "14 AWG"}, "later", "holds"),
        ({"later_mca_a": 15.1, "gauge": "14 AWG"}, "later", "watch"),
        ({"plate_mop_a": 20.0}, "plate", "watch"),
        ({"been": None}, "who", "wait"),
        ({"who": None}, "who", "wait"),
        ({"dedicated": "no"}, "dedicated", "short"),
        ({"whip": "no"}, "whip", "short"),
    ],
)
def test_a_circuit_on_both_sides_of_what_is_looked_at(changes, check, verdict):
    """The unit: MCA 9.5 A, MOP 15 A, 230 V, terminals up to 8 AWG."""
    rules = rules_of(BASES["single"], Practice())
    entry = wiring.circuit(15.0, "14 AWG", 38.0)
    found = supply(
        "outdoor", "outdoor unit", type(entry).model_validate(entry.model_dump() | changes), rules
    )
    by_id = {c.id: c.call for c in (*found.checks, found.who)}
    assert by_id[f"outdoor_{check}"].verdict.value == verdict


def test_a_low_voltage_unit_takes_one_hot_and_a_neutral():
    job = BASES["single"]
    entry = wiring.circuit(15.0, "14 AWG", 10.0, volts_v=120.0, plate_v=115.0, poles="1")
    used = entry.model_copy(update={"neutral": "used"})
    rules = rules_of(job, Practice())
    by_id = {c.id: c.call.verdict.value for c in supply("outdoor", "unit", used, rules).checks}
    assert (by_id["outdoor_volts"], by_id["outdoor_neutral"]) == ("holds", "holds")
    none = {c.id: c.call.verdict.value for c in supply("outdoor", "unit", entry, rules).checks}
    assert none["outdoor_neutral"] == "short"
    sheet = job.equipment.outdoor.sheet.model_copy(update={"supply_terminals": ("L", "N")})
    planned = job.equipment.model_copy(
        update={"outdoor": job.equipment.outdoor.model_copy(update={"sheet": sheet})}
    )
    bare = job.model_copy(update={"records": (), "equipment": planned})
    good = wiring.wired(bare, wiring.entry({"outdoor": used}), DAY, "Ida")
    assert bad(good) == {"outdoor_plate": "watch"}
    turned = with_records(
        good,
        lambda r: (
            r.model_copy(update={"terminal": {"L": "N", "N": "L"}.get(r.terminal, r.terminal)})
            if isinstance(r, Landing) and r.cable == "supply.outdoor"
            else r
        ),
    )
    assert bad(turned)["supply.outdoor_neutral_1"] == "stop"
    white_on_l = with_records(
        good,
        lambda r: (
            (r.model_copy(update={"colour": "white"}) if r.terminal == "L" else None)
            if isinstance(r, Landing) and r.cable == "supply.outdoor" and r.terminal in ("L", "N")
            else r
        ),
    )  # and nothing on N yet
    assert bad(white_on_l)["supply.outdoor_neutral_1"] == "stop"
    lines = {x.item: x for x in worked(good).materials}
    assert lines["Breaker"].size == "15 A, 1-pole"
    assert lines["Supply conductor"].quantity == pytest.approx(2 * (10 * 0.3048 + 1.0))
    unsaid = entered(good, supplies={"outdoor": used.model_copy(update={"poles": None})})
    assert {x.item: x for x in worked(unsaid).materials}["Breaker"].size == "15 A, 1-pole"
    high = wiring.circuit(15.0, "14 AWG", 21.0, poles=None)
    lines = {
        x.item: x for x in worked(entered(BASES["single"], supplies={"outdoor": high})).materials
    }
    assert lines["Breaker"].size == "15 A, 2-pole"
    assert lines["Conduit strap"].quantity == 3 + 2  # 21 ft, one every 10 ft and one at each end
    fused = used.model_copy(update={"poles": None, "disconnect": "fused", "fuse_a": 15.0})
    lines = {x.item: x for x in worked(entered(good, supplies={"outdoor": fused})).materials}
    assert lines["Fuse"].quantity == 1.0


@pytest.mark.parametrize(
    ("changes", "terminal"),
    [
        ({"way": "sheathed"}, 60),  # NEC 334.80, from memory
        ({"way": "conduit", "inside": "sheathed"}, 60),
        ({"way": "conduit"}, 75),
        ({"way": "outdoor-cable"}, 75),
        ({"way": "outdoor-cable", "inside": "sheathed"}, 75),  # nothing lies inside a cable
        ({"way": "conduit", "terminal_c": None}, 60),
    ],
)
def test_indoor_sheathed_cable_counts_at_the_lower_rating(changes, terminal):
    entry = wiring.circuit(15.0, "14 AWG", 10.0, terminal_c="75")
    assert terminal_c(type(entry).model_validate(entry.model_dump() | changes)) == terminal


def head_supply(**changes):
    """Head A of the trunk on its own circuit, and what a check of it says."""
    rules = rules_of(BASES["trunk"], Practice())
    entry = wiring.inside(15.0, 40.0)
    entry = type(entry).model_validate(entry.model_dump() | changes)
    return supply("A", "head A", entry, rules)


def test_a_head_indoors_is_asked_for_no_whip_and_heads_may_share_a_circuit():
    ids = {c.id for c in head_supply(whip=None, receptacle=None).checks}
    assert not {"A_whip", "A_receptacle"} & ids and "A_bushing" in ids
    shared = {c.id: c.call.verdict.value for c in head_supply(dedicated="heads").checks}
    assert shared["A_dedicated"] == "holds"


def test_heads_on_one_circuit_are_judged_by_what_they_ask_together():
    job = BASES["trunk"]
    names = [h.zone for h in job.survey.now]
    each = rules_of(job, Practice()).heads[names[0]].mca_a
    shared = {z: wiring.inside(15.0, 40.0, dedicated="heads") for z in names}
    own = {"outdoor": job.wire.supply("outdoor")}
    all_on_one = entered(job, supplies=own | shared)
    asked = next(s for s in worked(all_on_one).supplies if s.unit == names[0]).rating
    assert asked.mca_a == pytest.approx(each * len(names))
    alone = next(s for s in worked(job).supplies if s.unit == names[0]).rating
    assert alone.mca_a == each


@pytest.mark.parametrize(
    ("been", "said", "hands"), [("yes", "is connected now", False), (None, "no circuit", True)]
)
def test_a_circuit_that_is_connected_is_no_longer_one_that_reaches_nothing(been, said, hands):
    """What was wired before stands; nobody takes it for a proof that it is dead now."""
    job = BASES["single"]
    not_fed = ProvedDead(unit="outdoor", how="not fed", dead="yes", by="Ida", at=DAY)
    kept = [r for r in job.records if not isinstance(r, (ProvedDead, SwitchedOff))]
    circuit = job.wire.supply("outdoor").model_copy(update={"been": been})
    told = entered(
        job.model_copy(update={"records": (not_fed, *kept)}), supplies={"outdoor": circuit}
    )
    dead = worked(told).dead["outdoor"]
    assert (dead.call.verdict.value, said in dead.call.because, dead.proved) == (
        "holds",
        True,
        hands,
    )


@pytest.mark.parametrize(("landed", "told"), [("both", True), ("one", False), ("none", False)])
def test_another_colour_than_the_jobs_at_both_ends_works_and_is_told(landed, told):
    job = BASES["single"]
    cable = worked(job).wiring.cables["A"]
    first, other = cable.colours[0], "orange"
    for side in {"both": ("start", "end"), "one": ("start",), "none": ()}[landed]:
        screw = worked(job).wiring.planned("A", side).terminals[0]
        job = with_records(job, _one_landing(cable, side, screw, colour=other))
    found = bad(job)
    assert first != other and (found.get("A_chosen_1") == "watch") is told
    assert ("A_colour_1" in found) is (landed == "one")


def test_an_end_without_anything_landed_names_its_unit():
    job = BASES["single"]
    bare = with_records(job, lambda r: None if isinstance(r, Landing) and r.cable == "A" else r)
    told = [c.call.because for c in worked(bare).call.checks if "no ground" in c.call.because]
    assert {text.rpartition(" at the ")[2] for text in told} == {"outdoor unit.", "head A."}


def test_the_pairs_colours_are_offered_and_never_taken_as_landed():
    job = BASES["trunk"]
    unsaid = entered(job, pair=None)
    pairs = [c for c in worked(unsaid).wiring.cables.values() if c.kind == "pair"]
    assert pairs and all(c.colours == (None, None) for c in pairs)
    said = worked(entered(job, pair="blue-white")).wiring.cables["A"].colours
    assert said == ("blue", "white")
    assert worked(entered(job, pair=None, colour_1="red")).wiring.cables["A"].colours == (
        "red",
        None,
    )


def test_the_test_plug_sits_in_the_heads_terminals():
    plan = worked(BASES["home runs"]).wiring
    for cable in plan.cables.values():
        if cable.kind == "cable":
            assert plan.asks_plug(cable, "end") and not plan.asks_plug(cable, "start")


@pytest.mark.parametrize(("licence", "verdict"), [("", "wait"), ("4471", "holds")])
def test_where_the_law_asks_a_licence_number_is_wanted(licence, verdict):
    asks = Practice(code={"licence_asked": CodeEntry(value=1.0, source="town code")})
    entry = wiring.circuit(15.0, "14 AWG", 38.0, licence=licence)
    found = supply("outdoor", "outdoor unit", entry, rules_of(BASES["single"], asks))
    assert found.who.call.verdict.value == verdict


def test_local_code_ranks_above_the_school_on_keeping_apart():
    with_lines = entered(BASES["single"], cable_way="lines")
    assert "A_way" in bad(with_lines)
    allows = Practice(code={"cable_apart": CodeEntry(value=0.0, source="town code")})
    assert worked(with_lines, allows).call.call.verdict.value == "holds"


@pytest.mark.parametrize(("volts", "verdict"), [(30.0, "short"), (31.0, "holds"), (None, "holds")])
def test_a_cable_of_small_voltage_keeps_out_of_the_supplys_raceway(volts, verdict):
    job = entered(BASES["single"], cable_way="supply")
    sheet = job.equipment.outdoor.sheet.model_copy(update={"to_ground_v": volts})
    planned = job.equipment.model_copy(
        update={"outdoor": job.equipment.outdoor.model_copy(update={"sheet": sheet})}
    )
    straps = Practice(schools={"cable": "with"})
    found = worked(job.model_copy(update={"equipment": planned}), straps).call.call
    assert found.verdict.value == verdict


def at(minutes, kind, **more):
    given = {"unit": "outdoor", "by": "Ida", "at": DAY + timedelta(minutes=minutes)}
    if kind is PowerOn:
        del given["unit"]
    return kind.model_validate(given | more)


TRIED = {"tester_before": "yes", "tester_after": "yes", "dead": "yes"}
OFF = at(-30, SwitchedOff, locked="yes")


@pytest.mark.parametrize(
    ("acts", "verdict", "said"),
    [
        ([OFF, at(-25, ProvedDead, **TRIED)], "holds", "proved dead"),
        ([OFF, at(-25.1, ProvedDead, **TRIED)], "short", "stored charge wants"),
        ([at(-20, ProvedDead, how="not fed")], "holds", "before a circuit reached it"),
        ([], "stop", "before it was proved dead"),
        ([OFF], "stop", "before it was proved dead"),
        ([at(-30, SwitchedOff), at(-20, ProvedDead, **TRIED)], "short", "locked it off"),
        ([OFF, at(-20, ProvedDead, **TRIED | {"tester_after": "no"})], "short", "tester"),
        ([OFF, at(-20, ProvedDead, **TRIED | {"dead": "no"})], "stop", "it is live"),
        ([OFF, at(900, ProvedDead, **TRIED)], "watch", "before it was proved dead"),
        ([OFF, at(-25, ProvedDead, **TRIED), at(900, PowerOn)], "holds", "wired dead"),
        ([OFF, at(-25, ProvedDead, **TRIED), at(-20, PowerOn)], "stop", "with power on it"),
    ],
)
def test_hands_go_in_only_after_it_was_proved_dead(acts, verdict, said):
    job = BASES["single"]
    kept = tuple(r for r in job.records if not isinstance(r, SwitchedOff | ProvedDead))
    found = worked(job.model_copy(update={"records": (*kept, *acts)})).dead["outdoor"].call
    assert (found.verdict.value, said in found.because) == (verdict, True), found.because


def test_power_asks_for_wire_valves_and_caps():
    whole, open_ = worked(BASES["single"]).call, at(0, PowerOn).model_copy()
    valves = Release(order="gas_first", full_open=True, caps_on=True, by="Ida", at=DAY)
    assert lacking(whole, [valves]) == []
    assert len(lacking(whole, [])) == 1
    assert "caps" in lacking(whole, [valves.model_copy(update={"caps_on": False})])[0].because
    half = worked(with_records(BASES["single"], lambda r: None if isinstance(r, WireEnd) else r))
    assert "Wire does not hold" in lacking(half.call, [valves])[0].because
    assert power_check([], []).call.verdict.value == "wait"
    assert power_check([open_], []).call.verdict.value == "holds"
    caps, wire = Lacking("caps", "The caps are off."), Lacking("wire", "It is live.", hurts=True)
    assert power_check([open_], [caps]).call.verdict.value == "short"
    charging = open_.model_copy(update={"why": "charge"})  # the stems' caps may wait
    assert power_check([charging], [caps]).call.verdict.value == "holds"
    named = {"override_by": "Ida", "override_reason": "to test the fan", "passed": ("caps",)}
    by_name = open_.model_copy(update=named)
    assert power_check([by_name], [caps]).call.verdict.value == "watch"
    assert power_check([by_name], []).call.verdict.value == "watch"  # it stays said
    assert power_check([by_name], [caps, Lacking("valves", "Shut.")]).call.verdict.value == "short"
    every = by_name.model_copy(update={"passed": ("caps", "wire")})
    assert power_check([every], [caps, wire]).call.verdict.value == "short"
    assert power_check([by_name, open_], [caps]).call.verdict.value == "short"


def test_what_no_sheet_names_is_unknown_and_a_head_without_a_port_too():
    job = BASES["home runs"]
    sheet = job.equipment.outdoor.sheet.model_copy(update={"terminals": ()})
    silent = job.equipment.model_copy(
        update={"outdoor": job.equipment.outdoor.model_copy(update={"sheet": sheet})}
    )
    found = bad(job.model_copy(update={"equipment": silent, "records": ()}))
    assert found["terminals"] == "unknown"
    runs = {z: r for z, r in job.route.runs.items() if z != "B"}
    unrouted = job.model_copy(update={"route": job.route.model_copy(update={"runs": runs})})
    assert bad(unrouted)["unrouted"] == "unknown"


def test_materials_come_from_what_was_entered():
    lines = {(x.item, x.size): x.quantity for x in worked(BASES["trunk"]).materials}
    assert lines["Breaker", "15 A, 2-pole"] == 1.0
    assert lines["Whip, liquid-tight", ""] == 1.0
    old = wiring.circuit(50.0, "8 AWG", 40.0, circuit="reused")
    again = {
        x.item: x for x in worked(entered(BASES["single"], supplies={"outdoor": old})).materials
    }
    assert again["Breaker"].size == "15 A, 2-pole"
    assert "50 A" in again["Breaker"].origin
    assert not {"Supply conductor", "Disconnect", "Whip, liquid-tight"} & again.keys()
    bare = old.model_copy(update={"whip": "no"})
    lacks = worked(entered(BASES["single"], supplies={"outdoor": bare})).materials
    assert "Whip, liquid-tight" in {x.item for x in lacks}
    assert again["Lug or ferrule"].quantity in (3.0, 8.0)


@pytest.mark.parametrize("base", ["single", "home runs", "branch box", "trunk"])
@pytest.mark.parametrize("school", ["indoors", "outdoors"])
def test_what_is_left_is_said_in_the_order_one_walks(base, school):
    """Of bare blocks every end is landed in turn: the next end of the walk is the one asked for."""
    job = BASES[base]
    practice = Practice(schools={"connect_first": school})
    records = [r for r in job.records if not isinstance(r, Landing | WireEnd)]
    bare = job.model_copy(update={"records": tuple(records)})
    for end in worked(bare, practice).ends:
        found = worked(bare, practice)
        next_end = next(e for e in found.ends if e.call.verdict.value != "holds")
        assert next_end.id == end.id
        landed_ = [c for c in found.call.checks if c.id.endswith("_landed")]
        asked = next(c for c in landed_ if c.call.verdict.value != "holds")
        assert asked.call.do_next == next_end.call.do_next
        mine = tuple(
            r
            for r in job.records
            if isinstance(r, Landing | WireEnd) and (r.cable, r.side) == (end.cable.id, end.side)
        )
        bare = bare.model_copy(update={"records": (*bare.records, *mine)})
    assert all(e.call.verdict.value == "holds" for e in worked(bare, practice).ends)
