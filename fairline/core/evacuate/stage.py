"""Evacuate: the pull and the isolated decay that proves the system dry and tight."""

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from fairline.core import kit
from fairline.core.call import Call, Check, StageCall, Verdict, deciding
from fairline.core.contents.state import ActOutcome, Contents
from fairline.core.evacuate import void
from fairline.core.evacuate.circuit_group import EvacuateStageResult, evacuate_group
from fairline.core.evacuate.circuits import combined_call, current_groups, runs_by_ports
from fairline.core.evacuate.entry import EvacuateEntry
from fairline.core.evacuate.group_call import ACCEPTED
from fairline.core.evacuate.house_target import missed_targets
from fairline.core.evacuate.records import (
    Accepted,
    Bled,
    Exposure,
    Isolation,
    PumpEvent,
    PumpOverride,
    Recorded,
    acts_of,
    acts_of_run,
)
from fairline.core.evacuate.void import Opened, ShutOff, Voided, void_call, voided
from fairline.core.flare.records import JointRecord
from fairline.core.flare.stage import FlareStageResult
from fairline.core.instrument import InstrumentOn, reported_resolution
from fairline.core.practice import Rules
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.procedures.procedure import Asked, asked
from fairline.core.procedures.records import ProcedureSteps
from fairline.core.proofs import Proof
from fairline.core.readings import VACUUM, HoldRun, Run, VacuumRun
from fairline.core.route.circuits import Circuit, Open, Ports, circuits_of
from fairline.core.route.piping import Piping
from fairline.core.route.stage import RouteStageResult
from fairline.core.route.volume import volume
from fairline.core.stage import Stage, StageContext


def work(context: StageContext) -> EvacuateStageResult:
    inputs = _inputs(context)
    circuits = circuits_of(inputs.pipes, context.rules)
    if not circuits:
        found = _one_volume(inputs.worked(inputs.runs), context)
        groups = [found] if not found.voided else []
    else:
        found = _by_groups(inputs, circuits, context)
        void = {v.circuit for v in found.voided}
        groups = [g for g in found.groups if g.ports in found.counts and not void & {*g.ports}]
    return replace(found, beside=missed_targets(groups, context.rules_on))


def _inputs(context: StageContext) -> "_GroupInputs":
    """What every group rests on; the gauge's own steps where the entry does not say them."""
    entry, runs = context.entry(EvacuateEntry), context.runs("hold", *VACUUM)
    told = reported_resolution(context.records(InstrumentOn), [r for r in runs if r.kind in VACUUM])
    if entry.gauge_resolution_pa is None and told is not None:
        entry = entry.model_copy(update={"gauge_resolution_pa": told})
    return _GroupInputs(
        runs,
        entry,
        context.rules_on,
        context.of(PressureTestStageResult),
        Recorded(
            context.records(Isolation),
            context.records(Bled),
            context.records(PumpEvent),
            context.records(Accepted),
            context.records(Exposure),
            context.records(JointRecord),
        ),
        context.of(RouteStageResult).pipes,
        told,
        context.contents,
    )


def _by_groups(
    inputs: "_GroupInputs", circuits: tuple[Circuit, ...], context: StageContext
) -> EvacuateStageResult:
    """The stage of a system of several circuits: each group of ports that was open together."""
    vacua = [r for r in inputs.runs if isinstance(r, VacuumRun)]
    groups = runs_by_ports(vacua, context.records(Ports))
    group_of = current_groups(circuits, groups)
    counts = list(dict.fromkeys(group_of.values()))
    here = {circuit.id for circuit in circuits}
    every = tuple(sorted(here))
    worked = {
        key: replace(inputs.group(circuits, key, groups.get(key, ())), ports=key)
        for key in dict.fromkeys((*counts, *groups, every))
    }
    stands = {
        key: [v for v in _standing(worked[key], context, here) if group_of[v.circuit] == key]
        for key in counts
    }
    newest = _newest(vacua, groups)
    return replace(
        worked[every if newest is None else newest],
        call=combined_call(circuits, _group_calls(worked, stands), unsaid=newest == ()),
        circuits=circuits,
        counts=tuple(counts),
        groups=tuple(worked.values()),
        voided=tuple(v for key in counts for v in stands[key] if not v.stands),
    )


