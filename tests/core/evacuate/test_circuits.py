"""Home runs: each pair of valves shuts off a volume of its own, and is proven by itself."""

from datetime import UTC, datetime, timedelta
from types import SimpleNamespace

import pytest

from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.evacuate.circuits import ports_in_words
from fairline.core.evacuate.records import Accepted, Isolation, PumpEvent, PumpOverride
from fairline.core.line import rules_of, work
from fairline.core.physics.constants import MICRON_PA
from fairline.core.practice import Practice
from fairline.core.readings import VacuumReading, VacuumReadings, VacuumRun
from fairline.core.route.circuits import Ports, circuits_of
from fairline.core.route.stage import RouteStageResult
from fairline.core.route.volume import volume
from fairline.demo.systems import demo_jobs

START = datetime(2026, 6, 1, 8, tzinfo=UTC)
BY = {"by": "Ida", "at": START}
GALLERY = next(j for j in demo_jobs() if set(j.route.runs) >= {"A", "B", "C"} and not j.runs)


def run(kind, minute, levels, every_s=60.0):
    return VacuumRun(
        uid=f"{kind}-{minute}",
        kind=kind,
        started_at=START + timedelta(minutes=minute),
        readings=VacuumReadings.of(
            [
                VacuumReading(instrument="g", seq=n, t_s=n * every_s, pa=m * MICRON_PA)
                for n, m in enumerate(levels)
            ]
        ),
    )


def proven(minute, *ports, end=210):
    """A pull and a decay on these ports, the pump seen off: the runs and what was said of them."""
    runs = (run("pull", minute, [900, 180]), run("decay", minute + 5, [185, *[end] * 31]))
    said = [Ports(run=r.uid, open=ports, **BY) for r in runs if ports]
    return runs, [*said, Isolation(run=runs[1].uid, **BY)]


def worked(*done, records=(), job=GALLERY):
    """The stage from what was done in turn, its pump let run by name."""
    runs = [r for found, _ in done for r in found]
    told = [PumpOverride(reason="tested at the works", **BY), *records]
    told += [record for _, said in done for record in said]
    entry = job.evacuate.model_copy(
        update={"rig": job.evacuate.rig.model_copy(update={"gauge_at": "far"})}
    )
    changed = {"runs": tuple(runs), "records": (*job.records, *told), "evacuate": entry}
    return work(job.model_copy(update=changed), Practice()).of(EvacuateStageResult)


def test_only_home_runs_are_circuits_of_their_own():
    by_kind = {}
    for job in demo_jobs():
        found = circuits_of(
            work(job, Practice()).of(RouteStageResult).pipes, rules_of(job, Practice())
        )
        by_kind[job.head.name] = [c.id for c in found]
    assert [len(v) for v in by_kind.values()].count(3) >= 1
    assert set(map(len, by_kind.values())) <= {0, 2, 3, 4, 5}
    assert by_kind[GALLERY.head.name] == ["A", "B", "C"]


@pytest.mark.parametrize(
    ("done", "verdict", "said"),
    [
        ([], "wait", "No vacuum"),
        ([("A", "B", "C")], "watch", "By name of Ida"),
        ([("A",)], "wait", "Port B"),
        ([("A",), ("B",), ("C",)], "watch", "By name of Ida"),
        ([("A", "B"), ("C",)], "watch", "By name of Ida"),
        ([()], "wait", "Port A"),  # nobody said which
    ],
)
def test_every_port_is_asked_and_one_that_was_shut_is_not_proven(done, verdict, said):
    stage = worked(*(proven(30 * n, *ports) for n, ports in enumerate(done)))
    assert (stage.call.call.verdict, said in stage.call.call.because) == (verdict, True)
    asked = [c.label for c in stage.call.checks]
    assert ("Ports open" in asked) is (done == [()])


def test_one_port_that_fails_fails_the_stage_and_its_next_decay_takes_its_place():
    first = (proven(0, "A", "B", "C", end=700),)
    assert worked(*first).call.call.verdict == "short"
    again = worked(*first, proven(30, "A"), proven(60, "B"))
    assert again.call.call.verdict == "short" and "Port C" in again.call.call.because
    labels = {c.label: c.call.verdict.value for c in again.call.checks if "Port" in c.label}
    assert labels == {"Port A": "holds", "Port B": "holds", "Port C": "short"}
    assert worked(*first, proven(30, "A", "B"), proven(60, "C")).call.call.verdict == "watch"


def test_two_pulls_side_by_side_keep_their_own_runs_volume_and_events():
    left, right = proven(0, "A"), proven(2, "B", end=800)
    events = [PumpEvent(what="oil", ports=("B",), **BY), PumpEvent(what="sweep", **BY)]
    stage = worked(left, right, records=events)
    a, b = stage.of_ports(("A",)), stage.of_ports(("B",))
    assert a and b and [r.uid for r in a.vacua] == ["pull-0", "decay-5"]
    assert (a.call.call.verdict, b.call.call.verdict) == ("holds", "short")
    assert stage.call.working == b.call.working != a.call.working  # of the worst, not the first
    assert [[e.what for e in group.events] for group in (a, b)] == [["sweep"], ["oil", "sweep"]]
    assert (a.drying, b.drying and b.drying.oil_changes) == (None, 1) or b.drying is None
    pipes = work(GALLERY, Practice()).of(RouteStageResult).pipes
    rules = work(GALLERY, Practice()).rules
    one = volume(pipes, rules, {"A"})
    assert one is not None and a.rig.volume_m3 == pytest.approx(one.total_m3)
    parts = [volume(pipes, rules, {x}).total_m3 for x in "ABC"]
    assert sum(parts) == pytest.approx(volume(pipes, rules).total_m3)


def test_what_was_accepted_opens_the_gate_only_with_the_others_proven():
    bad, said = proven(0, "A", end=700)
    agreed = [*said, Accepted(run=bad[1].uid, reason="to practise", **BY)]
    alone = worked((bad, agreed))
    assert "accepted" not in alone.call.findings
    every = worked((bad, agreed), proven(30, "B"), proven(60, "C"))
    assert every.call.call.verdict == "watch" and "accepted" in every.call.findings


@pytest.mark.parametrize(
    ("count", "key", "words"),
    [
        (3, "ABC", "All ports"),
        (3, "AB", "Ports A and B"),
        (3, "C", "Port C"),
        (1, "A", "Port A"),
        (4, "ABD", "Ports A, B and D"),
    ],
)
def test_ports_are_named_alone_together_or_as_all(count, key, words):
    found = [SimpleNamespace(id=tag, tag=tag) for tag in "ABCD"[:count]]
    assert ports_in_words(found, tuple(key)) == words
