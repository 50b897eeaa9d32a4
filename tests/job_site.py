"""A job under way in memory: acts and edits, named and kept as the store names and keeps them.

The plans are those of the demo; all that is done on them is done here.
"""

from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

from fairline.core import kit, part_answers
from fairline.core.charge.entry import Release, ValvesShut, Weighing
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.commission.records import Running
from fairline.core.evacuate.records import Bled, Isolation
from fairline.core.flare.parts import valves_made
from fairline.core.flare.records import JointRecord, core_change
from fairline.core.flare.stage import FlareStageResult
from fairline.core.job import Job
from fairline.core.line import parts_of, work
from fairline.core.part_answers import questions
from fairline.core.parts import Ends, PartChange, Subject, SubjectSince, digest
from fairline.core.practice import Practice
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.readings import (
    HoldReading,
    HoldReadings,
    HoldRun,
    VacuumReading,
    VacuumReadings,
    VacuumRun,
)
from fairline.core.route.circuits import Ports, circuits_of
from fairline.core.route.edit import edited
from fairline.core.route.stage import RouteStageResult
from fairline.core.route.written import written_down
from fairline.core.tokens import Plan, with_tokens
from fairline.core.wire.records import PowerOn
from fairline.demo.by_hand import ticked

START = datetime(2026, 7, 1, 8, tzinfo=UTC)
BY = "Ida Marsh"


