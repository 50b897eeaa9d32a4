"""Evacuate: the pull and the isolated decay that proves the system dry and tight."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from fairline.core.evacuate.circuits import (
    Circuit,
    Open,
    Ports,
    circuits,
    counting,
    parted,
    together,
)
from fairline.core.evacuate.entry import EvacuateEntry
from fairline.core.evacuate.lane import EvacuateWorked, worked_out
from fairline.core.evacuate.records import (
    Accepted,
    Bled,
    Exposure,
    Isolation,
    PumpEvent,
    PumpOverride,
    Recorded,
)
from fairline.core.flare.stage import JointRecord
from fairline.core.instrument import InstrumentOn, told_resolution
from fairline.core.practice import Rules
from fairline.core.pressure_test.stage import PressureTestWorked
from fairline.core.pressure_test.volume import volume
from fairline.core.readings import VACUUM, HoldRun, Run, VacuumRun
from fairline.core.route.piping import Piping
from fairline.core.route.stage import RouteWorked
from fairline.core.stage import Basis, Stage


def work(basis: Basis) -> EvacuateWorked:
    rules, entry = basis.rules, basis.entry(EvacuateEntry)
    tested, pipes = basis.of(PressureTestWorked), basis.of(RouteWorked).pipes
    runs = basis.runs("hold", *VACUUM)
    told = told_resolution(basis.records(InstrumentOn), [r for r in runs if r.kind in VACUUM])
    if entry.gauge_resolution_pa is None and told is not None:  # as its gauge says it
        entry = entry.model_copy(update={"gauge_resolution_pa": told})
    recorded = Recorded(
        basis.records(PumpOverride),
        basis.records(Isolation),
        basis.records(Bled),
        basis.records(PumpEvent),
        basis.records(Accepted),
        basis.records(Exposure),
        basis.records(JointRecord),
    )
    ground = _Ground(runs, entry, rules, tested, recorded, pipes, told)
    found = circuits(pipes)
    if not found:
        return ground.worked(runs)
    lanes = parted([r for r in runs if isinstance(r, VacuumRun)], basis.records(Ports))
    counts = counting(found, lanes)
    every = tuple(sorted(c.id for c in found))
    shown = [*counts, *(k for k in lanes if k not in counts), every]
    worked = {
        key: replace(ground.lane(found, key, lanes.get(key, ())), ports=key)
        for key in dict.fromkeys(shown)
    }
    vacua = [r for r in runs if r.kind in VACUUM]
    last = vacua[-1].uid if vacua else None
    at_hand = next((k for k, of in lanes.items() if any(r.uid == last for r in of)), every)
    unsaid = () in lanes and lanes[()][-1].uid == last
    call = together(found, [(key, worked[key].call) for key in counts], unsaid)
    return replace(
        worked[at_hand],
        call=call,
        circuits=found,
        counts=tuple(counts),
        lanes=tuple(worked.values()),
    )


@dataclass(frozen=True, eq=False)
class _Ground:
    """What every lane is worked out from."""

    runs: tuple[Run, ...]
    entry: EvacuateEntry
    rules: Rules
    tested: PressureTestWorked
    recorded: Recorded
    pipes: Piping
    told: float | None

    def worked(
        self, runs: Sequence[Run], volume_m3: float | None = None, recorded: Recorded | None = None
    ) -> EvacuateWorked:
        whole = self.tested.volume.total_m3 if self.tested.volume is not None else None
        done = worked_out(
            runs,
            self.entry,
            self.rules,
            self.tested.call,
            recorded or self.recorded,
            self.tested.atmosphere_pa,
            whole if volume_m3 is None else volume_m3,
        )
        return replace(done, told_resolution_pa=self.told)

    def lane(
        self, found: Sequence[Circuit], key: Open, vacua: tuple[VacuumRun, ...]
    ) -> EvacuateWorked:
        """The circuits of a key by themselves: their runs, their volume, what was done to them."""
        inside = {run for c in found if c.id in key for run in c.runs}
        nitrogen = [r for r in self.runs if isinstance(r, HoldRun)]
        held = volume(self.pipes, self.rules, inside) if key else self.tested.volume
        own = replace(
            self.recorded,
            events=[e for e in self.recorded.events if not e.ports or set(e.ports) & set(key)],
            exposures=[e for e in self.recorded.exposures if e.run in inside | {"all"}],
            joints=[j for j in self.recorded.joints if j.place.split(".")[0] in inside],
        )
        return self.worked([*nitrogen, *vacua], held.total_m3 if held else None, own)


STAGE = Stage(
    name="evacuate",
    title="Evacuate",
    entry=EvacuateEntry,
    work=work,
    records=(PumpOverride, Isolation, Bled, PumpEvent, Exposure, Accepted, Ports),
    runs=VACUUM,
)
