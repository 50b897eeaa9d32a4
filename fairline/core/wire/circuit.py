"""A circuit's numbers, one by one: plate, breaker, conductor, ground, voltage, source."""

from dataclasses import dataclass

from fairline.core.calc.circuit import DROP_MOST, breaker_call, conductor_call, drop_call
from fairline.core.call import Authority, Call, Check, Displaced, Limit, Verdict
from fairline.core.check import fault
from fairline.core.physics.conductor import (
    TerminalC,
    area_mm2,
    awg_of,
    conductors,
    drop_share,
    equipment_ground_awg,
    largest_standard_a,
)
from fairline.core.physics.tubing import table
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR
from fairline.core.sheet import Head, Outdoor
from fairline.core.wire.entry import Supply

LOW_V = 150.0  # below it a unit has one hot conductor and a neutral: 115 V and its like
OTHER_SYSTEM = 0.25  # off the rated voltage by more than this: 115 for 230, or 277; our own choice


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


def terminal_c(entry: Supply) -> TerminalC:
    """The lower where nobody says: indoor sheathed cable counts there always (NEC 334.80)."""
    return 75 if entry.terminal_c == "75" and entry.way != "sheathed" else 60


def is_copper(entry: Supply) -> bool:
    """Copper as said; of a new circuit it is what is pulled, unless somebody says otherwise."""
    return entry.metal == "copper" or (entry.metal is None and entry.circuit == "new")


def ampacity_of(entry: Supply) -> tuple[float | None, str]:
    """What the conductor carries and who says so: local code first, then the table of copper."""
    if entry.code_a is not None:
        return entry.code_a, f"local code: {entry.code_source}"
    awg = awg_of(entry.gauge)
    if awg not in conductors() or not is_copper(entry) or awg is None:
        return None, ""
    at = terminal_c(entry)
    return conductors()[awg].ampacity_a(at), f"{awg} AWG copper at {at} °C terminals"


def ground_awg(entry: Supply) -> int | None:
    awg = awg_of(entry.gauge)
    if entry.breaker_a is None or awg is None or not is_copper(entry):
        return None
    return equipment_ground_awg(entry.breaker_a, awg, terminal_c(entry))


def wait(id: str, label: str, because: str, do_next: str) -> Check:
    call = Call(verdict=Verdict.WAIT, because=because, do_next=do_next)
    return Check(id=id, label=label, call=call)


def unknown(id: str, label: str, because: str, do_next: str) -> Check:
    call = Call(verdict=Verdict.UNKNOWN, because=because, do_next=do_next)
    return Check(id=id, label=label, call=call)


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
    return Limit(
        limit=name,
        value=amps,
        unit="A",
        authority=Authority.SHEET,
        source=found.source,
        displaced=displaced,
    )


def overcurrent(id: str, label: str, amps: float | None, found: Rating) -> Check:
    name = label.lower()
    if found.mca_a is None or found.mop_a is None:
        return unknown(
            id,
            label,
            "MCA and MOP are not known.",
            "Read MCA and MOP off the nameplate: they size conductor and breaker.",
        )
    if amps is None:
        fits = largest_standard_a(found.mop_a)
        size = f"{fits:g} A at most" if fits is not None else "what the plate names"
        return wait(id, label, f"No {name} is entered.", f"Enter the {name}: {size}.")
    return Check(
        id=id,
        label=label,
        call=breaker_call(amps, found.mca_a, found.mop_a, name),
        value=amps,
        unit="A",
        limit=plate_limit("MOP", found.mop_a, found),
    )


def conductor(entry: Supply, found: Rating, ampacity: float | None, said_by: str) -> Check:
    id, label = "conductor", "Conductor"
    if entry.gauge is None:
        return wait(id, label, "No conductor is entered.", "Enter the conductors' gauge.")
    if ampacity is None:
        if entry.metal is None and not is_copper(entry):
            return wait(
                id, label, "Copper or aluminium is not said.", "Look at the cut end of a conductor."
            )
        what = f"{entry.gauge} {entry.metal or 'copper'}"
        return unknown(
            id,
            label,
            f"What {what} carries is not in our tables; nothing is guessed.",
            "Enter its ampacity from the local code, with the paragraph.",
        )
    if found.mca_a is None:
        return unknown(id, label, "MCA is not known.", "Read MCA off the nameplate.")
    awg = awg_of(entry.gauge)
    small = conductors()[awg].small_a if awg in conductors() and awg is not None else None
    wire = said_by if entry.code_a is None else f"{entry.gauge}, by {said_by},"
    return Check(
        id=id,
        label=label,
        call=conductor_call(ampacity, found.mca_a, wire),
        value=ampacity,
        unit="A",
        bound="min",
        limit=plate_limit("MCA", found.mca_a, found, small),
    )


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
        call = fault(
            f"{entry.gauge} does not go under the terminal, which takes {most}.",
            "Join a smaller wire of enough ampacity in the disconnect; never cut strands away.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{entry.gauge} fits; it takes up to {most}.")
    return [Check(id="terminal", label=label, call=call)]


