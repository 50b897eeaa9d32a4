"""The tasks of a job, from what it really has: heads, walls, metres, joints, cables, waits."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

from fairline.core.call import StageCall, Verdict
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.flare.stage import FlareStageResult
from fairline.core.job import Job
from fairline.core.line import LineResult
from fairline.core.mount.yard import YARD
from fairline.core.plan.crew import Skill
from fairline.core.plan.times import HouseTimes, task_times
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.route.entry import OUTDOOR
from fairline.core.route.stage import RouteStageResult
from fairline.core.wire.stage import WireStageResult

HEAVY_KG = 15.0  # a head that one person does not hold and feed alone; our own choice
ELECTRICIAN = "electrician"
BASE_RUN_M = 4.0  # metres' worth of beginning and ending a line; our own choice


@dataclass(frozen=True)
class PlanTask:
    """One task. ``time`` is its kind, ``count`` how many of it; ``opens``: it opens tubing.

    ``crew`` 0 without a trade is a wait. ``done``: the stages say that it is over. ``skill``: one
    of its people must have it; ``who`` is one that must be among them; ``earliest``: not before.
    """

    id: str
    words: str
    stage: str
    time: str
    duration_s: float
    crew: int
    after: tuple[str, ...]
    done: bool
    trade: str = ""
    opens: bool = False
    count: float = 1.0
    skill: Skill | Literal[""] = ""
    who: str = ""
    earliest: datetime | None = None

    @property
    def waits(self) -> bool:
        return self.crew == 0 and not self.trade


@dataclass
class _Maker:
    """Gathers the tasks of a job."""

    job: Job
    worked: LineResult
    house: HouseTimes
    found: list[PlanTask] = field(default_factory=list)

    def add(
        self,
        id: str,
        words: str,
        stage: str,
        time: str,
        *,
        after: Sequence[str] = (),
        done: bool = False,
        crew: int | None = None,
        trade: str = "",
        opens: bool = False,
        count: float = 1.0,
        seconds: float | None = None,
    ) -> str:
        """Add a task; ``seconds`` where its time is no house's. Its id."""
        self.found.append(
            PlanTask(
                id=id,
                words=words,
                stage=stage,
                time=time,
                duration_s=self.house.each_s(time) * count if seconds is None else seconds,
                crew=task_times()[time].crew if crew is None else crew,
                after=tuple(after),
                done=done,
                trade=trade,
                opens=opens,
                count=count,
                skill="" if trade else task_times()[time].skill,
            )
        )
        return id

    def call(self, stage: str) -> StageCall:
        return self.worked.calls[stage]

    def over(self, stage: str) -> bool:
        return self.call(stage).call.verdict is Verdict.HOLDS

    def part_over(self, stage: str, **of: str) -> bool:
        """Whether all checks of a zone or a part hold; not so where there is none."""
        checks = [
            c for c in self.call(stage).checks if all(getattr(c, k) == v for k, v in of.items())
        ]
        return bool(checks) and all(c.call.verdict is Verdict.HOLDS for c in checks)


def tasks(job: Job, worked: LineResult, house: HouseTimes) -> list[PlanTask]:
    """Every task of a job in the order of the work, those that are over marked so."""
    make = _Maker(job, worked, house)
    unbox = make.add("unbox", "Look round, unbox", "survey", "unbox", done=make.over("survey"))
    outdoor = make.add(
        "outdoor",
        "Outdoor unit onto its support",
        "mount",
        "outdoor",
        after=(unbox,),
        done=make.part_over("mount", part=YARD),
    )
    jointed = [end for zone in job.survey.now for end in _zone(make, zone.zone, unbox, outdoor)]
    jointed += _trunks(make, unbox, outdoor)
    held = _nitrogen(make, tuple(jointed))
    decayed = _vacuum(make, held)
    _power_and_charge(make, decayed, outdoor)
    return make.found


def _zone(make: _Maker, zone: str, unbox: str, outdoor: str) -> Iterator[str]:
    """A head's hole, hanging, line, drain and joints; gives what the nitrogen waits for."""
    head = make.worked.rules.heads.get(zone)
    ceiling = head is not None and head.form == "cassette"
    wall = make.job.mount.wall(zone)
    mounted = make.part_over("mount", zone=zone)
    masonry = (wall.kind or make.job.survey.wall) == "masonry"
    before = unbox
    if not ceiling:
        kind = "hole-masonry" if masonry else "hole"
        before = make.add(
            f"hole-{zone}", f"Hole, head {zone}", "mount", kind, after=(unbox,), done=mounted
        )
    hang = "hang-ceiling" if ceiling else "hang"
    crew = 2 if ceiling or (head is not None and (head.weight_kg or 0.0) > HEAVY_KG) else 1
    hung = make.add(
        f"hang-{zone}", f"Head {zone} hung", "mount", hang, after=(before,), crew=crew, done=mounted
    )
    line = _run(make, zone, before)
    make.add(
        f"drain-{zone}",
        f"Drain, head {zone}",
        "route",
        "drain",
        after=(before,),
        done=make.part_over("route", part="drains", zone=zone),
    )
    yield from _joints(make, zone, (hung, line, outdoor))


