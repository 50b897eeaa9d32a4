"""Simulated instruments as processes of their own: they read into a job as real ones would."""

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Protocol

from fairline.core.physics.constants import PSI_PA
from fairline.core.physics.vacuum_flow import Hose, Rig
from fairline.instruments import nitrogen, vacuum
from fairline.instruments.reporter import Reporter

TICK_S = 0.5  # of the wall clock
LONGEST_S = 4 * 3600.0  # of simulated time: a run ends by itself


class Instrument(Protocol):
    """What an instrument does in a while: the readings that fell due, without number and time."""

    kinds: tuple[str, ...]
    every_s: float

    def begin(self, kind: str) -> None: ...

    def after(self, seconds: float, kind: str) -> dict[str, Any]: ...


@dataclass
class Micron:
    """A micron gauge on the job's own volume and rig."""

    plant: vacuum.VacuumSystem
    seed: int
    kinds: tuple[str, ...] = ("pull", "decay")
    every_s: float = 1.0

    def __post_init__(self) -> None:
        self._gauge = vacuum.MicronGauge(self.plant, seed=self.seed)

    def begin(self, kind: str) -> None:
        if kind == "decay":
            self.plant.isolate()

    def after(self, seconds: float, kind: str) -> dict[str, Any]:
        self.plant.advance(seconds, pumping=kind == "pull")
        return {"pa": self._gauge.read_pa()}


@dataclass
class Manometer:
    """A digital gauge and a pipe probe on a hold."""

    plant: nitrogen.NitrogenSystem
    seed: int
    kinds: tuple[str, ...] = ("hold",)
    every_s: float = 60.0

    def __post_init__(self) -> None:
        self._gauge = nitrogen.DigitalGauge(self.plant, seed=self.seed)

    def begin(self, kind: str) -> None:
        pass

    def after(self, seconds: float, kind: str) -> dict[str, Any]:
        self.plant.advance(seconds)
        pressure, pipe = self._gauge.read()
        return {"gauge_pa": pressure, "pipe_c": pipe}


def micron(reporter: Reporter, scenario: vacuum.Scenario, seed: int) -> Micron:
    """A micron gauge for a job: its volume, rig and temperature, where they are known."""
    told = reporter.rig()
    rig = None
    if told["pump_m3_s"]:
        hoses = tuple(Hose(h["bore_mm"] / 1000, h["length_m"]) for h in told["hoses"])
        rig = Rig(told["pump_m3_s"], told["ultimate_pa"], hoses)
    plant = vacuum.system(scenario, told["ambient_c"], told["volume_m3"], rig)
    return Micron(plant, seed)


def manometer(
    reporter: Reporter, scenario: nitrogen.Scenario, seed: int, gauge_pa: float = 300 * PSI_PA
) -> Manometer:
    """A digital gauge for a job, filled to a pressure."""
    volume = reporter.rig()["volume_m3"] or nitrogen.NitrogenSystem(gauge_pa).volume_m3
    return Manometer(nitrogen.system(scenario, gauge_pa, volume), seed)


@dataclass
class Process:
    """An instrument at work on a job: it follows the newest run of its kinds, and catches up.

    ``speed``: seconds of the simulated system in one of the wall clock.
    """

    reporter: Reporter
    instrument: Instrument
    name: str
    speed: float = 1.0
    longest_s: float = LONGEST_S
    wait: Callable[[float], None] = time.sleep
    _run: str = ""
    _kind: str = ""
    _seq: int = 0
    _due_s: float = 0.0
    _at_s: float = 0.0
    simulated_s: float = field(default=0.0)

    def work(self) -> None:
        """Until the longest time is over, and all that was read is with the job."""
        while self.simulated_s < self.longest_s:
            self.tick(TICK_S)
            self.wait(TICK_S)
        while not self.reporter.send():
            self.wait(TICK_S)

    def tick(self, seconds: float) -> None:
        """Let a while of the wall clock pass. Without an answer the instrument reads on."""
        self._follow()
        if not self._run:
            return
        self._due_s += seconds * self.speed
        while self._due_s >= self.instrument.every_s:
            self._due_s -= self.instrument.every_s
            self._at_s += self.instrument.every_s
            self.simulated_s += self.instrument.every_s
            read = self.instrument.after(self.instrument.every_s, self._kind)
            numbered = {"instrument": self.name, "seq": self._seq, "t_s": self._at_s}
            self.reporter.take(self._run, numbered | read | {"simulated": True})
            self._seq += 1
        self.reporter.send()

    def _follow(self) -> None:
        """The newest run of its kinds; without an answer it stays at the one it knows."""
        try:
            runs = self.reporter.runs()
        except OSError:
            return
        mine = [run for run in runs if run.kind in self.instrument.kinds]
        if mine and mine[-1].uid != self._run:
            self._run, self._kind = mine[-1].uid, mine[-1].kind
            self._seq, self._at_s, self._due_s = 0, 0.0, 0.0
            self.instrument.begin(self._kind)
