"""A circuit against the unit it feeds: breaker, conductor, ground, voltage drop."""

from typing import Annotated

from pydantic import Field, field_validator, model_validator

from fairline.core.call import (
    Answer,
    Authority,
    Call,
    Displaced,
    Frozen,
    Limit,
    Request,
    Step,
    Verdict,
    deciding,
    sheet_limit,
)
from fairline.core.check import fault_call
from fairline.core.physics.conductor import (
    LONGEST_M,
    EquipmentGround,
    TerminalC,
    conductors,
    drop_share,
    equipment_ground,
    largest_standard_a,
    nearest_standard_a,
    standard_sizes_a,
)
from fairline.core.physics.tubing import table

DROP_MOST = 0.03  # of the voltage, on a branch circuit: NEC 210.19(A) note, from memory
Amps = Annotated[float, Field(gt=0, le=400)]


def standard(amps: float) -> float:
    """A rating that breakers and fuses are made in; ValueError names those beside it.

    >>> standard(20.0)
    20.0
    """
    if amps not in standard_sizes_a():
        beside = " or ".join(f"{a:g}" for a in nearest_standard_a(amps))
        raise ValueError(f"{amps:g} A is no standard size; {beside} A is")
    return amps


class CircuitConductor(Request):
    """A copper conductor: its gauge, and what its terminals are rated for (60 or 75 °C)."""

    awg: int
    terminal_c: TerminalC

    @field_validator("awg")
    @classmethod
    def _known(cls, value: int) -> int:
        if value not in conductors():
            known = ", ".join(str(awg) for awg in conductors())
            raise ValueError(f"{value} AWG is not in our table; one of {known}")
        return value


class CircuitRequest(Request):
    """Amperes and volts of the nameplate, and the circuit that is to feed it."""

    mca_a: Amps
    mop_a: Amps
    breaker_a: Amps
    conductor: CircuitConductor
    voltage_v: Annotated[float, Field(ge=24, le=1000)]
    length_m: Annotated[float, Field(ge=0, le=LONGEST_M)] | None = None
    load_a: Amps | None = None

    @field_validator("breaker_a")
    @classmethod
    def _standard(cls, value: float) -> float:
        return standard(value)

    @model_validator(mode="after")
    def _in_order(self) -> "CircuitRequest":
        if self.mca_a > self.mop_a:
            raise ValueError(
                f"mca_a: {self.mca_a:g} A is above mop_a, {self.mop_a:g} A: read the plate again"
            )
        return self


class CircuitResult(Frozen):
    """``voltage_drop_pct`` in percent of the voltage; None without a length.

    ``largest_breaker_a``: None where MOP lies below every standard size. ``small_conductor_a``:
    what the small-conductor rule would allow, displaced by MOP.
    """

    ampacity_a: float
    largest_breaker_a: float | None
    equipment_ground_awg: int | None
    voltage_drop_pct: float | None
    small_conductor_a: float | None = None


def breaker_call(
    breaker_a: float, mca_a: float, mop_a: float, name: str = "breaker", stays: str = ""
) -> Call:
    """A breaker or a fuse between MCA and MOP. ``stays``: what the wire behind it may do then.

    >>> breaker_call(20, 12, 20).verdict.value, breaker_call(25, 12, 20).verdict.value
    ('holds', 'stop')
    """
    fits = largest_standard_a(mop_a)
    mend = (
        f"Fit {fits:g} A"
        if fits is not None and fits >= mca_a
        else "No standard size lies between MCA and MOP: fit fuses of a size between them in the "
        "disconnect"
    )
    if breaker_a > mop_a:
        return fault_call(
            f"A {breaker_a:g} A {name} is above MOP {mop_a:g} A: a fault burns before it trips.",
            f"{mend}; {stays}." if stays else f"{mend}.",
            Verdict.STOP,
        )
    if breaker_a < mca_a:
        return fault_call(
            f"A {breaker_a:g} A {name} is under MCA {mca_a:g} A: it trips in the first heat.",
            f"{mend}.",
        )
    return Call(
        verdict=Verdict.HOLDS,
        because=f"A {breaker_a:g} A {name} lies between MCA {mca_a:g} A and MOP {mop_a:g} A.",
    )


