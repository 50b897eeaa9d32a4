"""A circuit's numbers, one by one: plate, breaker, conductor, ground, voltage, source."""

from collections.abc import Sequence
from dataclasses import dataclass

from fairline.core.calc.circuit import (
    DROP_MOST,
    breaker_call,
    conductor_call,
    drop_call,
    stays_call,
)
from fairline.core.call import Authority, Call, Check, Displaced, Limit, Verdict, sheet_limit
from fairline.core.check import fault_call, unknown_check, waiting_check
from fairline.core.physics.conductor import (
    Conductor,
    area_mm2,
    awg_of,
    conductors,
    drop_share,
    largest_standard_a,
    protecting_a,
)
from fairline.core.physics.tubing import table
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR
from fairline.core.sheet import Head, Outdoor
from fairline.core.wire.carrying import doubted, earth_of, is_copper, pieces
from fairline.core.wire.entry import Supply

LOW_V = 150.0  # below it a unit has one hot conductor and a neutral: 115 V and its like
DUAL_V = (200.0, 215.0)  # a plate of 208 V is one of 208/230 V: common practice, no source
DUAL_HIGH_V = 230.0


@dataclass(frozen=True, eq=False)
class Rating:
    """What a unit asks of its circuit, and who says so: its sheet, or its plate as read on site."""

    mca_a: float | None
    mop_a: float | None
    volts: float | None
    source: str
    sheet_mca_a: float | None = None
    sheet_mop_a: float | None = None
    sheet_v: float | None = None

    @property
    def low(self) -> bool:
        """Whether the unit takes one hot and a neutral; False where no voltage is known."""
        return self.volts is not None and self.volts < LOW_V

    def takes_v(self, window: float) -> tuple[float, float] | None:
        """The least and the most volts that the unit takes; None where no voltage is known."""
        if self.volts is None:
            return None
        dual = DUAL_V[0] <= self.volts <= DUAL_V[1]
        return self.volts * (1 - window), (DUAL_HIGH_V if dual else self.volts) * (1 + window)


def rating(unit: str, entry: Supply, rules: Rules) -> Rating:
    """MCA, MOP and voltage of a unit: the plate on the unit itself before its sheet."""
    sheet: Outdoor | Head | None = rules.outdoor if unit == OUTDOOR else rules.heads.get(unit)
    read = any(v is not None for v in (entry.plate_mca_a, entry.plate_mop_a, entry.plate_v))
    mca, mop, volts = (
        (sheet.mca_a, sheet.mop_a, sheet.voltage_v) if sheet is not None else (None, None, None)
    )
    source = sheet.source("mop_a") if sheet is not None else ""
    return Rating(
        mca_a=mca if entry.plate_mca_a is None else entry.plate_mca_a,
        mop_a=mop if entry.plate_mop_a is None else entry.plate_mop_a,
        volts=volts if entry.plate_v is None else entry.plate_v,
        source="its nameplate, read on site" if read else source,
        sheet_mca_a=mca,
        sheet_mop_a=mop,
        sheet_v=volts,
    )


def plate(entry: Supply, found: Rating) -> list[Check]:
    """Where the plate on the unit says something else than its sheet, the plate governs."""
    pairs = (
        ("MCA", entry.plate_mca_a, found.sheet_mca_a, "A"),
        ("MOP", entry.plate_mop_a, found.sheet_mop_a, "A"),
        ("voltage", entry.plate_v, found.sheet_v, "V"),
    )
    differ = [
        f"{name} {plate:g} {unit}, the sheet {said:g}"
        for name, plate, said, unit in pairs
        if plate is not None and said is not None and plate != said
    ]
    if not differ:
        return []
    call = Call(
        verdict=Verdict.WATCH,
        because=f"The nameplate says {'; '.join(differ)}: the plate governs.",
        do_next="Take a picture of the nameplate, and mend the sheet on the shelf.",
    )
    return [Check(id="plate", label="Nameplate and sheet", call=call)]