@dataclass
class Site:
    """A job and the clock on its wall; each act takes a minute."""

    job: Job
    now: datetime = START
    practice: Practice = field(default_factory=Practice)
    tokens: bool = True  # without them it is a job of before, whose machines are the first ones
    _count: int = 0
    _states: list[Job] = field(default_factory=list)

    def __post_init__(self):
        plan = Plan(self.job.survey, self.job.route)
        bare = Plan(type(plan.survey)(), type(plan.route)())
        known = bare if self.tokens else plan
        equipment = with_tokens(self.job.equipment, known, plan, self.fresh)
        rig = self.job.evacuate.rig.model_copy(update={"gauge_at": "far"})
        self.job = self.job.model_copy(
            update={
                "records": (),
                "runs": (),
                "equipment": equipment,
                "created_at": START,
                "evacuate": self.job.evacuate.model_copy(update={"rig": rig}),
            }
        )
        self._keep()

    def fresh(self):
        self._count += 1
        return f"t{self._count}"

    def later(self, minutes=1):
        self.now += timedelta(minutes=minutes)
        return self.now

    @property
    def subject(self):
        return self.job.since[-1].subject

    def _keep(self, what=""):
        parts = parts_of(self.job, self.practice)
        named = digest(parts)
        if self.job.since and named == self.subject:
            return
        since = SubjectSince(at=self.now, subject=named, by=BY, what=what)
        self.job = self.job.model_copy(
            update={
                "subjects": self.job.subjects | {named: Subject(parts=parts)},
                "since": (*self.job.since, since),
            }
        )

    def record(self, record):
        self._count += 1
        named = {"uid": f"r{self._count}", "subject": self.subject}
        kept = record.model_copy(update=named)
        self.job = self.job.model_copy(update={"records": (*self.job.records, kept)})
        return kept

    def run(self, kind, rows, ports=()):
        uid = f"{kind}{self._count}"
        model, columns = (HoldRun, HoldReadings) if kind == "hold" else (VacuumRun, VacuumReadings)
        reading = HoldReading if kind == "hold" else VacuumReading
        read = [reading(instrument="g", seq=n, **row) for n, row in enumerate(rows)]
        run = model(
            uid=uid,
            kind=kind,
            started_at=self.now,
            readings=columns.of(read),
            subject=self.subject,
        )
        self._count += 1
        self.job = self.job.model_copy(update={"runs": (*self.job.runs, run)})
        if ports:
            self.record(Ports(run=uid, open=ports, by=BY, at=self.now))
        self.later(rows[-1]["t_s"] / 60 + 1)
        return uid

    # --- acts -----------------------------------------------------------------------------------

    @property
    def worked(self):
        """The job worked out, once for what it is now."""
        of, found = getattr(self, "_kept", (None, None))
        if of is not self.job:
            found = work(self.job, self.practice, found)
            self._kept = (self.job, found)
        return found

    @property
    def joints(self):
        return self.worked.of(FlareStageResult).joints

    def spec(self, place):
        return next(j for j in self.joints if j.place == place)

    def make(self, *places, did="made", at=None):
        """Joints made to torque, or brazed; all that are not made yet where none is named."""
        found = [j for j in self.joints if (j.place in places if places else j.record is None)]
        for joint in found:
            if did != "tightened":
                self.take_out(f"joint:{joint.key}", also_pressed=True)
            sides = joint.key.partition(":")[2]
            brazed = joint.brazed
            aim = joint.answer.result.aim_nm if joint.answer else None
            self.record(
                JointRecord(
                    place=joint.place,
                    sides=tuple(sides.split("|")),
                    did=did if not joint.cap else "capped",
                    look="good",
                    how="brazed" if brazed else "measured",
                    applied_nm=None if brazed else aim or 16.0,
                    nitrogen="yes" if brazed else "",
                    cooled="yes" if brazed else "",
                    by=BY,
                    at=at or self.later(),
                )
            )
            routed = self.worked.of(RouteStageResult)
            spec = next((x for x in routed.joints if x.id == joint.place), None)
            if spec is not None:
                route = written_down(self.job.route, routed, spec)
                self.job = self.job.model_copy(update={"route": route})

    @property
    def contents(self):
        return self.worked.of(FlareStageResult).contents

    def take_out(self, *names, also_pressed=False, contents=None):
        """Refrigerant recovered from the circuits of some parts, their valves shut before."""
        drawn = contents or self.contents
        found = {c: self.contents.part(c) for name in names for c in drawn.places(name)}
        wet = tuple(c for c, p in found.items() if p.content in ("refrigerant", "mixed"))
        if wet:
            ports = wet if self.circuits() else ()
            self.record(ValvesShut(ports=ports, by=BY, at=self.later()))
            self.recover(*ports)
        if also_pressed and any(p.pressed for p in found.values()):
            self.record(Bled(gauge_pa=0.0, by=BY, at=self.later()))

    def recover(self, *ports):
        """Refrigerant taken out by machine until the gauge stood at nought."""
        out = {"way": "out", "before_kg": 2.0, "after_kg": 2.1, "emptied": "yes", "ports": ports}
        self.record(Weighing(**out, by=BY, at=self.later()))

    def core(self, port, did):
        """A valve core changed: made in the open, tightened through the core tool."""
        if did == "made":
            unit = self.job.equipment.machine("outdoor")
            self.take_out(f"joint:gas:{unit}.{port}|core")
        self.record(
            JointRecord(
                **core_change(self.job.equipment.machine("outdoor"), port, did == "made"),
                by=BY,
                at=self.later(),
            )
        )

    def shut(self):
        """The ports whose valves are shut; all where none is, none where nothing is asked."""
        found = self.circuits()
        return tuple(c for c in found if not self.contents.part(c).valves) or tuple(found)

    def prove_again(self):
        """Nitrogen and a vacuum on what asks for them, and nowhere else."""
        bare = self.worked.of(PressureTestStageResult).covered.bare
        if bare:
            several = self.circuits()
            names = {c for b in bare for c in self.contents.places(b.part)}
            self.hold(*(sorted(names) if several else ()))
        if self.call("evacuate").call.verdict.value != "holds":
            self.pull()

    def circuits(self):
        return [
            c.id for c in circuits_of(self.worked.of(RouteStageResult).pipes, self.worked.rules)
        ]

    def hold(self, *ports, lost_pa=0.0, share=1.0):
        """Nitrogen at the test pressure for its time or a share of it, on some ports; then bled."""
        plan = self.worked.of(PressureTestStageResult).plan
        rows = [
            {"t_s": t, "gauge_pa": plan.gauge_pa - lost_pa * t / plan.hold_s, "pipe_c": 20.0}
            for t in (0.0, share * plan.hold_s / 2, share * plan.hold_s)
        ]
        self.later()
        uid = self.run("hold", rows, ports or self.shut())
        self.record(Bled(gauge_pa=0.0, by=BY, at=self.now))
        return uid

    def pull(self, *ports):
        """A pull and a decay that holds, on some ports or all, the pump seen off."""
        open_ = ports or self.shut()
        self.later()
        pulled = [{"t_s": 60.0 * n, "pa": pa} for n, pa in enumerate((9000.0, 300.0, 20.0))]
        self.run("pull", pulled, open_)
        decay = [{"t_s": 60.0 * n, "pa": 22.0 + 0.002 * (n % 2)} for n in range(62)]
        uid = self.run("decay", decay, open_)
        self.record(Isolation(run=uid, by=BY, at=self.now))
        return uid

    def weigh(self):
        """What is still to be weighed in, or nothing: then the scale shows that nothing moved."""
        charged = self.worked.of(ChargeStageResult)
        wanted = (charged.answer.result.added_kg or 0.0) - charged.weighed_kg
        way = "in" if wanted >= 0 else "out"
        open_ = all(p.valves for p in self.contents.parts().values())
        wet = any(p.content == "refrigerant" for p in self.contents.parts().values())
        record = Weighing(
            running=open_ and wet,
            way=way,
            before_kg=9.0,
            after_kg=9.0 - wanted,
            cylinder="1",
            by=BY,
            at=self.later(),
        )
        self.record(record)

    def open(self, *ports):
        self.record(
            Release(
                order="gas_first",
                full_open=True,
                caps_on=True,
                ports=ports,
                hiss="heard",
                by=BY,
                at=self.later(),
            )
        )

    def look(self):
        """Every joint under refrigerant, with bubbles."""
        for suspect in self.worked.of(ChargeStageResult).suspects:
            look = LeakCheck(
                joint=suspect.id, found="clean", watched_s=150.0, by=BY, at=self.later()
            )
            self.record(look)

    def start(self):
        self.record(PowerOn(by=BY, at=self.later()))

    def measure(self, *zones):
        for zone in zones or [h.zone for h in self.job.survey.now]:
            for mode, out in (("cool", 12.0), ("heat", 35.0)):
                self.record(
                    Running(
                        zone=zone,
                        mode=mode,
                        return_c=24.0 if mode == "cool" else 20.0,
                        supply_c=out,
                        airflow_m3_s=0.15,
                        by=BY,
                        at=self.later(),
                    )
                )

    def finish(self, released=True):
        """Everything proved, from joints to the running zones."""
        self.make()
        sealed = kit.stays_sealed(self.worked.rules)
        if not sealed:
            self.hold()
            self.pull()
        if released:
            if not sealed:
                self.weigh()
            self.open()
            self.look()
            self.start()
            self.measure()
        return self.by_hand()

    def by_hand(self):
        """All lists of steps ticked, as far as they are asked now."""
        for steps in ticked(self.job, self.later(), BY):
            self.record(steps)
        return self

    # --- edits ----------------------------------------------------------------------------------

    def edit(self, what="", **parts):
        """An edit of entries or sheets, as the store keeps it: with tokens for what came in."""
        self._states.append(self.job)
        before = Plan(self.job.survey, self.job.route)
        self.later()
        self.job = self.job.model_copy(update=parts)
        after = Plan(self.job.survey, self.job.route)
        tokens = with_tokens(self.job.equipment, before, after, self.fresh)
        self.job = self.job.model_copy(update={"equipment": tokens})
        self._keep(what)
        return self

    def ordered(self, order):
        """An order of the system drawing, as the page gives it."""
        job, valves = self.job, valves_made(self.worked.of(FlareStageResult).proofs)
        return self.edit(route=edited(job.route, order, job.survey, job.equipment, None, valves))

    def runs_edited(self, **runs):
        """An edit of runs of the route, a dictionary of fields each; None takes one out."""
        found = dict(self.job.route.runs)
        for end, fields in runs.items():
            if fields is None:
                found.pop(end)
            else:
                found[end] = self.job.route.run(end).model_copy(update=fields)
        return self.edit(route=self.job.route.model_copy(update={"runs": found}))

    def undo(self):
        """Take the last edit back: entries and tokens as they were; what was done since stays."""
        was = self._states.pop()
        self.later()
        entries = ("survey", "mount", "route", "wire", "equipment")
        self.job = self.job.model_copy(update={name: getattr(was, name) for name in entries})
        self._keep("taken back")
        return self

    def asked(self):
        worked = self.worked
        return questions(worked.counted, worked.of(FlareStageResult).proofs)

    def answer(self, how, careful=True):
        """Say of all that is asked that it was drawn wrong, or changed on site.

        ``careful``: what was in the pipes had been taken out before.
        """
        asked = [q.difference for q in self.asked()]
        if how == "changed" and careful:
            was = work(self._states[-1], self.practice).of(FlareStageResult).contents
            self.take_out(*(d.part for d in asked if d.then), contents=was)
        equipment, moved = self.job.equipment, {}
        if how == "changed":
            equipment = part_answers.changed(equipment, asked, self.fresh)
        else:
            used = [spec.key for spec in self.worked.of(RouteStageResult).joints]
            made = [act.key for act in self.worked.of(FlareStageResult).proofs.acts]
            moved = part_answers.moved_joints(asked, equipment, made, used)
        self.later()
        self.job = self.job.model_copy(update={"equipment": equipment})
        self._keep(how)
        now = self.worked.of(FlareStageResult).proofs.now
        ends = part_answers.ends_by_part(asked, now.get)
        self.record(PartChange(how=how, parts=ends, moved=moved, reason="seen", by=BY, at=self.now))
        return self

    def exchange(self, place, what="machine", careful=True):
        name = "unit" if place == "outdoor" else place if len(place) > 1 else f"head:{place}"
        name = f"tube:{place}" if what == "tube" else name
        if careful:
            self.take_out(name)
        self._states.append(self.job)
        was = self.worked.of(FlareStageResult).proofs.now.get(name, ())
        self.later()
        equipment = part_answers.exchanged(self.job.equipment, place, what, self.fresh)
        job = self.job
        seen = part_answers.looked_at_again(job.survey, job.mount, job.wire, [place])
        parts = dict(zip(("survey", "mount", "wire"), seen, strict=True))
        parts["equipment"] = equipment
        self.job = self.job.model_copy(update=parts)
        self._keep(f"{place} exchanged")
        now = self.worked.of(FlareStageResult).proofs.now.get(name, ())
        ends = {name: Ends(then=was, now=now)}
        told = PartChange(how="exchanged", parts=ends, reason="faulty", by=BY, at=self.now)
        self.record(told)
        return self

    # --- what is said ---------------------------------------------------------------------------

    def verdicts(self):
        """The verdict of the stages that prove something, and of the checks of a running zone."""
        calls = self.worked.calls
        names = ("flare", "pressure-test", "evacuate", "charge")
        return {name: calls[name].call.verdict.value for name in names}

    def call(self, stage):
        return self.worked.calls[stage]

    def checks(self, stage):
        return {c.id: c.call for c in self.worked.calls[stage].checks}
