"""How long the tubes stood open, and what drying that and the last decay ask for.

A line set left taped for three weeks in a humid climate took in so much water that ice formed under
vacuum and the decay would not pass until it had been swept with nitrogen several times (common
practice, no source). The hours below are our own choice after it.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

from fairline.core.calc.vacuum_decay import TRIPLE_PA, VacuumDecayResult
from fairline.core.call import Answer, Verdict
from fairline.core.check import plural
from fairline.core.evacuate.records import Exposure, PumpEvent, What
from fairline.core.flare.records import JointRecord
from fairline.core.physics.constants import DAY_S, HOUR_S, MICRON_PA, MINUTE_S
from fairline.core.quantities import both, duration

WETTER = ("dry", "humid", "rain")
WET_SWEEPS = 3
# Time and weather both count: after how long in such weather, or wetter, how many sweeps are asked
# for. Open, and taped, which is no seal. From three weeks of tape in a humid climate, which asked
# for several; the rest is our own choice.
Steps = tuple[tuple[float, int], ...]
OPEN: dict[str, Steps] = {
    "dry": ((4 * HOUR_S, 1), (1 * DAY_S, 2), (4 * DAY_S, 3)),
    "humid": ((1 * HOUR_S, 1), (6 * HOUR_S, 2), (1 * DAY_S, 3)),
    "rain": ((0.0, 1), (10 * MINUTE_S, 2), (1 * HOUR_S, 3)),
}
TAPED: dict[str, Steps] = {
    "dry": ((1 * DAY_S, 1), (7 * DAY_S, 2), (21 * DAY_S, 3)),
    "humid": ((1 * DAY_S, 1), (3 * DAY_S, 2), (7 * DAY_S, 3)),
    "rain": ((12 * HOUR_S, 1), (1 * DAY_S, 2), (3 * DAY_S, 3)),
}
SWEEP_DWELL_S = 15 * MINUTE_S  # dry nitrogen at about the atmosphere; common practice, no source
SWEEP_PA = 1500 * MICRON_PA  # deep enough that free water boils; our own choice
WET_SHAPES = ("moisture", "leak_and_moisture", "ice")


@dataclass(frozen=True)
class OpenTime:
    """How long one run stood open and taped, in s, and the wettest weather meanwhile.

    ``pieces``: each stretch of it as state, weather and s; none where all was in ``weather``.
    ``since``: from when it stands so now, which is not counted yet, in the weather ``now``.
    """

    run: str
    open_s: float = 0.0
    taped_s: float = 0.0
    weather: str = "dry"
    since: datetime | None = None
    state: str = ""
    pieces: tuple[tuple[str, str, float], ...] = ()
    now: str = "dry"

    def in_weather(self, state: str, weather: str) -> float:
        """How long it stood so in this weather or a wetter one, s."""
        every = self.pieces or (
            ("opened", self.weather, self.open_s),
            ("taped", self.weather, self.taped_s),
        )
        wet = WETTER[WETTER.index(weather) :]
        return sum(span for of, then, span in every if of == state and then in wet)

    @property
    def rises(self) -> tuple["Rise", ...]:
        """When more sweeps are asked for, should it stand so on; the moments in order."""
        if self.since is None:
            return ()
        tables = OPEN if self.state == "opened" else TAPED
        asked, found = _sweeps(self), list[Rise]()
        for sweeps in range(asked + 1, WET_SWEEPS + 1):
            left = [
                limit_s - self.in_weather(self.state, weather)
                for weather in WETTER[: WETTER.index(self.now) + 1]
                for limit_s, count in tables[weather]
                if count >= sweeps
            ]
            at = self.since + timedelta(seconds=max(0.0, min(left)))
            if found and found[-1].at >= at:
                found.pop()
            found.append(Rise(at, sweeps))
        return tuple(found)


@dataclass(frozen=True)
class Rise:
    """From when on how many sweeps are asked for."""

    at: datetime
    sweeps: int


@dataclass(frozen=True)
class DryingStep:
    """One step: what is done, what it is ticked with, how long it takes, whether it is done."""

    words: str
    what: What | None
    for_s: float
    done: bool


@dataclass(frozen=True)
class DryingPlan:
    """Why, the steps in order, and how long what is left takes, in s."""

    reason: str
    steps: tuple[DryingStep, ...]
    oil_changes: int

    @property
    def left_s(self) -> float:
        return sum(step.for_s for step in self.steps if not step.done)

    @property
    def following(self) -> DryingStep | None:
        return next((step for step in self.steps if not step.done), None)


def open_times(
    exposures: Sequence[Exposure],
    joints: Iterable[JointRecord],
    sealed_at: Sequence[datetime],
) -> list[OpenTime]:
    """The open-to-air clock of every run: as it was typed, and as its joints tell.

    A run whose joints were made one after another stood open from the first to the last of them.
    ``sealed_at``: when nitrogen or vacuum was on the system. What still stands open is counted with
    the next word, nitrogen or vacuum; until then its clock runs on from ``since``.
    """
    found = []
    for run in sorted({e.run for e in exposures}):
        found.append(_typed(run, [e for e in exposures if e.run == run], sealed_at))
    by_run: dict[str, list[datetime]] = {}
    for joint in joints:
        by_run.setdefault(joint.place.split(".")[0], []).append(joint.at)
    typed_in = {s.run for s in found}
    for run, moments in sorted(by_run.items()):
        span = (max(moments) - min(moments)).total_seconds()
        if run not in typed_in and "all" not in typed_in and span > 0:
            found.append(OpenTime(run=run, open_s=span))
    return found


def _typed(run: str, own: Sequence[Exposure], sealed_at: Sequence[datetime]) -> OpenTime:
    own = sorted(own, key=lambda e: e.at)
    ends: list[datetime | None] = [b.at for _, b in pairwise(own)]
    ends.append(None)
    pieces, weather, now = list[tuple[str, str, float]](), "dry", "dry"
    since, state = None, ""
    for one, then in zip(own, ends, strict=True):
        until = min((s for s in sealed_at if s >= one.at), default=None)
        end = min((e for e in (then, until) if e is not None), default=None)
        if one.state not in ("opened", "taped"):
            continue
        said = one.weather or "dry"
        weather = max(weather, said, key=WETTER.index)
        if end is None:
            since, state, now = one.at, one.state, said
            continue
        pieces.append((one.state, said, max(0.0, (end - one.at).total_seconds())))
    open_s, taped_s = (
        sum(span for of, _, span in pieces if of == kind) for kind in ("opened", "taped")
    )
    return OpenTime(run, open_s, taped_s, weather, since, state, tuple(pieces), now)


def _sweeps(stood: OpenTime) -> int:
    """How many sweeps the time in the open asks for, by time and weather."""
    asked = (
        count
        for state, tables in (("opened", OPEN), ("taped", TAPED))
        for weather, steps in tables.items()
        for limit_s, count in steps
        if stood.in_weather(state, weather) > limit_s
    )
    return max(asked, default=0)


def _why(stood: OpenTime) -> str:
    where = "The lines" if stood.run == "all" else f"Run {stood.run}"
    parts = []
    if stood.open_s:
        rain = {"rain": ", in rain", "humid": ", in damp air"}.get(stood.weather, "")
        parts.append(f"open for {duration(stood.open_s)}{rain}")
    if stood.taped_s:
        parts.append(f"taped for {duration(stood.taped_s)}; tape is no seal")
    return f"{where} stood {' and '.join(parts)}."


def _wet(result: VacuumDecayResult) -> bool:
    """Whether a decay shows water; a slow rise far below where it boils may be a pocket's gas."""
    if result.shape == "leak_and_moisture" and result.end_pa < TRIPLE_PA:
        return False
    return result.shape in WET_SHAPES