def stays_call(ampacity_a: float, mca_a: float, earth: EquipmentGround | None) -> str:
    """What the wire behind a breaker that is too large may do, in words; blank: it is too thin.

    ``ampacity_a`` and ``mca_a`` in A; NEC 250.122(B) for the ground, quoted from memory.

    >>> stays_call(20.0, 15.0, None), stays_call(15.0, 20.0, None)
    ('the wire may stay if it fits the terminal', '')
    """
    if ampacity_a < mca_a:
        return ""
    told = "the wire may stay if it fits the terminal"
    if earth is None or earth.growth <= 1.0:
        return told
    return (
        f"{told} and its ground is {earth.awg} AWG (250.122(B); {earth.base_awg} AWG by the "
        "exception, where a qualified person says so by name)"
    )


def conductor_call(ampacity_a: float, mca_a: float, wire: str) -> Call:
    """Whether a conductor's ampacity reaches MCA, both in A: ``holds`` or ``stop``.

    MCA is the least ampacity that the nameplate asks (NEC 440.35, quoted from memory).

    >>> conductor_call(20.0, 20.0, "12 AWG").verdict.value
    'holds'
    >>> conductor_call(19.9, 20.0, "12 AWG").verdict.value
    'stop'
    """
    if ampacity_a < mca_a:
        return fault_call(
            f"{wire} carries {ampacity_a:g} A; MCA is {mca_a:g} A.",
            "Pull a larger conductor before anybody switches on.",
            Verdict.STOP,
        )
    return Call(
        verdict=Verdict.HOLDS, because=f"{wire} carries {ampacity_a:g} A for MCA {mca_a:g} A."
    )


def drop_call(share: float, most: float = DROP_MOST) -> Call:
    """The voltage lost on the way as a share (0 to 1): ``watch`` above ``most``, 3 % by default.

    NEC 210.19(A), informational note, quoted from memory.

    >>> drop_call(0.03).verdict.value, drop_call(0.031).verdict.value
    ('holds', 'watch')
    """
    if share > most + 1e-12:
        return fault_call(
            f"{share:.1%} of the voltage is lost on the way; {most:.0%} is wanted at most.",
            "Take the next larger conductor, and its ground with it, or a shorter way.",
            Verdict.WATCH,
        )
    return Call(verdict=Verdict.HOLDS, because=f"{share:.1%} of the voltage is lost on the way.")