def _newest(
    vacua: Sequence[VacuumRun], groups: Mapping[Open, tuple[VacuumRun, ...]]
) -> Open | None:
    """The ports of the newest run; empty where nobody said them, None where there is no run."""
    last = vacua[-1].uid if vacua else None
    return next((key for key, runs in groups.items() if any(r.uid == last for r in runs)), None)


def _group_calls(
    worked: Mapping[Open, EvacuateStageResult], stands: Mapping[Open, Sequence[Voided]]
) -> list[tuple[Open, StageCall]]:
    """The circuits that count, with the call of each that has its own."""
    return [
        (tuple(v.circuit for v in same), call)
        for key, voided_of in stands.items()
        for same, call in _calls_by_standing(worked[key], voided_of)
    ]


def _standing(
    group: EvacuateStageResult, context: StageContext, here: Collection[str] = ()
) -> list[Voided]:
    """For each circuit of a group that is still there: what its decay no longer proves."""
    key = group.ports or ()
    if group.decay is None:
        return [Voided(circuit) for circuit in key or ("",)]
    acts = [told.act for told in context.contents.story if told.act.kind == "released"]
    opened = [Opened(act.at, act.ports) for act in acts]
    decay = Proof(group.decay.uid, group.decay.subject, group.decay.started_at)
    said = context.records(ShutOff)
    found = voided(decay, key, context.proofs, opened, said, context.contents)
    at = group.decay.started_at
    return [
        replace(v, let_in=let_in_since(context.contents, at, v.circuit)) if v.circuit else v
        for v in found
        if not here or v.circuit in here
    ]


def _one_volume(worked: EvacuateStageResult, context: StageContext) -> EvacuateStageResult:
    """The stage of a system that is one volume, with what voids its decay."""
    found = _standing(worked, context)[0]
    if found.stands:
        return worked
    return replace(worked, call=_voided_call(worked.call, found), voided=(found,))


def _voided_call(call: StageCall, found: Voided) -> StageCall:
    """A stage's call whose decay proves this volume no more; what is worse stays."""
    told = void_call(found)
    check = Check(id="void", label="Changed since the decay", call=told)
    said = deciding([call.call, told])
    findings = tuple(f for f in call.findings if f != ACCEPTED)
    update = {"call": said, "checks": (check, *call.checks), "findings": findings}
    return call.model_copy(update=update)


def _calls_by_standing(
    group: EvacuateStageResult, stands: Sequence[Voided]
) -> list[tuple[list[Voided], StageCall]]:
    """The circuits of a group that stand, with its call; each other circuit with its own."""
    standing = [v for v in stands if v.stands]
    parts: list[tuple[list[Voided], StageCall]] = [(standing, group.call)] if standing else []
    for one in stands:
        if not one.stands:
            parts.append(([one], _voided_call(group.call, one)))
    return parts


