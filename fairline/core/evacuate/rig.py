"""The rig as it is connected: what of the pump reaches the system, how long a pull takes, and
whether the gauge can prove a decay at all."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from fairline.core.calc.pump_down import (
    HALF,
    PumpDownRequest,
    PumpDownResult,
    PumpHose,
    pump_down,
    rig_of,
)
from fairline.core.call import Answer, Call, Check, Step, Verdict
from fairline.core.check import capitalized, fault_call, plural
from fairline.core.entry import AirflowM3S, Count, DistanceM, Entry, OneOf, SpanM, VacuumPa, YesNo
from fairline.core.physics.constants import FOOT_M, INCH_M, MINUTE_S
from fairline.core.physics.vacuum_flow import Rig
from fairline.core.quantities import both, duration
from fairline.core.readings import VacuumRun

GaugeAt = Literal["far", "core-tool", "pump"]
GAUGE_WORDS: dict[GaugeAt, str] = {
    "far": "on the far side from the pump",
    "core-tool": "on the core tool, beyond its valve",
    "pump": "at the pump",
}
# What a rig has in the way besides its hoses, as short pieces of tube: our own choice.
CORE = PumpHose(bore_mm=2.0, length_m=0.010)
MANIFOLD = PumpHose(bore_mm=5.0, length_m=0.20)
ADAPTER = PumpHose(bore_mm=4.5, length_m=0.030)
BIG_HOSE = PumpHose(bore_mm=INCH_M * 1000 * 0.75, length_m=3 * FOOT_M)  # 3/4 in, 3 ft
NEAR_ULTIMATE = 1.1  # times the pump's ultimate pressure; our own choice
ULTIMATE_S = 5 * MINUTE_S  # for so long at least
OIL_EVACUATIONS = 1  # fresh oil after each: common practice, no source


class HoseRow(Entry):
    """A hose: its bore and length, m."""

    bore_m: SpanM = None
    length_m: DistanceM = None


class RigEntry(Entry):
    """Pump and what lies between it and the system.

    ``pump_m3_s``: its free speed. ``oil_evacuations``: how many it has done since its oil was
    changed. ``cores``: out, or in at the port that is pumped through.
    """

    pump_m3_s: AirflowM3S = None
    ultimate_pa: VacuumPa = None
    oil_evacuations: Count = None
    cores: OneOf[Literal["out", "in"]] = None
    manifold: YesNo = None
    adapter: YesNo = None
    gauge_at: OneOf[GaugeAt] = None
    hoses: tuple[HoseRow, ...] = ()


@dataclass(frozen=True)
class Option:
    """The same pull with something changed: in words, and how long it takes; None for never."""

    words: str
    time_s: float | None


@dataclass(frozen=True, eq=False)
class RigResult:
    """What the rig is predicted to do; ``answer`` is None while pump or volume is not known.

    ``drive`` is pump and hoses as physics has them. ``share``: of the pump's own speed at the
    target, what reaches the system. ``limits``: in words, what decides the pull.
    """

    pieces: tuple[tuple[str, PumpHose], ...]
    answer: Answer[PumpDownResult] | None
    options: tuple[Option, ...]
    share: float | None
    limits: str
    volume_m3: float | None
    drive: Rig | None = None

    @property
    def working(self) -> tuple[Step, ...]:
        return self.answer.working if self.answer else ()


def pieces(rig: RigEntry) -> tuple[tuple[str, PumpHose], ...]:
    """Everything between pump and system, from the pump on."""
    found = [
        (f"hose {n}", PumpHose(bore_mm=h.bore_m * 1000, length_m=h.length_m))
        for n, h in enumerate(rig.hoses, 1)
        if h.bore_m and h.length_m
    ]
    if rig.manifold == "yes":
        found.insert(min(1, len(found)), ("manifold", MANIFOLD))
    if rig.adapter == "yes":
        found.append(("adapter", ADAPTER))
    if rig.cores == "in":
        found.append(("core", CORE))
    return tuple(found)


def rig_result(
    rig: RigEntry, volume_m3: float | None, target_pa: float, ambient_c: float
) -> RigResult:
    """The pull as this rig would do it on a dry, tight system of this volume."""
    between = pieces(rig)
    hoses = [hose for _, hose in between]
    if not volume_m3 or not rig.pump_m3_s:
        return RigResult(between, None, (), None, "", volume_m3)
    asked = PumpDownRequest(
        volume_m3=volume_m3,
        pump_m3_s=rig.pump_m3_s,
        ultimate_pa=rig.ultimate_pa or 0.0,
        hoses=hoses,
        target_pa=target_pa,
        ambient_c=ambient_c,
    )
    answer = pump_down(asked)
    result = answer.result
    share = result.effective_m3_s_at_target / max(result.pump_m3_s_at_target, 1e-12)
    changed = []
    if rig.cores == "in":
        without = [hose for name, hose in between if name != "core"]
        changed.append(("with the core out", without))
    if rig.manifold == "yes":
        without = [hose for name, hose in between if name != "manifold"]
        changed.append(("without the manifold", without))
    changed.append(("core out, one hose of 3/4 in, 3 ft", [BIG_HOSE]))
    options = tuple(
        Option(words, pump_down(asked.model_copy(update={"hoses": others})).result.time_s)
        for words, others in changed
    )
    limits = _limits(share, between)
    return RigResult(between, answer, options, share, limits, volume_m3, rig_of(asked))


def _limits(share: float, between: tuple[tuple[str, PumpHose], ...]) -> str:
    """What decides the pull, in words."""
    if not between:
        return "Enter the hoses: they decide more than the pump."
    if share <= 0:
        return "The pump decides: its own lowest pressure lies above what is wanted."
    if share >= HALF:
        return f"The pump decides: {share:.0%} of its speed reaches the system."
    # The narrowest for its length: what a molecule has most trouble with.
    worst = min(between, key=lambda piece: piece[1].bore_mm ** 3 / piece[1].length_m)[0]
    return (
        f"{capitalized(worst)} decides: one part in {1 / share:.0f} of the pump reaches the system."
    )


def gauge_check(rig: RigEntry, isolated: bool) -> Check:
    """Whether closing the valve leaves the gauge on the system.

    A gauge that the valve leaves with the pump shows the pump's side, whatever the system does.
    """
    at: GaugeAt | None = rig.gauge_at
    if at is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="Where the gauge sits is not said.",
            do_next="Put it far from the pump, or beyond the valve of the core tool, and say so.",
        )
    elif at == "pump":
        call = fault_call(
            "The gauge sits at the pump: closing the valve leaves it on the pump's side.",
            "Move it to the far side or beyond the core tool's valve, then time the decay again."
            if isolated
            else "Move it to the far side or beyond the core tool's valve before you pull.",
            Verdict.UNKNOWN,
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"The gauge sits {GAUGE_WORDS[at]}.")
    return Check(id="gauge", label="Place of the gauge", call=call)


def at_ultimate(rig: RigEntry, run: VacuumRun) -> list[Check]:
    """A decay that stays where the pump alone goes: as if the gauge saw the pump.

    Walls give off gas: a system that is shut off a deep pump rises from there within minutes.
    """
    read = run.readings.absolute()
    if not rig.ultimate_pa or len(read) < 2 or read.span_s < ULTIMATE_S * (1 - 1e-9):
        return []
    late = read.pa[read.t_s >= read.t_s[0] + 0.75 * read.span_s]
    highest = float(np.median(late))
    if highest > NEAR_ULTIMATE * rig.ultimate_pa * (1 + 1e-9):
        return []
    call = fault_call(
        f"It ends at {both(highest, 'vacuum')}, where the pump alone goes "
        f"({both(rig.ultimate_pa, 'vacuum')}): as if the gauge still saw the pump.",
        "See that the gauge sits on the system's side of the valve, then time it again.",
        Verdict.WATCH,
    )
    return [Check(id="ultimate", label="Level of the pump", call=call)]


def oil_words(rig: RigEntry, fresh: bool) -> str:
    """What the pump's oil wants, in a sentence; blank where it is fresh or nobody says.

    ``fresh``: it was changed for this pull. Oil that took water gives it off again.
    """
    done = rig.oil_evacuations
    if fresh or done is None or done < OIL_EVACUATIONS:
        return ""
    return (
        f"Its oil has done {plural(done, 'evacuation')}: change it, it gives its water off again."
    )


def expected(worked: RigResult) -> str:
    """The prediction in a sentence; blank where there is none."""
    if worked.answer is None:
        return ""
    time_s = worked.answer.result.time_s
    if time_s is None:
        return "Even a dry, tight system would never get there with this rig."
    return (
        f"A dry, tight system gets there in about {duration(time_s)}; water and oil that give off "
        "gas make it longer."
    )
