"""Simulated instruments that read into runs: the micron gauge and the digital gauge."""

from dataclasses import dataclass
from typing import Any

from fairline.core.physics.constants import MICRON_PA, PSI_PA
from fairline.core.readings import VACUUM
from fairline.instruments import nitrogen, vacuum
from fairline.instruments.gauge import USUAL_SENSOR, Sensor

SAMPLING = ((1800.0, 1.0), (7200.0, 5.0))  # until so long into a run, a reading each so many s
SELDOM_S = 15.0


@dataclass
class Micron:
    """A micron gauge on the job's own volume and rig."""

    plant: vacuum.VacuumSystem
    seed: int
    sensor: Sensor = USUAL_SENSOR
    what: str = "micron"
    resolution: float = MICRON_PA
    kinds: tuple[str, ...] = VACUUM

    def __post_init__(self) -> None:
        self._run_s = 0.0
        self._gauge = vacuum.MicronGauge(self.plant, seed=self.seed, sensor=self.sensor)
        self._fresh = True

    @property
    def every_s(self) -> float:
        """Often at first, while much moves; seldom in a run that goes on for hours."""
        return next((every for until, every in SAMPLING if self._run_s < until), SELDOM_S)

    def begin(self, kind: str, last_pa: float | None) -> None:
        if self._fresh and last_pa is not None:
            # The gauge goes on a system that is under vacuum already.
            self.plant.air_pa, self.plant.vapour_pa = last_pa, 0.0
        self._fresh, self._run_s = False, 0.0
        if kind == "decay":
            self.plant.isolate()

    def after(self, seconds: float, kind: str) -> dict[str, Any] | None:
        self._run_s += seconds
        self.plant.advance(seconds, pumping=kind == "pull")
        seen = self._gauge.read_pa(seconds)
        return None if seen is None else {"pa": seen}


@dataclass
class Manometer:
    """A digital gauge and a pipe probe on a hold."""

    plant: nitrogen.NitrogenSystem
    seed: int
    sensor: Sensor = USUAL_SENSOR
    what: str = "manometer"
    resolution: float = 0.1 * PSI_PA
    kinds: tuple[str, ...] = ("hold",)
    every_s: float = 60.0

    def __post_init__(self) -> None:
        self._gauge = nitrogen.DigitalGauge(
            self.plant, seed=self.seed, resolution_pa=self.resolution, sensor=self.sensor
        )
        self._first = True

    def begin(self, kind: str, last_pa: float | None) -> None:
        self._first = True

    def after(self, seconds: float, kind: str) -> dict[str, Any] | None:
        if not self._first:
            self.plant.advance(seconds)
        self._first = False
        seen = self._gauge.read(seconds)
        return None if seen is None else {"gauge_pa": seen[0], "pipe_c": seen[1]}