def ground(entry: Supply, wanted: int | None) -> Check:
    id, label = "ground", "Equipment ground"
    if entry.grounded == "no":
        call = fault(
            "The circuit has no equipment ground of its own.",
            "It is not used until one is run: an old range or dryer circuit has none.",
            Verdict.STOP,
        )
        return Check(id=id, label=label, call=call)
    if entry.grounded is None:
        want = f", {wanted} AWG" if wanted else ""
        return wait(
            id, label, "Whether it has an equipment ground is not said.", f"Look for one{want}."
        )
    own = entry.ground_gauge
    if wanted is None:
        known = entry.breaker_a is not None and entry.gauge is not None
        call = Call(
            verdict=Verdict.WATCH if known else Verdict.WAIT,
            because="It has a ground; what size it has to be is in none of our tables."
            if known
            else "It has a ground; breaker and conductors say what size it has to be.",
            do_next="Ask the local code, or whoever is licensed, for the ground's size."
            if known
            else "Enter breaker and conductors.",
        )
    elif own is None:
        return wait(
            id,
            label,
            "The ground's size is not said.",
            f"Look at it: {wanted} AWG is wanted, or larger.",
        )
    elif area_mm2(own) < area_mm2(f"{wanted} AWG") * 0.999:
        call = fault(
            f"The ground is {own}; {wanted} AWG is wanted.",
            f"Run a ground of {wanted} AWG: it grows with breaker and conductors.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"The ground is {own}; {wanted} AWG is wanted.")
    return Check(id=id, label=label, call=call)


def drop(entry: Supply, found: Rating, rules: Rules) -> Check:
    id, label, limit = "drop", "Voltage lost on the way", rules.limit("voltage_drop")
    share, awg = entry.drop_told, awg_of(entry.gauge)
    most = limit.value if limit is not None else DROP_MOST
    volts, load = entry.volts_v or found.volts, found.mca_a
    if entry.length_m is None and share is None:
        return wait(id, label, "The length of the circuit is not entered.", "Enter its length.")
    if share is None:
        if awg not in conductors() or awg is None or not is_copper(entry) or not volts or not load:
            return unknown(
                id,
                label,
                "The voltage lost cannot be worked out: resistance, voltage or MCA is not known.",
                "Enter what the electrician worked out.",
            )
        share = drop_share(awg, entry.length_m or 0.0, load, volts)
    call = drop_call(share, most)
    return Check(id=id, label=label, call=call, value=share, unit="1", limit=limit, kind="fraction")


def voltage(entry: Supply, found: Rating, rules: Rules) -> Check:
    """The circuit's voltage and poles against the unit's."""
    id, label = "volts", "Voltage"
    if found.volts is None:
        return unknown(id, label, "The unit's voltage is not known.", "Read it off the plate.")
    if entry.poles is not None and (entry.poles == "1") != found.low:
        what = "one hot, neutral and ground" if found.low else "two hots and ground"
        call = fault(
            f"A {entry.poles}-pole breaker for a {found.volts:g} V unit, which takes {what}.",
            f"Fit a {'single' if found.low else 'two'}-pole breaker.",
            Verdict.STOP,
        )
        return Check(id=id, label=label, call=call)
    if entry.volts_v is None:
        return wait(
            id,
            label,
            f"The unit wants {found.volts:g} V; what the circuit has is not entered.",
            "Measure it at the breaker, or read it off the panel.",
        )
    window, share = rules.value("supply_window") or 0.0, entry.volts_v / found.volts
    said = f"The circuit has {entry.volts_v:g} V, the unit wants {found.volts:g} V"
    if abs(share - 1) > OTHER_SYSTEM:
        call = fault(
            f"{said}: another system.",
            "Never connect it; find the circuit of the unit's own voltage.",
            Verdict.STOP,
        )
    elif abs(share - 1) > window + 1e-9:
        call = fault(
            f"{said}: off by more than {window:.0%}.",
            "Measure again under load; ask the sheet for its window, and the utility.",
            Verdict.WATCH,
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{said}.")
    return Check(
        id=id, label=label, call=call, value=entry.volts_v, unit="V", limit=None, kind="voltage"
    )


def source(entry: Supply, found: Rating, rules: Rules) -> list[Check]:
    """A battery or generator: what it gives for good, against MCA."""
    if entry.source == "panel":
        return []
    id, label = "source", f"The {entry.source}"
    if entry.source_a is None or entry.source_v is None:
        return [
            wait(
                id,
                label,
                f"What the {entry.source} gives for good is not entered.",
                "Enter its continuous amperes and volts, not its peak.",
            )
        ]
    if found.mca_a is None:
        return [unknown(id, label, "MCA is not known.", "Read MCA off the nameplate.")]
    window = rules.value("supply_window") or 0.0
    wrong_v = found.volts is not None and abs(entry.source_v / found.volts - 1) > window + 1e-9
    if wrong_v:
        call = fault(
            f"The {entry.source} gives {entry.source_v:g} V, the unit wants {found.volts:g} V.",
            "It cannot feed this unit.",
            Verdict.STOP,
        )
    elif entry.source_a < found.mca_a:
        call = fault(
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