@dataclass(frozen=True, eq=False)
class _GroupInputs:
    """What every group of circuits is worked out from."""

    runs: tuple[Run, ...]
    entry: EvacuateEntry
    rules_on: Callable[[str | None], Rules]
    tested: PressureTestStageResult
    recorded: Recorded
    pipes: Piping
    told: float | None
    contents: Contents

    def worked(
        self,
        runs: Sequence[Run],
        volume_m3: float | None = None,
        recorded: Recorded | None = None,
        ports: Open = (),
    ) -> EvacuateStageResult:
        recorded = self._since(recorded or self.recorded, runs, ports)
        whole = self.tested.volume.total_m3 if self.tested.volume is not None else None
        vacua = [r for r in runs if r.kind in VACUUM]
        done = evacuate_group(
            runs,
            self.entry,
            self.rules_on(vacua[-1].practice if vacua else None),
            self.tested.call,
            recorded,
            self.tested.atmosphere_pa,
            whole if volume_m3 is None else volume_m3,
        )
        done = replace(done, told_resolution_pa=self.told)
        if done.call.call.verdict is Verdict.SHORT and self._beside_refrigerant(ports):
            return replace(done, call=_undecided(done.call))
        return done

    def _beside_refrigerant(self, ports: Open) -> bool:
        """Whether refrigerant stands behind the shut valve of these ports: others are open."""
        own = self.contents.parts(ports)
        others = [p for c, p in self.contents.now.items() if c not in own]
        wet = any(p.valves and p.content == "refrigerant" for p in others)
        return wet and bool(ports) and not any(p.valves for p in own.values())

    def _recorded_of(self, key: Open, inside: set[str]) -> Recorded:
        """What was recorded of the circuits of a key, and of the runs in them."""
        return replace(
            self.recorded,
            events=[e for e in self.recorded.events if not e.ports or set(e.ports) & set(key)],
            bled=[
                b for b in self.recorded.bled if not b.ports or not key or set(key) <= set(b.ports)
            ],
            exposures=[e for e in self.recorded.exposures if e.run in inside | {"all"}],
            joints=[j for j in self.recorded.joints if j.place.split(".")[0] in inside],
        )

    def group(
        self, found: Sequence[Circuit], key: Open, vacua: tuple[VacuumRun, ...]
    ) -> EvacuateStageResult:
        """The circuits of a key by themselves: their runs, their volume, what was done to them."""
        inside = {run for c in found if c.id in key for run in c.runs}
        ports = self.tested.ports
        nitrogen = [
            r
            for r in self.runs
            if isinstance(r, HoldRun) and (not key or set(key) & set(ports.get(r.uid, key)))
        ]
        held = volume(self.pipes, self.rules_on(None), inside) if key else self.tested.volume
        own = self._recorded_of(key, inside)
        return self.worked([*nitrogen, *vacua], held.total_m3 if held else None, own, key)

    def _since(self, recorded: Recorded, runs: Sequence[Run], ports: Open) -> Recorded:
        """What was recorded, with what the contents of these ports say of pump and decay."""
        parts = self.contents.parts(ports)
        by_name = bool(parts) and all(part.named for part in parts.values())
        vacua = [r for r in runs if r.kind in VACUUM]
        let_in = list[str]()
        if vacua and vacua[-1].kind == "decay":
            let_in = [let_in_since(self.contents, vacua[-1].started_at, c) for c in parts]
        whole = let_in[0] if let_in and all(let_in) else ""
        return replace(recorded, by_name=by_name, let_in=whole)


def _undecided(call: StageCall) -> StageCall:
    """A rise beside a shut valve with refrigerant behind it: its seat may pass."""
    told = Call(
        verdict=Verdict.UNKNOWN,
        because=f"{call.call.because} Refrigerant stands behind the shut valve, whose seat nobody "
        "proved: it may come from there.",
        do_next="Seat the valve again and time another decay; rises it still, recover what is "
        "behind it, and look.",
    )
    check = Check(id="seat", label="Seat of the valve", call=told)
    return call.model_copy(update={"call": told, "checks": (check, *call.checks)})


LET_IN = ("nitrogen", "sweep", "weighed", "exposure")


def let_in_since(contents: Contents, moment: datetime, circuit: str) -> str:
    """What came into a circuit after a moment, in words; blank where nothing did."""
    found = (_let_in(told) for told in contents.since(moment, (circuit,), *LET_IN))
    return next((words for words in found if words), "")


def _let_in(told: ActOutcome) -> str:
    """What an act after a decay let in or took out, in words; blank where the vacuum stands."""
    act = told.act
    if act.kind == "weighed":
        return "The refrigerant was recovered" if "emptied" in act.said else ""
    if act.kind == "exposure":
        return "It stood open to the air" if "opened" in act.said else ""
    return "Nitrogen was let in"


def procedures(context: StageContext, worked: EvacuateStageResult) -> Iterator[Asked]:
    """The rig, where a pump is connected at all; once a decay is timed it has done."""
    begun = any(r.procedure == "vacuum" for r in context.records(ProcedureSteps))
    past = (worked.answer is not None or worked.needle is not None) and not begun
    if context.of(FlareStageResult).joints and kit.may_be_evacuated(context.rules) and not past:
        entry = context.entry(EvacuateEntry)
        by_manifold = entry.rig.manifold == "yes" or context.rules.school("gauge").name == "needle"
        yield from asked("vacuum", {"manifold": "yes" if by_manifold else ""})


STAGE = Stage(
    name="evacuate",
    procedures=procedures,
    title="Evacuate",
    entry=EvacuateEntry,
    work=work,
    records=(PumpOverride, Isolation, Bled, PumpEvent, Exposure, Accepted, Ports, ShutOff),
    runs=VACUUM,
    acts=lambda record: (*acts_of(record), *void.acts_of(record)),
    run_acts=acts_of_run,
)