def plate_limit(
    name: str, amps: float | None, found: Rating, small: float | None = None
) -> Limit | None:
    if amps is None:
        return None
    displaced: tuple[Displaced, ...] = ()
    if small is not None and small != amps:
        source = table("conductors")["displaced_source"]
        displaced = (Displaced(value=small, unit="A", authority=Authority.COMMON, source=source),)
    return sheet_limit(
        limit=name,
        value=amps,
        unit="A",
        source=found.source,
        displaced=displaced,
    )


def overcurrent(id: str, label: str, amps: float | None, found: Rating, stays: str = "") -> Check:
    name = label.lower()
    if found.mca_a is None or found.mop_a is None:
        return unknown_check(
            id,
            label,
            "MCA and MOP are not known.",
            "Read MCA and MOP off the nameplate: they size conductor and breaker.",
        )
    if amps is None:
        fits = largest_standard_a(found.mop_a)
        size = f"{fits:g} A at most" if fits is not None else "what the plate names"
        return waiting_check(id, label, f"No {name} is entered.", f"Enter the {name}: {size}.")
    return Check(
        id=id,
        label=label,
        call=breaker_call(amps, found.mca_a, found.mop_a, name, stays),
        value=amps,
        unit="A",
        limit=plate_limit("MOP", found.mop_a, found),
    )