def circuit(request: CircuitRequest) -> Answer[CircuitResult]:
    """Hold a circuit against MCA and MOP: MCA sizes the conductor, MOP caps the breaker.

    Copper only. The small-conductor rule of 240.4(D) is shown as displaced: a unit that is marked
    with MCA and MOP is fed by these (NEC 240.4(G) and article 440, from memory).

    >>> asked = {"mca_a": 12.0, "mop_a": 20.0, "breaker_a": 50.0, "voltage_v": 240.0,
    ...          "conductor": {"awg": 6, "terminal_c": 60}}
    >>> circuit(CircuitRequest.model_validate(asked)).findings
    ('breaker_over_mop',)
    """
    r, wire = request, conductors()[request.conductor.awg]
    ampacity = wire.ampacity_a(r.conductor.terminal_c)
    fitted = min(r.breaker_a, largest_standard_a(r.mop_a) or r.breaker_a)
    after = equipment_ground(fitted, wire.awg, r.mca_a, r.conductor.terminal_c)
    earth = equipment_ground(r.breaker_a, wire.awg, r.mca_a, r.conductor.terminal_c)
    thin = conductor_call(ampacity, r.mca_a, f"{wire.awg} AWG copper")
    breaker = breaker_call(
        r.breaker_a, r.mca_a, r.mop_a, stays=stays_call(ampacity, r.mca_a, after)
    )
    named = {
        "breaker_over_mop" if r.breaker_a > r.mop_a else "breaker_under_mca": breaker,
        "conductor_under_mca": thin,
    }
    # A conductor that is too thin leads: another breaker does not make it carry more.
    leads = thin.verdict is not Verdict.HOLDS
    calls = dict(reversed(named.items())) if leads else named
    steps = [
        Step(
            step="ampacity of the conductor",
            expression=f"{wire.awg} AWG copper, terminals {r.conductor.terminal_c} °C; "
            f"{table('conductors')['ampacity_source']}",
            value=ampacity,
            unit="A",
        ),
        *ground_steps(r.breaker_a, wire.awg, earth),
    ]
    share, load = None, r.load_a or r.mca_a
    if r.length_m is not None:
        share = drop_share(wire.awg, r.length_m, load, r.voltage_v)
        calls["voltage_drop_high"] = drop_call(share)
        steps.append(
            Step(
                step="voltage drop, there and back",
                expression=f"2 · {r.length_m:.4g} m · {wire.ohm_per_m:.4g} Ω/m · {load:g} A "
                f"/ {r.voltage_v:g} V",
                value=share,
                unit="1",
            )
        )
    findings = tuple(name for name, call in calls.items() if call.verdict is not Verdict.HOLDS)
    return Answer[CircuitResult](
        call=deciding(list(calls.values())),
        governed_by=_limits(r, wire.small_a, share is not None),
        working=tuple(steps),
        findings=findings,
        result=CircuitResult(
            ampacity_a=ampacity,
            largest_breaker_a=largest_standard_a(r.mop_a),
            equipment_ground_awg=earth.awg if earth is not None else None,
            voltage_drop_pct=None if share is None else 100 * share,
            small_conductor_a=wire.small_a,
        ),
    )


def ground_steps(breaker_a: float, awg: int, earth: EquipmentGround | None) -> list[Step]:
    """The steps by which the equipment ground was found; none where no ground was.

    NEC 250.122(A) and (B), quoted from memory: the ground of the
    table grows with the conductors: A(table) · A(chosen) / A(smallest for MCA).

    >>> len(ground_steps(20.0, 12, None))
    0
    """
    if earth is None:
        return []
    base, hot = conductors()[earth.base_awg], conductors()[awg]
    smallest = conductors()[earth.smallest_awg]
    return [
        Step(
            step="equipment ground by the breaker",
            expression=f"{breaker_a:g} A: {earth.base_awg} AWG; 250.122(A), from memory",
            value=base.kcmil,
            unit="kcmil",
        ),
        Step(
            step="its growth with the conductors",
            expression=f"{hot.kcmil:g} kcmil / {smallest.kcmil:g} kcmil ({smallest.awg} AWG is the "
            "smallest that carries MCA); 250.122(B), from memory",
            value=earth.growth,
            unit="1",
            kind="",
        ),
        Step(
            step="equipment ground wanted",
            expression=f"{base.kcmil:g} kcmil · {earth.growth:.3g}: {earth.awg} AWG, never above "
            "the conductors",
            value=conductors()[earth.awg].kcmil,
            unit="kcmil",
        ),
    ]


def _limits(r: CircuitRequest, small_a: float | None, dropped: bool) -> tuple[Limit, ...]:
    plate, sources = "the unit's nameplate or sheet", table("conductors")
    displaced: tuple[Displaced, ...] = ()
    if small_a is not None and small_a != r.mop_a:
        displaced = (
            Displaced(
                value=small_a,
                unit="A",
                authority=Authority.COMMON,
                source=sources["displaced_source"],
            ),
        )
    found = [
        sheet_limit(limit="MCA", value=r.mca_a, unit="A", source=plate),
        sheet_limit(
            limit="MOP",
            value=r.mop_a,
            unit="A",
            source=plate,
            displaced=displaced,
        ),
    ]
    if dropped:
        found.append(
            Limit(
                limit="voltage drop",
                value=DROP_MOST,
                unit="1",
                authority=Authority.COMMON,
                source="NEC 210.19(A), informational note, from memory",
            )
        )
    return tuple(found)
