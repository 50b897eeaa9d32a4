"""A house target stricter than the sheet: what misses it holds by the sheet, and is told beside."""

import math

import pytest

from fairline.core.line import judge, work
from fairline.core.physics.constants import MICRON_PA
from fairline.core.practice import Practice
from fairline.demo.jobs import bindery
from tests.core.test_proofs import finished

END_PA = 418 * MICRON_PA  # 418 microns against a sheet's 500 (common practice, no source)


def ended_at(pa):
    """The finished bindery, whose sheet wants 500 microns, with a decay that ends there."""
    job = bindery()
    decay = job.runs[-1]
    readings = decay.readings.of(  # it comes to rest within a minute, as outgassing does
        [
            r.model_copy(update={"pa": pa * (1 - 0.8 * math.exp(-r.t_s / 20))})
            for r in decay.readings
        ]
    )
    runs = (*job.runs[:-1], decay.model_copy(update={"readings": readings}))
    return job.model_copy(update={"runs": runs})


@pytest.mark.parametrize(
    ("house", "verdict"), [(300, "watch"), (417, "watch"), (419, "holds"), (600, "holds")]
)
def test_a_decay_inside_the_sheet_and_over_the_houses_target_is_watch_and_opens_the_gate(
    house, verdict
):
    practice = Practice(house={"decay_max": house * MICRON_PA})
    stages = judge(ended_at(END_PA), practice)
    assert stages["evacuate"].call.verdict == verdict
    assert stages["evacuate"].proof.verdict == "holds"
    assert stages["charge"].call.verdict == "holds"
    if verdict == "watch":
        assert "418 microns" in stages["evacuate"].call.because
        assert f"{house} microns" in stages["evacuate"].call.because


def test_every_circuit_has_its_own():
    practice = Practice(house={"decay_max": 50 * MICRON_PA})
    worked = work(finished("home runs", released=False).job, practice)
    told = [c for c in worked.calls["evacuate"].checks if c.id.startswith("house_target")]
    assert told and len({c.id for c in told}) == len(told)
    assert all(c.call.verdict == "watch" for c in told)