def _run(make: _Maker, end: str, before: str) -> str:
    """A line laid, then its covers, which nothing waits for but leaving."""
    stretch = make.worked.of(RouteStageResult).pipes.get(end)
    metres = (stretch.length_m or 0.0) if stretch else 0.0
    over = make.part_over("route", part=f"runs.{end}") and metres > 0
    named = _named(end)
    line = make.add(
        f"run-{end}",
        f"Line {named}",
        "route",
        "run",
        count=BASE_RUN_M + metres,
        after=(before,),
        done=over,
    )
    make.add(
        f"cover-{end}",
        f"Covers, line {named}",
        "route",
        "cover",
        after=(line,),
        done=make.over("route") and make.over("hand-over"),
    )
    return line


def _named(end: str) -> str:
    """A line by what it ends at: ``B``, ``box 1``."""
    return end if len(end) == 1 else end.replace("box", "box ").replace("tee", "tee ")


def _joints(make: _Maker, end: str, after: Sequence[str]) -> Iterator[str]:
    """The joints of a line, flared and brazed ones apart; nothing where there is none."""
    own = [j for j in make.worked.of(FlareStageResult).joints if j.run == end and not j.cap]
    for kind, some in (
        ("brazed", [j for j in own if j.brazed]),
        ("joint", [j for j in own if not j.brazed]),
    ):
        if some:
            what = "brazed joints" if kind == "brazed" else "joints"
            words = f"{len(some)} {what}, line {_named(end)}"
            yield make.add(
                f"{kind}-{end}",
                words,
                "flare",
                kind,
                count=len(some),
                opens=True,
                after=tuple(after),
                done=all(j.record for j in some),
            )


def _trunks(make: _Maker, unbox: str, outdoor: str) -> list[str]:
    """The lines that end in a box or a tee, with their joints."""
    found: list[str] = []
    for stretch in make.worked.of(RouteStageResult).pipes.stretches:
        if stretch.kind != "head":
            line = _run(make, stretch.id, unbox)
            found += _joints(make, stretch.id, (line, outdoor))
    return found


def _nitrogen(make: _Maker, jointed: Sequence[str]) -> tuple[str, str]:
    """Nitrogen on, every joint looked at, the hold that needs nobody: both before it is let off."""
    plan = make.worked.of(PressureTestStageResult).plan
    over = make.over("pressure-test")
    count = sum(1 for j in make.worked.of(FlareStageResult).joints if not j.cap)
    on = make.add(
        "nitrogen", "Nitrogen on", "pressure-test", "nitrogen", after=tuple(jointed), done=over
    )
    searched = make.add(
        "search",
        "Every joint looked at under nitrogen",
        "pressure-test",
        "search",
        after=(on,),
        count=max(1, count),
        done=over,
    )
    hold = make.add(
        "hold",
        "Nitrogen holds",
        "pressure-test",
        "nitrogen",
        after=(on,),
        crew=0,
        seconds=plan.hold_s if plan else 3600.0,
        done=over,
    )
    return searched, hold


def _vacuum(make: _Maker, held: Sequence[str]) -> str:
    rule, over = make.worked.of(EvacuateStageResult).rule, make.over("evacuate")
    rig = make.add(
        "rig", "Rig on, pump begun", "evacuate", "rig", after=held, opens=True, done=over
    )
    pull = make.add("pull", "Under the pump", "evacuate", "pull", after=(rig,), done=over)
    return make.add(
        "decay",
        "Decay, valve shut",
        "evacuate",
        "pull",
        after=(pull,),
        crew=0,
        seconds=rule.hold_s,
        done=over,
    )


def _power_and_charge(make: _Maker, decayed: str, outdoor: str) -> None:
    wired, zones = make.worked.of(WireStageResult), [h.zone for h in make.job.survey.now]
    cables = [
        make.add(
            f"cable-{c.cable.id}",
            f"Interconnect {c.cable.letter or c.cable.id}",
            "wire",
            "cable",
            after=(outdoor, *_hung(make, c.cable.letter)),
            done=c.call.verdict is Verdict.HOLDS,
        )
        for c in wired.cables
        if c.cable.kind != "supply"
    ]
    entry = make.job.wire.supply(OUTDOOR)
    theirs = entry.who == "electrician"
    supply = make.add(
        "supply",
        "Supply and disconnect",
        "wire",
        "supply",
        after=(outdoor,),
        crew=0 if theirs else 1,
        trade=ELECTRICIAN if theirs else "",
        done=entry.been == "yes",
    )
    charged = make.over("charge")
    weigh = make.add("weigh", "Grams in", "charge", "weigh", after=(decayed,), done=charged)
    circuits = make.worked.of(EvacuateStageResult).circuits
    valves = make.add(
        "valves",
        "Valves, caps, joints looked at again",
        "charge",
        "valves",
        after=(weigh,),
        count=max(1, len(circuits)),
        done=charged,
    )
    over = make.over("commission")
    starts = make.add(
        "starts",
        "The unit starts",
        "commission",
        "starts",
        after=(valves, supply, *cables),
        done=over,
    )
    last = [
        make.add(
            f"zone-{z}",
            f"Zone {z} run, both modes",
            "commission",
            "zone",
            after=(starts,),
            done=over,
        )
        for z in zones
    ]
    covers = [t.id for t in make.found if t.time in ("cover", "drain")]
    make.add(
        "leave",
        "Labels, swept, handed over",
        "hand-over",
        "leave",
        after=(*last, "search", *covers),
        done=make.job.handed_over is not None,
    )


def _hung(make: _Maker, letter: str) -> list[str]:
    return [t.id for t in make.found if t.id == f"hang-{letter}"]
