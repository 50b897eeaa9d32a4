"""Lines in the wall: closed, tested, left under nitrogen, read again months later."""

from datetime import UTC, datetime, timedelta

import pytest

from fairline.core.job import Job
from fairline.core.line import rules_of, work
from fairline.core.physics.nitrogen import expected_gauge_pa
from fairline.core.practice import Practice
from fairline.core.pressure_test.plan import plan
from fairline.core.pressure_test.rough_in import (
    LEAST_LEFT_PA,
    RoughIn,
    RoughRead,
    tubes_m3,
)
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.route.stage import RouteStageResult
from fairline.demo import systems

DAY = datetime(2026, 3, 2, 9, 0, tzinfo=UTC)
JOB: Job = systems._gallery(DAY)
WANTED = plan(rules_of(JOB, Practice()))
PSI = 6894.757


def left(at=DAY, **more):
    said = {"ends": "capped", "box": "yes", "drain": "slip", "clamped": "yes", "cable": "yes"}
    return RoughIn(run="A", by="Ida", at=at, **(said | more))


def read(what, after, gauge_pa, pipe_c=20.0):
    return RoughRead(run="A", what=what, at=DAY + after, by="Ida", gauge_pa=gauge_pa, pipe_c=pipe_c)


def tested():
    first = read("test", timedelta(minutes=5), WANTED.gauge_pa)
    hold = timedelta(minutes=5, seconds=WANTED.hold_s)
    return [first, read("test", hold, WANTED.gauge_pa)]


def stands(*records):
    job = JOB.model_copy(update={"records": (), "runs": ()})
    job = job.model_copy(
        update={
            "records": tuple(r.model_copy(update={"uid": f"q{n}"}) for n, r in enumerate(records))
        }
    )
    worked = work(job, Practice())
    (found,) = worked.of(PressureTestStageResult).rough
    return found, worked.calls["pressure-test"]


@pytest.mark.parametrize(
    ("change", "verdict"),
    [
        ({}, "holds"),
        ({"ends": "brazed"}, "holds"),
        ({"ends": "open"}, "short"),
        ({"ends": None}, "wait"),
        ({"drain": None}, "wait"),
        ({"cable": None}, "wait"),
        ({"drain": "none"}, "short"),
        ({"cable": "no"}, "short"),
        ({"clamped": "no"}, "short"),
        ({"box": "no"}, "watch"),
    ],
)
def test_a_wall_is_closed_over_what_was_looked_at(change, verdict):
    standing = read("left", timedelta(hours=3), 10 * LEAST_LEFT_PA)
    found, _ = stands(left(**change), *tested(), standing)
    assert found.call.verdict.value == verdict


def test_a_line_waits_for_its_test_and_for_what_is_left_on_it():
    assert stands(left())[0].call.verdict.value == "wait"
    assert stands(left(), tested()[0])[0].call.verdict.value == "wait"
    assert stands(left(), *tested())[0].call.verdict.value == "wait"  # nothing was left on it
    fallen = read("test", timedelta(seconds=WANTED.hold_s + 600), WANTED.gauge_pa - 20 * PSI)
    assert stands(left(), tested()[0], fallen)[0].call.verdict.value == "short"


@pytest.mark.parametrize(
    ("pa", "verdict"), [(LEAST_LEFT_PA, "holds"), (LEAST_LEFT_PA - 1, "short")]
)
def test_enough_is_left_on_it_to_show_a_fall(pa, verdict):
    found, _ = stands(left(), *tested(), read("left", timedelta(hours=3), pa))
    assert found.call.verdict.value == verdict


@pytest.mark.parametrize(
    ("lost", "verdict"), [(0.0, "holds"), (1.0 * PSI, "holds"), (15 * PSI, "short")]
)
def test_months_later_it_is_read_by_the_temperature_of_its_pipe(lost, verdict):
    """From 20 °C in spring to 5 °C in autumn nothing is lost but what temperature explains."""
    first = 150 * PSI
    cold = expected_gauge_pa(first, 20.0, 5.0)
    found, _ = stands(
        left(),
        *tested(),
        read("left", timedelta(hours=3), first),
        read("again", timedelta(days=200), cold - lost, 5.0),
    )
    assert found.call.verdict.value == verdict


def test_a_line_that_was_opened_unread_is_told_and_shuts_no_gate():
    """Its verdict stands beside the stage's: an open mount never holds it up, nor it a mount."""
    _, call = stands(left(ends="open"))
    assert call.call.verdict.value == "short"
    assert call.proof.verdict.value != "short"


def test_a_line_left_again_begins_anew():
    later = left(at=DAY + timedelta(days=2))
    found, _ = stands(left(), *tested(), later)
    assert found.reads == () and found.next == "test"


def test_its_own_volume_is_that_of_both_tubes():
    stretch = work(JOB, Practice()).of(RouteStageResult).pipes.get("A")
    bores = {6.35: 0.25 - 2 * 0.030, 9.52: 0.375 - 2 * 0.032, 12.7: 0.5 - 2 * 0.032}  # ASTM B280
    sizes = (stretch.tube.liquid_mm, stretch.tube.gas_mm)
    area = sum(3.14159265 / 4 * (bores[round(mm, 2)] * 0.0254) ** 2 for mm in sizes)
    assert tubes_m3(stretch) == pytest.approx(area * stretch.length_m, rel=1e-6)
