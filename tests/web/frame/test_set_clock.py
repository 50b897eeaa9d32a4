"""The computer's clock is set while somebody works: order and length of what is kept stay."""

from datetime import UTC, datetime, timedelta

import pytest

from fairline.store import clock
from tests.support import words


class Computer:
    ahead_s = 0.0  # what the computer's clock was set forward by
    passed_s = 0.0


@pytest.fixture
def computer(monkeypatch):
    made, began = Computer(), datetime.now(UTC)
    wall = lambda: began + timedelta(seconds=made.passed_s + made.ahead_s)  # noqa: E731
    monkeypatch.setattr(clock._Ours, "clock", clock.Clock(wall, lambda: made.passed_s))
    return made


@pytest.mark.parametrize(
    ("ahead_h", "said"), [(-1, "set back by 60 min"), (1, "set forward by 60 min")]
)
def test_a_decay_is_as_long_as_it_was_however_the_clock_is_set(demo, computer, ahead_h, said):
    run = demo.post("/api/jobs/2/runs/decay?isolated_by=Ida").json()["run"]
    read = "/jobs/2/runs/decay/reading"
    assert demo.post(read, data={"pa": "250 microns"}).status_code == 200
    computer.passed_s = 120
    computer.ahead_s = 3600 * ahead_h
    demo.post(read, data={"pa": "900 microns"})
    computer.passed_s = 300
    page = words(demo.post(read, data={"pa": "1500 microns"}))
    found = next(r for r in demo.get("/api/jobs/2").json()["runs"] if r["uid"] == run)
    assert [(r["t_s"], round(r["pa"] / 0.133322)) for r in found["readings"]] == [
        (0.0, 250),
        (120.0, 900),
        (300.0, 1500),
    ]
    assert said in page and demo.get("/api/jobs/2/calls").json()["evacuate"]["call"][
        "verdict"
    ] not in ("holds", "watch")
    computer.ahead_s = 0.0
    assert "clock was set" not in words(demo.get("/jobs/2/evacuate"))


def test_what_is_done_after_the_clock_was_set_back_comes_after_what_was_done(demo, computer):
    form = {"before_kg": "9.5 kg", "after_kg": "9.0 kg", "way": "in", "by": "Ida"}
    demo.post("/jobs/2/charge/weighings", data=form)
    computer.passed_s, computer.ahead_s = 60, -86_400
    demo.post("/jobs/2/charge/weighings", data=form | {"before_kg": "9.4 kg"})
    kept = [r for r in demo.get("/api/jobs/2").json()["records"] if r["kind"] == "weighing"]
    assert [r["at"] for r in kept[-2:]] == sorted(r["at"] for r in kept[-2:])