def breaker(entry: Supply, found: Rating, ampacity: float | None) -> Check:
    """The breaker at the panel: against MOP, or its wire where fuses at the unit fulfil MOP."""
    id, label, amps = "breaker", "Breaker", entry.breaker_a
    fused = entry.disconnect == "fused" and entry.fuse_a is not None
    over = amps is not None and found.mop_a is not None and amps > found.mop_a
    if not (fused and over and entry.fuse_a is not None and found.mop_a is not None):
        stays = ""
        if over and ampacity is not None and found.mca_a is not None:
            fitted = largest_standard_a(found.mop_a or 0.0) or amps
            after = earth_of(entry.model_copy(update={"breaker_a": fitted}), found.mca_a)
            stays = stays_call(ampacity, found.mca_a, after)
        return overcurrent(id, label, amps, found, stays)
    assert amps is not None
    wires = [conductors().get(awg_of(p.gauge) or 0) for p in pieces(entry)]
    if ampacity is None or (most := _protecting(wires, ampacity)) is None:
        return waiting_check(
            id,
            label,
            f"A {amps:g} A breaker before fuses of {entry.fuse_a:g} A protects its wire; "
            "what that carries is not known.",
            "Enter conductors, metal and terminals.",
        )
    told = (
        f"Fuses of {entry.fuse_a:g} A answer for MOP; the {amps:g} A breaker before them protects"
    )
    if amps > most:
        call = fault_call(
            f"{told} a wire of {ampacity:g} A, which takes {most:g} A at most.",
            f"Fit a breaker of {most:g} A, or pull a larger wire.",
            Verdict.STOP,
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{told} its wire of {ampacity:g} A.")
    limit = Limit(
        limit="breaker for its wire",
        value=most,
        unit="A",
        authority=Authority.COMMON,
        source="NEC 240.4(B) and (D), from memory",
    )
    return Check(id=id, label=label, call=call, value=amps, unit="A", limit=limit)


def _protecting(wires: Sequence[Conductor | None], ampacity: float) -> float | None:
    """The largest breaker for every piece of a wire; None where one is in no table."""
    known = [protecting_a(w, ampacity) for w in wires if w is not None]
    return min(known) if known and len(known) == len(wires) else None


def _odd_piece(entry: Supply) -> Supply:
    """The first piece of a circuit whose ampacity our tables do not have."""
    return next(p for p in pieces(entry) if awg_of(p.gauge) not in conductors() or not is_copper(p))


def conductor(entry: Supply, found: Rating, ampacity: float | None, said_by: str) -> list[Check]:
    """What carries the current, against MCA; of a circuit of two pieces the weaker one."""
    id, label = "conductor", "Conductor"
    if (missing := _unsaid(entry)) is not None:
        return [waiting_check(id, label, *missing)]
    doubt = doubted(entry)
    if doubt is not None and doubt.id == id:
        return [doubt]
    if ampacity is None:
        odd = _odd_piece(entry)
        return [
            unknown_check(
                id,
                label,
                f"What {odd.gauge} {odd.metal or 'copper'} carries is not in our tables; nothing "
                "is guessed.",
                "Enter its ampacity from the local code, with the paragraph.",
            )
        ]
    if found.mca_a is None:
        return [unknown_check(id, label, "MCA is not known.", "Read MCA off the nameplate.")]
    smalls = [c.small_a for p in pieces(entry) if (c := conductors().get(awg_of(p.gauge) or 0))]
    small = min((a for a in smalls if a is not None), default=None)
    wire = said_by if entry.code_a is None else f"{entry.gauge}, by {said_by},"
    call = conductor_call(ampacity, found.mca_a, wire)
    if any(p.metal == "aluminium" for p in pieces(entry)) and entry.al_terminals == "no":
        call = fault_call(
            "The conductor is aluminium, the terminals are for copper alone: it loosens and burns.",
            "Join copper to it with a splice rated for both, or change the terminals.",
            Verdict.STOP,
        )
    return [
        Check(
            id=id,
            label=label,
            call=call,
            value=ampacity,
            unit="A",
            bound="min",
            limit=plate_limit("MCA", found.mca_a, found, small),
        ),
        *([] if doubt is None else [doubt]),
    ]


def _unsaid(entry: Supply) -> tuple[str, str] | None:
    """What has to be looked at before anybody can say what the wire carries."""
    if entry.gauge is None:
        return "No conductor is entered.", "Enter the conductors' gauge."
    if entry.joined == "yes" and entry.gauge_2 is None:
        return (
            "The wire after the box is not entered.",
            "Enter the gauge of both pieces: the weaker one counts.",
        )
    if entry.code_a is None and entry.metal is None and not is_copper(entry):
        return "Copper or aluminium is not said.", "Look at the cut end of a conductor."
    if any(p.metal == "aluminium" for p in pieces(entry)) and entry.al_terminals is None:
        return (
            "Whether the terminals take aluminium is not said.",
            "Read the terminals: marked AL or CU-AL, or for copper alone.",
        )
    return None


def terminal(unit: str, entry: Supply, found: Rating, rules: Rules) -> list[Check]:
    """A conductor larger than the unit's terminal takes."""
    sheet = rules.outdoor if unit == OUTDOOR else rules.heads.get(unit)
    most = sheet.largest_gauge if sheet is not None else None
    if entry.gauge is None:
        return []
    label = "Wire under the terminal"
    if most is None:
        large = area_mm2(entry.gauge) > area_mm2("10 AWG")
        if not large:
            return []
        call = Call(
            verdict=Verdict.WATCH,
            because=f"{entry.gauge} is large for a unit's terminal; the sheet does not say.",
            do_next="Try it, or join a smaller wire of enough ampacity in the disconnect.",
        )
    elif area_mm2(entry.gauge) > area_mm2(most) * 1.001:
        call = fault_call(
            f"{entry.gauge} does not go under the terminal, which takes {most}.",
            "Join a smaller wire of enough ampacity in the disconnect; never cut strands away.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{entry.gauge} fits; it takes up to {most}.")
    return [Check(id="terminal", label=label, call=call)]


def drop(entry: Supply, found: Rating, rules: Rules) -> Check:
    id, label, limit = "drop", "Voltage lost on the way", rules.limit("voltage_drop")
    share = entry.drop_told
    most = limit.value if limit is not None else DROP_MOST
    volts, load = entry.volts_v or found.volts, found.mca_a
    if share is None and any(p.length_m is None for p in pieces(entry)):
        return waiting_check(
            id, label, "The length of the circuit is not entered.", "Enter its length."
        )
    if share is None:
        parts = [(awg_of(p.gauge), p.length_m or 0.0, is_copper(p)) for p in pieces(entry)]
        if not volts or not load or any(a not in conductors() or not cu for a, _, cu in parts):
            return unknown_check(
                id,
                label,
                "The voltage lost cannot be worked out: resistance, voltage or MCA is not known.",
                "Enter what the electrician worked out.",
            )
        share = sum(drop_share(a, m, load, volts) for a, m, _ in parts if a is not None)
    call = drop_call(share, most)
    takes = found.takes_v(window_of(rules))
    if volts and takes is not None and volts * (1 - share) < takes[0] * (1 - 1e-9):
        call = fault_call(
            f"{share:.1%} of the voltage is lost on the way: the unit is left with "
            f"{volts * (1 - share):.0f} V, it takes {takes[0]:.0f} V at least.",
            "Take a larger conductor, and its ground with it, or a shorter way.",
        )
    return Check(id=id, label=label, call=call, value=share, unit="1", limit=limit, kind="fraction")


def window_of(rules: Rules) -> float:
    """How far the voltage may be off the rated one, as a share."""
    found = rules.value("supply_window")
    assert found is not None  # common practice always names it
    return found


def voltage(entry: Supply, found: Rating, rules: Rules) -> Check:
    """The circuit's voltage and poles against the unit's."""
    id, label = "volts", "Voltage"
    if found.volts is None:
        return unknown_check(
            id, label, "The unit's voltage is not known.", "Read it off the plate."
        )
    if entry.poles is not None and (entry.poles == "1") != found.low:
        what = "one hot, neutral and ground" if found.low else "two hots and ground"
        call = fault_call(
            f"A {entry.poles}-pole breaker for a {found.volts:g} V unit, which takes {what}.",
            f"Fit a {'single' if found.low else 'two'}-pole breaker.",
            Verdict.STOP,
        )
        return Check(id=id, label=label, call=call)
    if entry.volts_v is None:
        return waiting_check(
            id,
            label,
            f"The unit wants {found.volts:g} V; what the circuit has is not entered.",
            "Measure it at the breaker, or read it off the panel.",
        )
    takes, limit = found.takes_v(window_of(rules)), rules.limit("supply_window")
    assert takes is not None
    said = f"The circuit has {entry.volts_v:g} V; the unit takes {takes[0]:.0f} to {takes[1]:.0f} V"
    if not takes[0] * (1 - 1e-9) <= entry.volts_v <= takes[1] * (1 + 1e-9):
        call = fault_call(
            f"{said}: another system, or a fault in the supply.",
            "Never switch it on; find the circuit of the unit's own voltage, or ask the utility.",
            Verdict.STOP,
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{said}.")
    return Check(
        id=id, label=label, call=call, value=entry.volts_v, unit="V", limit=limit, kind="voltage"
    )


def source(entry: Supply, found: Rating, rules: Rules) -> list[Check]:
    """A battery or generator: what it gives for good, against MCA."""
    if entry.source == "panel":
        return []
    id, label = "source", f"The {entry.source}"
    if entry.source_a is None or entry.source_v is None:
        return [
            waiting_check(
                id,
                label,
                f"What the {entry.source} gives for good is not entered.",
                "Enter its continuous amperes and volts, not its peak.",
            )
        ]
    if found.mca_a is None:
        return [unknown_check(id, label, "MCA is not known.", "Read MCA off the nameplate.")]
    takes = found.takes_v(window_of(rules))
    wrong_v = takes is not None and not takes[0] * (1 - 1e-9) <= entry.source_v <= takes[1] * (
        1 + 1e-9
    )
    if wrong_v:
        call = fault_call(
            f"The {entry.source} gives {entry.source_v:g} V; the unit is for {found.volts:g} V.",
            "It cannot feed this unit.",
            Verdict.STOP,
        )
    elif entry.source_a < found.mca_a:
        call = fault_call(
            f"The {entry.source} gives {entry.source_a:g} A for good; MCA is {found.mca_a:g} A.",
            "Feed it from a panel, or take a larger source.",
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"The {entry.source} gives {entry.source_a:g} A for MCA {found.mca_a:g} A.",
        )
    limit = plate_limit("MCA", found.mca_a, found)
    return [
        Check(
            id=id,
            label=label,
            call=call,
            value=entry.source_a,
            unit="A",
            bound="min",
            limit=limit,
        )
    ]