def _why_wet(result: VacuumDecayResult) -> str:
    if result.shape == "moisture" and (result.plateau_pa or 0.0) < TRIPLE_PA:
        return (
            "The decay levels off below where free water boils: ice or water in oil may be in it."
        )
    return "The decay levels off: water or ice is in the system."


def _asked(
    stood: Sequence[OpenTime], answered: Answer[VacuumDecayResult] | None
) -> tuple[int, str, bool] | None:
    """How many sweeps, why, and whether a decay said so; None where a plain pull does."""
    if answered is not None and _wet(answered.result):
        return WET_SWEEPS, _why_wet(answered.result), True
    worst = max(stood, key=_sweeps, default=None)
    if worst is None or not _sweeps(worst):
        return None
    return _sweeps(worst), _why(worst), False


def _wanted(count: int, pull_s: float) -> list[tuple[str, What | None, float]]:
    """Every step in order: its words, what ticks it, and how long it takes (s)."""
    wanted: list[tuple[str, What | None, float]] = [("Change the pump oil", "oil", 5 * MINUTE_S)]
    if count > 1:
        words = "Warm the lines, the lowest parts and the heads first"
        wanted.append((words, "warmed", 20 * MINUTE_S))
    for n in range(1, count + 1):
        sweep = f"Sweep {n} of {count}" if count > 1 else "Sweep once"
        words = (
            f"{sweep}: pull below {both(SWEEP_PA, 'vacuum')}, break to nought on the gauge "
            f"with dry nitrogen, let it dwell for {duration(SWEEP_DWELL_S)}"
        )
        wanted.append((words, "sweep", SWEEP_DWELL_S + pull_s))
    return [*wanted, ("Fresh oil again, pull to the target, time the decay", None, pull_s)]


def drying_plan(
    stood: Sequence[OpenTime],
    answered: Answer[VacuumDecayResult] | None,
    decayed_at: datetime | None,
    events: Sequence[PumpEvent],
    pull_s: float | None,
) -> DryingPlan | None:
    """What drying is asked for; None where a plain pull does, or a decay holds.

    ``pull_s``: how long the rig takes for one pull, where it is known.
    """
    if answered is not None and answered.call.verdict is Verdict.HOLDS:
        return None
    asked = _asked(stood, answered)
    if asked is None:
        return None
    count, reason, wet = asked
    since = decayed_at if wet else None
    done = [e.what for e in events if since is None or e.at >= since]
    steps = []
    for words, what, span in _wanted(count, pull_s or 0.0):
        ticked = what is not None and what in done
        if what is not None and ticked:
            done.remove(what)
        steps.append(DryingStep(words, what, span, ticked))
    return DryingPlan(reason, tuple(steps), sum(e.what == "oil" for e in events))


MOST_TOLD = 3  # runs in one sentence


def open_time_words(stood: Sequence[OpenTime]) -> str:
    """What stood open, each run with its own time, the one that asks for most first; or blank."""
    every = [s for s in stood if s.open_s + s.taped_s]
    every.sort(key=lambda s: (_sweeps(s), s.open_s + s.taped_s), reverse=True)
    found = [_why(s) for s in every[:MOST_TOLD]]
    if more := len(every) - MOST_TOLD:
        found += [f"And {plural(more, 'other run')}."] if more > 0 else []
    return " ".join(found)
